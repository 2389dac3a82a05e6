// The change set: composition of gestures, undo and redo, and that it always is what its gestures amount to.
#include "core/changes/change_set.h"

#include <gtest/gtest.h>

#include <map>
#include <random>

#include "core/changes/change_file.h"

namespace iterandum::test {
namespace {

const TableName kTree{"", "tree"};

GesturePart part(GesturePart::Kind kind, std::int64_t key) {
  GesturePart p;
  p.kind = kind;
  p.table = kTree;
  p.keyColumns = {"id"};
  p.keys = {ValueColumn(1, Value::integer(key))};
  return p;
}

Gesture edit(std::int64_t key, const std::string& column, Value from, Value to) {
  GesturePart p = part(GesturePart::Kind::Edit, key);
  p.column = column;
  p.from = ValueColumn(1, std::move(from));
  p.to = ValueColumn(1, std::move(to));
  return {"edit", {p}};
}

Gesture remove(std::int64_t key) {
  GesturePart p = part(GesturePart::Kind::Remove, key);
  p.recordColumns = {"id"};
  p.records = {ValueColumn(1, Value::integer(key))};
  return {"remove", {p}};
}

Gesture added(GesturePart::Kind kind, std::uint64_t id, const std::string& column = {}, Value to = {}) {
  GesturePart p;
  p.kind = kind;
  p.table = kTree;
  p.addedIds = {id};
  p.column = column;
  if (kind == GesturePart::Kind::EditAdded) p.to.push(std::move(to));
  return {"added", {p}};
}

std::string staged(const ChangeSet& set) {
  std::string out;
  for (const auto& [index, c] : set.toChangeList("").inOrder()) {
    out += (out.empty() ? "" : "; ") + std::string(actionName(c.action)) +
           (c.key.empty() ? "" : " " + canonicalText(c.key[0]));
    for (const CellChange& cell : c.cells) {
      if (c.action == Action::Edit)
        out += " " + cell.column + ":" + canonicalText(cell.from) + "->" + canonicalText(cell.to);
      if (c.action == Action::Add) out += " " + cell.column + "=" + canonicalText(cell.to);
    }
  }
  return out;
}

TEST(ChangeSetTest, ACellKeepsWhatItHeldAtFirstAndBackToThatIsNoChange) {
  ChangeSet set;
  set.apply(edit(7, "grade", Value::integer(2), Value::integer(3)));
  set.apply(edit(7, "grade", Value::integer(99), Value::integer(4)));
  EXPECT_EQ("edit 7 grade:2->4", staged(set));
  set.apply(edit(7, "grade", Value::integer(2), Value::integer(2)));
  EXPECT_EQ("", staged(set));
  EXPECT_TRUE(set.empty());
}

TEST(ChangeSetTest, RemovalHidesEditsAndPuttingBackClearsBoth) {
  ChangeSet set;
  set.apply(edit(7, "grade", Value::integer(2), Value::integer(3)));
  set.apply(remove(7));
  EXPECT_EQ("remove 7", staged(set));
  EXPECT_EQ(0U, set.counts().cells);
  EXPECT_EQ(1U, set.counts().removed);
  set.apply({"back", {part(GesturePart::Kind::PutBack, 7)}});
  EXPECT_EQ("", staged(set));
  set.undo();
  set.undo();
  EXPECT_EQ("edit 7 grade:2->3", staged(set));
}

TEST(ChangeSetTest, ANewRecordThatIsDroppedIsNothing) {
  ChangeSet set;
  set.apply(added(GesturePart::Kind::Add, set.nextAddedId()));
  set.apply(added(GesturePart::Kind::EditAdded, 1, "tag", Value::text("T")));
  EXPECT_EQ("add tag=T", staged(set));
  set.apply(added(GesturePart::Kind::DropAdded, 1));
  EXPECT_TRUE(set.empty());
  EXPECT_EQ(2U, set.nextAddedId()) << "an id is never given twice";
}

TEST(ChangeSetTest, OnlyNewRecordsThatArePointedAtGetLabels) {
  ChangeSet set;
  set.apply(added(GesturePart::Kind::Add, 1));
  set.apply(added(GesturePart::Kind::Add, 2));
  set.apply(edit(7, "species", Value::integer(1), Value::pendingKey(addedLabel(2))));
  const std::string json = writeChangeFile(set.toChangeList(""));
  EXPECT_EQ(std::string::npos, json.find("new-1"));
  EXPECT_NE(std::string::npos, json.find(R"("label": "new-2")"));
}

TEST(ChangeSetTest, KeepingMineMovesTheGuardOnly) {
  ChangeSet set;
  set.apply(edit(7, "grade", Value::integer(2), Value::integer(3)));
  GesturePart p = part(GesturePart::Kind::KeepMine, 7);
  p.column = "grade";
  p.from = ValueColumn(1, Value::integer(4));
  set.apply({"mine", {p}});
  EXPECT_EQ("edit 7 grade:4->3", staged(set));
}

TEST(ChangeSetTest, AGestureAfterUndoDropsWhatWasUndone) {
  ChangeSet set;
  set.apply(edit(1, "a", Value(), Value::integer(1)));
  set.apply(edit(2, "a", Value(), Value::integer(1)));
  EXPECT_TRUE(set.undo());
  set.apply(edit(3, "a", Value(), Value::integer(1)));
  EXPECT_FALSE(set.redo());
  EXPECT_EQ("edit 1 a:->1; edit 3 a:->1", staged(set));
}

// Random gestures, undos and redos against a plain map, and against a change set that was packed, kept and restored.
TEST(ChangeSetTest, RandomGesturesAgreeWithAPlainMap) {
  for (unsigned seed = 0; seed < 60; ++seed) {
    SCOPED_TRACE(seed);
    std::mt19937 random(seed);
    ChangeSet set;
    struct Model {
      std::map<std::int64_t, std::map<std::string, std::int64_t>> edits;
      std::set<std::int64_t> removed;
    };
    std::vector<Model> history{Model()};
    std::vector<std::string> packed;
    std::size_t at = 0;
    for (int step = 0; step < 200; ++step) {
      const std::int64_t key = static_cast<std::int64_t>(random() % 12);
      const std::string column(1, static_cast<char>('a' + random() % 3));
      const unsigned choice = random() % 10;
      Model next = history[at];
      Gesture gesture;
      if (choice == 0 && at > 0) {
        set.undo();
        --at;
        continue;
      }
      if (choice == 1 && at + 1 < history.size()) {
        set.redo();
        ++at;
        continue;
      }
      if (choice == 2) {
        gesture = remove(key);
        next.removed.insert(key);
      } else if (choice == 3) {
        gesture = {"back", {part(GesturePart::Kind::PutBack, key)}};
        next.removed.erase(key);
        next.edits.erase(key);
      } else {
        // The database holds 0 everywhere.
        const std::int64_t to = static_cast<std::int64_t>(random() % 3);
        gesture = edit(key, column, Value::integer(0), Value::integer(to));
        if (to == 0) {
          next.edits[key].erase(column);
        } else {
          next.edits[key][column] = to;
        }
      }
      history.resize(at + 1);
      history.push_back(std::move(next));
      packed.resize(at);
      packed.push_back(packGesture(gesture));
      set.apply(std::move(gesture));
      ++at;
    }
    const auto text = [](const Model& m) {
      std::set<std::string> lines;
      for (const auto& [key, cells] : m.edits) {
        if (m.removed.contains(key)) continue;
        for (const auto& [column, to] : cells) lines.insert(std::to_string(key) + column + std::to_string(to));
      }
      for (const std::int64_t key : m.removed) lines.insert(std::to_string(key) + "-");
      return lines;
    };
    const auto lines = [](const ChangeSet& s) {
      std::set<std::string> out;
      for (const auto& [index, c] : s.toChangeList("").inOrder()) {
        if (c.action == Action::Remove) out.insert(canonicalText(c.key[0]) + "-");
        for (const CellChange& cell : c.cells) {
          if (c.action == Action::Edit) out.insert(canonicalText(c.key[0]) + cell.column + canonicalText(cell.to));
        }
      }
      return out;
    };
    ASSERT_EQ(text(history[at]), lines(set));
    std::vector<Gesture> gestures;
    for (const std::string& bytes : packed) gestures.push_back(*unpackGesture(bytes));
    ChangeSet restored;
    restored.restore(std::move(gestures), set.position());
    ASSERT_EQ(lines(set), lines(restored));
    ASSERT_EQ(set.counts().cells, restored.counts().cells);
    ASSERT_EQ(text(history[at]).size(), set.counts().cells + set.counts().removed);
  }
}

TEST(ChangeSetTest, AMillionCellsInOneGestureTakeLittleRoom) {
  ChangeSet set;
  GesturePart p = part(GesturePart::Kind::Edit, 0);
  p.keys.assign(1, {});
  p.column = "grade";
  constexpr int kCount = 1000000;
  for (int i = 0; i < kCount; ++i) {
    p.keys[0].push(Value::integer(i));
    p.from.push(Value::integer(i % 5));
  }
  p.to = ValueColumn(kCount, Value::integer(9));
  set.apply({"all", {p}});
  EXPECT_EQ(static_cast<std::uint64_t>(kCount), set.counts().cells);
  EXPECT_GT(64U * kCount, set.memoryBytes());
}

TEST(GestureTest, DamagedBytesAreAnError) {
  const std::string packed =
      packGesture(edit(7, "grade", Value::integer(2), Value::text("a longer text that does not lie inline")));
  ASSERT_TRUE(unpackGesture(packed).has_value());
  for (std::size_t size = 0; size < packed.size(); ++size)
    EXPECT_FALSE(unpackGesture(std::string_view(packed).substr(0, size)).has_value()) << size;
}

}  // namespace
}  // namespace iterandum::test
