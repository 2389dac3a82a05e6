// A part of what is staged: over random schemas and random change sets, a part and then the rest come to the same as
// all at once; what a part needs comes along; nothing is lost when a part is applied.
#include <cstdlib>
#include <set>

#include "core/apply/applied_additions.h"
#include "core/apply/receipt.h"
#include "core/changes/change_file.h"
#include "core/changes/part_of_changes.h"
#include "support/random_world.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

unsigned rounds(Engine engine) {
  if (const char* wish = std::getenv("ITERANDUM_RANDOM_ROUNDS")) return static_cast<unsigned>(std::atoi(wish));
  return engine == Engine::Sqlite ? 400 : 40;
}
unsigned firstSeed() {
  const char* wish = std::getenv("ITERANDUM_RANDOM_SEED");
  return wish == nullptr ? 1 : static_cast<unsigned>(std::atoi(wish));
}

// The changes as a person would have staged them, one after the other.
ChangeSet stagedFrom(const ChangeList& list) {
  ChangeSet out;
  std::map<std::string, std::uint64_t> ids;
  std::uint64_t next = 1;
  const auto all = list.inOrder();
  for (const auto& [index, change] : all) {
    if (change.action == Action::Add && !change.label.empty()) ids[change.label] = next;
    if (change.action == Action::Add) ++next;
  }
  next = 1;
  for (const auto& [index, change] : all) {
    Gesture gesture;
    GesturePart part;
    part.table = change.table;
    if (change.action == Action::Add) {
      part.kind = GesturePart::Kind::Add;
      part.addedIds = {next};
      gesture.parts.push_back(part);
    } else {
      part.keyColumns = change.keyColumns;
      for (const Value& v : change.key) part.keys.emplace_back(1, v);
    }
    if (change.action == Action::Remove) {
      part.kind = GesturePart::Kind::Remove;
      for (const CellChange& cell : change.cells) {
        part.recordColumns.push_back(cell.column);
        part.records.emplace_back(1, cell.from);
      }
      gesture.parts.push_back(part);
    } else {
      for (const CellChange& cell : change.cells) {
        GesturePart edit = part;
        edit.kind = change.action == Action::Add ? GesturePart::Kind::EditAdded : GesturePart::Kind::Edit;
        edit.column = cell.column;
        if (change.action == Action::Edit) edit.from = ValueColumn(1, cell.from);
        const bool pending = cell.to.kind() == Value::Kind::PendingKey;
        edit.to =
            ValueColumn(1, pending ? Value::pendingKey(addedLabel(ids[std::string(cell.to.asString())])) : cell.to);
        gesture.parts.push_back(std::move(edit));
      }
    }
    if (change.action == Action::Add) ++next;
    out.apply(std::move(gesture));
  }
  return out;
}

std::multiset<std::string> saidBy(const ChangeSet& changes) {
  std::multiset<std::string> out;
  for (const auto& [index, change] : changes.toChangeList("").inOrder()) {
    ChangeList one;
    one.add(change);
    out.insert(writeChangeFile(one));
  }
  return out;
}

class PartOfChangesTest : public EngineTest {
 protected:
  [[nodiscard]] std::string stateOf(const World& world) const { return textOf(worldIn(db, world)); }
  [[nodiscard]] Result<ApplyResult> apply(const ChangeList& list) {
    Progress progress;
    return applyChanges(db.session(), db.catalogue(), list, {}, progress);
  }
  void takeBack(const Receipt& receipt) {
    const auto back = apply(revertReceipt(receipt).changes);
    ASSERT_TRUE(back && back->receipt) << (back ? findingsText(back->review) : back.error().text());
  }
  // What was picked, and what came along: "edit 2 code; add 3".
  static std::string along(const ChangeSet& changes, const SplitChanges& split) {
    std::string out;
    const auto all = changes.toChangeList("").inOrder();
    for (const PickedChange& one : split.along) {
      const auto at =
          std::find_if(all.begin(), all.end(), [&](const auto& change) { return change.first == one.change; });
      out += (out.empty() ? "" : "; ") + std::string(actionName(at->second.action)) + " " + at->second.table.name;
      for (const Value& key : at->second.key) out += " " + canonicalText(key);
      if (!one.column.empty()) out += " " + one.column;
    }
    return out;
  }
  static std::vector<PickedChange> pick(const ChangeSet& changes, const std::string& table, const std::string& column) {
    std::vector<PickedChange> out;
    for (const auto& [index, change] : changes.toChangeList("").inOrder()) {
      if (change.table.name != table) continue;
      if (change.action != Action::Edit && column == actionName(change.action)) out.push_back({index, {}});
      for (const CellChange& cell : change.cells) {
        if (change.action == Action::Edit && cell.column == column) out.push_back({index, column});
      }
    }
    return out;
  }

  void one(const World& world, const std::vector<WorldChange>& steps, std::mt19937& random) {
    SCOPED_TRACE(linesOf(world, steps));
    const std::string start = textOf(world);
    const auto wanted = wantedAfter(world, steps);
    const ChangeSet all = stagedFrom(TestDatabase::changes(linesOf(world, steps)));
    std::vector<PickedChange> picked;
    std::string said;
    for (const auto& [index, change] : all.toChangeList("").inOrder()) {
      if (change.action != Action::Edit && random() % 3 == 0) picked.push_back({index, {}});
      for (const CellChange& cell : change.cells) {
        if (change.action == Action::Edit && random() % 3 == 0) picked.push_back({index, cell.column});
      }
    }
    for (const PickedChange& p : picked) said += std::to_string(p.change) + " " + p.column + "; ";
    SCOPED_TRACE("picked " + said);
    const SplitChanges split = splitChanges(db.catalogue(), all, picked);
    ChangeSet both;
    both.apply(split.part);
    const ChangeList part = both.toChangeList("part");
    const auto ids = additionsByChange(both, part);
    both.apply(split.rest);
    ASSERT_EQ(saidBy(all), saidBy(both)) << "the two come to the same";
    if (!wanted || part.empty()) return;
    const auto first = apply(part);
    ASSERT_TRUE(first) << first.error().text();
    if (!first->receipt) {
      ++partRefused;
      ASSERT_EQ(start, stateOf(world));
      return;
    }
    both.forgetApplied(1, appliedAdditions(*first->receipt, ids));
    const ChangeList left = both.toChangeList("rest");
    const auto second = left.empty() ? Result<ApplyResult>(ApplyResult{}) : apply(left);
    ASSERT_TRUE(second) << second.error().text();
    if (!left.empty() && !second->receipt) {
      ++restRefused;
      reasons += findingsText(second->review) + "\n" + linesOf(world, steps) + "picked " + said + "\n";
    } else {
      ++done;
      ASSERT_EQ(textOf(*wanted), stateOf(world)) << "a part and then the rest";
    }
    if (second->receipt) takeBack(*second->receipt);
    takeBack(*first->receipt);
    ASSERT_EQ(start, stateOf(world));
  }

  TestDatabase db{{}, GetParam()};
  unsigned done = 0;
  unsigned partRefused = 0;
  unsigned restRefused = 0;
  std::string reasons;
};
ITERANDUM_ON_ALL_ENGINES(PartOfChangesTest);

TEST_P(PartOfChangesTest, APartAndThenTheRestComeToTheSameAsAllAtOnce) {
  constexpr unsigned kOfASchema = 10;
  const unsigned schemas = std::max(1U, rounds(GetParam()) / kOfASchema);
  for (unsigned seed = firstSeed(); seed < firstSeed() + schemas && !HasFailure(); ++seed) {
    SCOPED_TRACE("ITERANDUM_RANDOM_SEED=" + std::to_string(seed) + " ITERANDUM_RANDOM_ROUNDS=10");
    RandomWorld random(seed, GetParam());
    std::mt19937 picks(seed);
    const World world = random.world();
    SCOPED_TRACE(sqlOf(world, GetParam()));
    db.empty();
    db.run(sqlOf(world, GetParam()));
    for (unsigned i = 0; i < kOfASchema && !HasFailure(); ++i) one(world, random.changes(world), picks);
  }
  std::cout << done << " came to the same, of " << partRefused << " the part was refused, of " << restRefused
            << " the rest\n";
  if (std::getenv("ITERANDUM_RANDOM_SHOW") != nullptr) std::cout << reasons;
  EXPECT_GT(done, (partRefused + restRefused) * 2) << reasons;
}

TEST_P(PartOfChangesTest, WhatAPartNeedsComesAlong) {
  const std::string text = GetParam() == Engine::MariaDb ? "VARCHAR(20)" : "TEXT";
  db.run("CREATE TABLE kind (kind_id INTEGER PRIMARY KEY, code " + text +
         " UNIQUE);"
         "CREATE TABLE plant (plant_id INTEGER PRIMARY KEY, kind_id INTEGER, note " +
         text +
         ", FOREIGN KEY (kind_id) REFERENCES kind (kind_id));"
         "INSERT INTO kind VALUES (1, 'a'), (2, 'b'), (3, 'c');"
         "INSERT INTO plant VALUES (1, 1, 'x'), (2, 2, 'y'), (3, 3, 'z')");
  const ChangeSet all =
      stagedFrom(TestDatabase::changes("edit kind kind_id=1 code:\"a\"->\"b\"\n"
                                       "edit kind kind_id=2 code:\"b\"->\"d\"\n"
                                       "edit plant plant_id=1 note:\"x\"->\"seen\"\n"
                                       "edit plant plant_id=3 kind_id:3->1\n"
                                       "remove kind kind_id=3 code:\"c\"\n"
                                       "edit plant plant_id=2 note:\"y\"->\"seen\"\n"));
  const auto of = [&](const char* table, const char* what) {
    return along(all, splitChanges(db.catalogue(), all, pick(all, table, what)));
  };
  EXPECT_EQ("", of("plant", "note")) << "nothing else is needed";
  EXPECT_EQ("edit plant 3 kind_id", of("kind", "remove")) << "what points at what is removed goes first";
  EXPECT_EQ("", of("plant", "kind_id"));
  // One of two that pass a value on takes the other along.
  std::vector<PickedChange> first = pick(all, "kind", "code");
  ASSERT_EQ(2U, first.size());
  first.pop_back();
  EXPECT_EQ("edit kind 2 code", along(all, splitChanges(db.catalogue(), all, first)));
  // What is left is staged still, and right.
  const SplitChanges split = splitChanges(db.catalogue(), all, pick(all, "plant", "note"));
  ChangeSet both;
  both.apply(split.part);
  const ChangeList part = both.toChangeList("");
  both.apply(split.rest);
  const auto applied = apply(part);
  ASSERT_TRUE(applied && applied->receipt);
  EXPECT_EQ("1|1|seen\n2|2|seen\n3|3|z", db.rows("SELECT * FROM plant ORDER BY 1"));
  both.forgetApplied(1, {});
  EXPECT_EQ(4U, both.counts().records());
  const auto rest = apply(both.toChangeList(""));
  ASSERT_TRUE(rest && rest->receipt);
  EXPECT_EQ("1|1|seen\n2|2|seen\n3|1|z", db.rows("SELECT * FROM plant ORDER BY 1"));
  EXPECT_EQ("1|b\n2|d", db.rows("SELECT * FROM kind ORDER BY 1"));
}

TEST_P(PartOfChangesTest, NewRecordsThatArePointedAtComeAlongAndAreKnownAfterwards) {
  db.run(smallRegister(GetParam()));
  const ChangeSet all = stagedFrom(
      TestDatabase::changes("add species name=\"yew\" @s\nedit tree tree_id=7 species_id:1->{\"ref\":\"s\"}\n"
                            "edit tree tree_id=8 species_id:1->{\"ref\":\"s\"} note:null->\"n\"\n"));
  std::vector<PickedChange> picked = pick(all, "tree", "species_id");
  ASSERT_EQ(2U, picked.size());
  picked.pop_back();
  const SplitChanges split = splitChanges(db.catalogue(), all, picked);
  EXPECT_EQ("add species", along(all, split));
  ChangeSet both;
  both.apply(split.part);
  const ChangeList part = both.toChangeList("");
  const auto ids = additionsByChange(both, part);
  both.apply(split.rest);
  const auto applied = apply(part);
  ASSERT_TRUE(applied && applied->receipt) << (applied ? findingsText(applied->review) : applied.error().text());
  both.forgetApplied(1, appliedAdditions(*applied->receipt, ids));
  // The one that stays points at the record that it is now, not at a second one.
  for (const auto& [index, change] : both.toChangeList("").inOrder()) {
    for (const CellChange& cell : change.cells) EXPECT_NE(Value::Kind::PendingKey, cell.to.kind()) << cell.column;
  }
  const auto rest = apply(both.toChangeList(""));
  ASSERT_TRUE(rest && rest->receipt) << (rest ? findingsText(rest->review) : rest.error().text());
  EXPECT_EQ("yew|yew", db.rows("SELECT s.name, (SELECT name FROM species WHERE species_id = u.species_id) FROM tree t "
                               "JOIN species s ON s.species_id = t.species_id JOIN tree u ON u.tree_id = 8 WHERE "
                               "t.tree_id = 7"));
  EXPECT_EQ("1", db.rows("SELECT count(*) FROM species WHERE name = 'yew'"));
}

}  // namespace
}  // namespace iterandum::test
