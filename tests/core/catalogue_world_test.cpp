// What a catalogue says of random schemas is what was asked for when they were made: columns, keys, references with
// their rules, defaults, triggers. Nothing more, nothing less, and the graph of references agrees from both ends.
#include <algorithm>
#include <set>

#include "core/review/running_code.h"
#include "support/random_world.h"

namespace iterandum::test {
namespace {

ReferenceAction actionOf(Rule rule) {
  switch (rule) {
    case Rule::Restrict:
      return ReferenceAction::Restrict;
    case Rule::Cascade:
      return ReferenceAction::Cascade;
    case Rule::SetNull:
      return ReferenceAction::SetNull;
    case Rule::SetDefault:
      return ReferenceAction::SetDefault;
    default:
      return ReferenceAction::NoAction;
  }
}

// MariaDB keeps no difference between refusing at once and refusing in the end.
std::string wordFor(ReferenceAction action, Engine engine) {
  if (engine == Engine::MariaDb && action == ReferenceAction::NoAction) action = ReferenceAction::Restrict;
  return std::to_string(static_cast<int>(action));
}

std::string wordsFor(const std::vector<std::string>& names) {
  std::string out;
  for (const std::string& name : names) out += (out.empty() ? "" : ",") + name;
  return out;
}

class CatalogueWorldTest : public EngineTest {
 protected:
  static std::set<std::string> keysOf(const Table& table) {
    std::set<std::string> out;
    for (const UniqueKey& key : table.keys)
      out.insert((key.primary ? "primary " : "unique ") + wordsFor(table.columnNames(key.columns)));
    return out;
  }
  static std::set<std::string> keysOf(const WorldTable& table) {
    std::set<std::string> out;
    for (std::size_t k = 0; k < table.keys.size(); ++k) {
      std::vector<std::string> names;
      for (const std::size_t c : table.keys[k]) names.push_back(table.columns[c]);
      out.insert((k == 0 ? "primary " : "unique ") + wordsFor(names));
    }
    return out;
  }
  [[nodiscard]] static std::multiset<std::string> referencesOf(const Table& table) {
    std::multiset<std::string> out;
    for (const Reference& r : table.references) {
      out.insert(wordsFor(table.columnNames(r.columns)) + " to " + r.target.name + " " + wordsFor(r.targetColumns) +
                 " delete " + wordFor(r.onDelete, GetParam()) + " update " + wordFor(r.onUpdate, GetParam()));
    }
    return out;
  }
  [[nodiscard]] static std::multiset<std::string> referencesOf(const World& world, const WorldTable& table) {
    std::multiset<std::string> out;
    for (const WorldReference& r : table.references) {
      std::vector<std::string> from;
      std::vector<std::string> to;
      for (const std::size_t c : r.columns) from.push_back(table.columns[c]);
      for (const std::size_t c : r.targetColumns) to.push_back(world.tables[r.target].columns[c]);
      out.insert(wordsFor(from) + " to " + world.tables[r.target].name + " " + wordsFor(to) + " delete " +
                 wordFor(actionOf(r.onDelete), GetParam()) + " update " + wordFor(actionOf(r.onUpdate), GetParam()));
    }
    return out;
  }

  TestDatabase db{{}, GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(CatalogueWorldTest);

TEST_P(CatalogueWorldTest, WhatWasMadeIsWhatIsSaid) {
  for (unsigned seed = 1; seed <= 40 && !HasFailure(); ++seed) {
    RandomWorld random(seed, GetParam());
    const World world = random.world();
    SCOPED_TRACE(sqlOf(world, GetParam()));
    db.empty();
    db.run(sqlOf(world, GetParam()));
    const Catalogue& catalogue = db.catalogue();
    ASSERT_EQ(world.tables.size(), catalogue.tables().size());
    for (const WorldTable& made : world.tables) {
      const Table* table = catalogue.find({"", made.name});
      ASSERT_NE(nullptr, table) << made.name;
      SCOPED_TRACE(made.name);
      ASSERT_EQ(made.columns.size(), table->columns.size());
      for (std::size_t c = 0; c < made.columns.size(); ++c) {
        EXPECT_EQ(made.columns[c], table->columns[c].name);
        EXPECT_EQ(TypeClass::Integer, table->columns[c].type);
        EXPECT_EQ(made.nullable[c], table->columns[c].nullable) << made.columns[c];
        if (made.defaults[c]) {
          EXPECT_TRUE(table->columns[c].hasDefault) << made.columns[c];
          EXPECT_EQ(std::to_string(*made.defaults[c]), table->columns[c].defaultExpression);
        }
      }
      EXPECT_EQ(keysOf(made), keysOf(*table));
      EXPECT_EQ(referencesOf(world, made), referencesOf(*table));
      EXPECT_EQ(made.stamped, !table->triggers.empty());
      EXPECT_EQ(Identity::Kind::PrimaryKey, table->identity.kind);
      EXPECT_EQ("", table->notEditable);
    }
  }
}

TEST_P(CatalogueWorldTest, TheGraphOfReferencesAgreesFromBothEnds) {
  for (unsigned seed = 50; seed <= 70 && !HasFailure(); ++seed) {
    RandomWorld random(seed, GetParam());
    db.empty();
    db.run(sqlOf(random.world(), GetParam()));
    const Catalogue& catalogue = db.catalogue();
    std::size_t down = 0;
    std::size_t up = 0;
    for (std::size_t t = 0; t < catalogue.tables().size(); ++t) {
      const Table& table = catalogue.tables()[t];
      up += table.references.size();
      for (const IncomingReference& in : catalogue.referencesTo(table.name)) {
        ++down;
        EXPECT_EQ(table.name, catalogue.tables()[in.table].references[in.reference].target);
      }
    }
    EXPECT_EQ(up, down);
  }
}

// Every trigger that fires is among those that are told beforehand.
TEST_P(CatalogueWorldTest, NoCodeRunsThatWasNotTold) {
  int ran = 0;
  for (unsigned seed = 80; seed <= 110 && !HasFailure(); ++seed) {
    RandomWorld random(seed, GetParam());
    const World world = random.world();
    db.empty();
    db.run(sqlOf(world, GetParam()));
    const auto steps = random.changes(world);
    const std::string lines = linesOf(world, steps);
    SCOPED_TRACE(sqlOf(world, GetParam()) + lines);
    const std::vector<std::string> told = runningCode(db.catalogue(), TestDatabase::changes(lines));
    for (const WorldChange& step : steps) {
      const WorldTable& table = world.tables[step.table];
      if (!table.stamped) continue;
      ++ran;
      EXPECT_TRUE(std::any_of(told.begin(), told.end(), [&](const std::string& t) {
        return t.ends_with(" on " + table.name);
      })) << table.name;
    }
  }
  EXPECT_LT(5, ran);
}

}  // namespace
}  // namespace iterandum::test
