// Which lines of which files changes come from: kept through whatever happens to what is staged, in receipts, and told
// when the same file comes again.
#include "core/changes/file_origin.h"

#include <gtest/gtest.h>

#include <random>

#include "core/base/digest.h"
#include "core/changes/after_apply.h"
#include "core/changes/gesture_from_list.h"
#include "core/changes/part_of_changes.h"
#include "core/store/applied_lines.h"
#include "core/store/record_history.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

const SourceFile kList{"list.csv", "d1", "line"};
const SourceFile kBook{"book.xlsx", "d2", "row"};

// Edits of column `column` of the records `ids`, each from the line that has its number.
Gesture fromFile(const SourceFile& file, const std::string& column, const std::vector<int>& ids, std::int64_t to) {
  Gesture out;
  out.title = "from " + file.name;
  out.files = {file};
  GesturePart part;
  part.table = {"", "tree"};
  part.keyColumns = {"tree_id"};
  part.keys.resize(1);
  part.column = column;
  for (const int id : ids) {
    part.keys[0].push(Value::integer(id));
    part.from.push(Value::integer(0));
    part.to.push(Value::integer(to));
    part.origins.push_back({1, static_cast<std::uint32_t>(id), false});
  }
  out.parts.push_back(std::move(part));
  return out;
}
Gesture byHand(const std::string& column, const std::vector<int>& ids, std::int64_t to) {
  Gesture out = fromFile(kList, column, ids, to);
  out.files.clear();
  out.parts[0].origins.clear();
  return out;
}
Gesture putBack(const std::vector<int>& ids) {
  Gesture out = byHand("", ids, 0);
  out.parts[0].kind = GesturePart::Kind::PutBack;
  out.parts[0].from = {};
  out.parts[0].to = {};
  return out;
}

// "7 line 7 of list.csv; 8": each record and where it comes from.
std::string told(const ChangeSet& set) {
  std::string out;
  const ChangeList list = set.toChangeList("");
  for (const auto& [index, change] : list.inOrder()) {
    const std::string origin = list.origins.inWords(index);
    out += (out.empty() ? "" : "; ") + (change.key.empty() ? "new" : canonicalText(change.key[0])) +
           (origin.empty() ? "" : " ") + origin;
  }
  return out;
}

TEST(FileOrigin, OfARecordItIsTheLineThatSpokeOfItLast) {
  ChangeSet set;
  set.apply(byHand("a", {1, 2}, 5));
  set.apply(fromFile(kList, "b", {2, 3}, 6));
  EXPECT_EQ("1; 2 line 2 of list.csv; 3 line 3 of list.csv", told(set));
  set.apply(byHand("a", {3}, 7));
  set.apply(fromFile(kBook, "c", {2}, 8));
  EXPECT_EQ("1; 2 row 2 of book.xlsx; 3 line 3 of list.csv, and by hand", told(set));
  set.undo();
  set.undo();
  EXPECT_EQ("1; 2 line 2 of list.csv; 3 line 3 of list.csv", told(set));
  // What is put back has nothing to do with the file any more, whatever is done to it then.
  set.apply(putBack({3}));
  set.apply(byHand("a", {3}, 7));
  EXPECT_EQ("1; 2 line 2 of list.csv; 3", told(set));
  // And neither has what a file says that is so already.
  set.apply(putBack({1, 2, 3}));
  set.apply(fromFile(kList, "b", {9}, 0));
  set.apply(byHand("a", {9}, 1));
  EXPECT_EQ("9", told(set));
}

TEST(FileOrigin, ANewRecordKnowsItsLineToo) {
  ChangeList list;
  list.origins.files = {kList};
  for (const std::uint32_t line : {4U, 9U}) {
    Change change;
    change.action = Action::Add;
    change.table = {"", "species"};
    change.cells = {{"name", false, {}, Value::text("x" + std::to_string(line))}};
    list.origins.note(list.count(), {1, line, false});
    list.add(change);
  }
  TestDatabase db(kSmallRegister);
  auto gesture = gestureFrom(db.catalogue(), list, 1);
  ASSERT_TRUE(gesture);
  ChangeSet set;
  set.apply(gesture->gesture);
  EXPECT_EQ("new line 4 of list.csv; new line 9 of list.csv", told(set));
  GesturePart edit;
  edit.kind = GesturePart::Kind::EditAdded;
  edit.table = {"", "species"};
  edit.column = "name";
  edit.addedIds = {2};
  edit.to.push(Value::text("y"));
  set.apply({"by hand", {edit}});
  EXPECT_EQ("new line 4 of list.csv; new line 9 of list.csv, and by hand", told(set));
}

// Kept and read again; in two parts; behind something that was applied: the lines are the same.
TEST(FileOrigin, NothingThatHappensToWhatIsStagedLosesALine) {
  TestDatabase db(kSmallRegister);
  std::mt19937 random(20261128);
  const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
  for (int round = 0; round < 60; ++round) {
    ChangeSet set;
    ChangeSet kept;
    std::vector<Gesture> gestures;
    const int count = 1 + pick(8);
    for (int g = 0; g < count; ++g) {
      std::vector<int> ids;
      for (int id = 7; id <= 9; ++id) {
        if (pick(2) == 0) ids.push_back(id);
      }
      if (ids.empty()) continue;
      const std::string column = pick(2) == 0 ? "condition" : "height";
      const int kind = pick(4);
      Gesture gesture = kind == 0   ? byHand(column, ids, 100 + g)
                        : kind == 1 ? fromFile(kBook, column, ids, 100 + g)
                        : kind == 2 ? putBack(ids)
                                    : fromFile(kList, column, ids, 100 + g);
      auto again = unpackGesture(packGesture(gesture));
      ASSERT_TRUE(again);
      gestures.push_back(*again);
      set.apply(gesture);
      kept.apply(*again);
    }
    ASSERT_EQ(told(set), told(kept));
    // Each record by itself, as a part that is applied first: with what it comes to it keeps its line.
    const ChangeList list = set.toChangeList("");
    for (const auto& [index, change] : list.inOrder()) {
      const SplitChanges split = splitChanges(db.catalogue(), set, {{index, {}}});
      ChangeSet part;
      part.apply(split.part);
      const ChangeList alone = part.toChangeList("");
      ASSERT_EQ(1U, alone.inOrder().size());
      ASSERT_EQ(list.origins.inWords(index), alone.origins.inWords(alone.inOrder()[0].first));
      ChangeSet rest;
      rest.apply(split.rest);
      const ChangeList others = rest.toChangeList("");
      for (const auto& [i, other] : others.inOrder()) {
        for (const auto& [j, one] : list.inOrder()) {
          if (sameTuple(one.key, other.key)) {
            ASSERT_EQ(list.origins.inWords(j), others.origins.inWords(i));
          }
        }
      }
    }
    if (gestures.empty()) continue;
    // The first gesture was applied: what is staged behind it comes from where it came.
    ChangeSet applied;
    applied.apply(gestures[0]);
    for (std::size_t g = 1; g < gestures.size(); ++g) {
      const Gesture now = afterApply(applied, {}, gestures[g]);
      ASSERT_EQ(gestures[g].files, now.files);
      for (std::size_t p = 0; p < now.parts.size(); ++p) ASSERT_EQ(gestures[g].parts[p].origins, now.parts[p].origins);
    }
  }
}

TEST(FileOrigin, WhatComesFromNoFileIsKeptAsBefore) {
  EXPECT_EQ(1, packGesture(byHand("a", {1}, 2))[0]) << "an older program reads it too";
  std::string packed = packGesture(fromFile(kList, "a", {1, 2}, 2));
  EXPECT_EQ(2, packed[0]);
  for (std::size_t cut = 0; cut < packed.size(); ++cut) {
    EXPECT_FALSE(unpackGesture(std::string_view(packed).substr(0, cut))) << cut;
  }
  // Damage is an error or another value, never a crash nor a line of a file that is not there.
  std::mt19937 random(7);
  for (int round = 0; round < 4000; ++round) {
    std::string damaged = packed;
    damaged[random() % damaged.size()] = static_cast<char>(random());
    const auto read = unpackGesture(damaged);
    if (!read) continue;
    for (const GesturePart& part : read->parts) {
      for (const LineOrigin& origin : part.origins) ASSERT_LE(origin.file, read->files.size());
    }
  }
}

class FileOriginTest : public EngineTest {
 protected:
  // Stages, applies and keeps the receipt, as the window does.
  Receipt apply(const ChangeSet& set, Store& store) {
    Progress progress;
    const auto applied = applyChanges(db.session(), db.catalogue(), set.toChangeList("corrections"), {}, progress);
    EXPECT_TRUE(applied && applied->receipt) << (applied ? "blocked" : applied.error().text());
    if (!applied || !applied->receipt) return {};
    const auto id = store.keepReceipt(*applied->receipt);
    EXPECT_TRUE(id && store.confirmReceipt(*id));
    return *applied->receipt;
  }
  TestDatabase db{smallRegister(GetParam()), GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(FileOriginTest);

TEST_P(FileOriginTest, ReceiptsSayWhichLinesWereApplied) {
  auto store = Store::open(db.file("store.sqlite"));
  ASSERT_TRUE(store);
  ChangeSet set;
  Gesture gesture = fromFile(kList, "condition", {7, 8}, 3);
  gesture.parts[0].from = {};
  gesture.parts[0].from.push(Value::integer(2));
  gesture.parts[0].from.push(Value::integer(2));
  set.apply(gesture);
  const Receipt receipt = apply(set, **store);
  const auto lines = appliedLines(**store, receipt.database, "d1");
  ASSERT_TRUE(lines) << lines.error().text();
  ASSERT_EQ(2U, lines->size());
  EXPECT_EQ(receipt.appliedAt, lines->at(7).at);
  EXPECT_FALSE(lines->at(7).wasSo);
  EXPECT_TRUE(appliedLines(**store, receipt.database, "d2")->empty());
  EXPECT_TRUE(appliedLines(**store, "elsewhere", "d1")->empty());
  // As a document, and back.
  const std::string json = receiptJson(receipt);
  EXPECT_NE(std::string::npos, json.find(R"("source": {"file": "list.csv", "line": 7, "digest": "d1"})")) << json;
  const auto read = readReceiptJson(json);
  ASSERT_TRUE(read) << read.error().text();
  EXPECT_EQ(json, receiptJson(*read));
  // The record's own history has it.
  const NamedRecord tree{{"", "tree"}, {"tree_id"}, {Value::integer(8)}};
  std::vector<std::string> origins;
  ASSERT_TRUE(eachRecordChange(
      **store, receipt.database, &tree,
      [&](RecordChange&& change) {
        origins.push_back(change.origin);
        return true;
      },
      [](const KeptReceipt&, const std::string&) {}));
  EXPECT_EQ(std::vector<std::string>{"line 8 of list.csv"}, origins);
  // Staged and applied once more, nothing had to be written: what counts is when it was.
  ChangeSet again;
  again.apply(gesture);
  const Receipt second = apply(again, **store);
  ASSERT_EQ(0U, second.appliedCount());
  EXPECT_FALSE(appliedLines(**store, receipt.database, "d1")->at(7).wasSo);
}

TEST(FileOrigin, AReceiptThatSaysUnreasonableThingsOfAFileIsRefused) {
  const auto read = [](const std::string& source) {
    return readReceiptJson(R"({"format": "iterandum-receipt", "version": 1, "applied_at": "", "applied_by": "",
      "database": "", "title": "", "results": [{"change": 4000000000, "action": "edit", "table": "t", "key": {"id": 1},
      "outcome": "applied", "source": )" +
                           source + R"(, "before": {"id": 1}, "after": {"id": 1}}]})");
  };
  EXPECT_FALSE(read("7"));
  EXPECT_FALSE(read(R"({"file": 7})"));
  EXPECT_FALSE(read(R"({"file": "x", "line": "7"})"));
  const auto huge = read(R"({"file": "x", "line": 7, "digest": "d"})");
  ASSERT_TRUE(huge) << huge.error().text();
  EXPECT_FALSE(huge->origins.any()) << "a number that no change set has asks for no room";
}

TEST(Digest, IsTheOneThatOtherProgramsCompute) {
  EXPECT_EQ("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad", sha256Hex("abc"));
  EXPECT_EQ("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855", sha256Hex(""));
}

}  // namespace
}  // namespace iterandum::test
