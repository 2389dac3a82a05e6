// Random schemas with references of every rule, random records in them, random change sets over those, and a small
// oracle: what the records are to be afterwards, all changes seen as done at one time. Written for clarity, not speed.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <random>
#include <string>
#include <vector>

#include "support/engine.h"
#include "support/test_database.h"

namespace iterandum::test {

using Cell = std::optional<int>;
using Cells = std::vector<Cell>;

enum class Rule { NoAction, Restrict, Cascade, SetNull, SetDefault };

struct WorldReference {
  std::vector<std::size_t> columns;
  std::size_t target = 0;  // table
  std::vector<std::size_t> targetColumns;
  Rule onDelete = Rule::NoAction;
  Rule onUpdate = Rule::NoAction;
  bool nullable = true;
};

// Every table has the columns id, a, b, code, v, s, and then those of its references. id, code and (a, b) are unique;
// one of id and (a, b) is the primary key. In some tables a trigger keeps s at twice v; nothing else writes it.
struct WorldTable {
  std::string name;
  std::vector<std::string> columns;
  std::vector<bool> nullable;
  std::vector<Cell> defaults;
  bool stamped = false;                        // by the trigger
  std::vector<std::vector<std::size_t>> keys;  // the primary one first
  std::vector<WorldReference> references;
};

struct World {
  std::vector<WorldTable> tables;
  std::vector<std::vector<Cells>> records;  // by table
};

struct WorldChange {
  char action = 'e';  // e, a, r
  std::size_t table = 0;
  std::size_t record = 0;             // e, r: its position
  std::map<std::size_t, Cell> cells;  // e, a: by column
};

class RandomWorld {
 public:
  RandomWorld(unsigned seed, Engine engine) : random_(seed), engine_(engine) {}
  // A schema with some records that keep all of its rules.
  [[nodiscard]] World world();
  // Changes of different records, many of them about keys and references.
  [[nodiscard]] std::vector<WorldChange> changes(const World& world);

 private:
  int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
  bool oneIn(int n) { return below(n) == 0; }
  void addReference(World& world, std::size_t table);
  Cells record(const World& world, std::size_t table);
  Cell value(const World& world, std::size_t table, std::size_t column);
  std::mt19937 random_;
  Engine engine_;
};

// SQL that makes the tables and their records.
[[nodiscard]] std::string sqlOf(const World& world, Engine engine);
// The changes in the language of TestDatabase::changes().
[[nodiscard]] std::string linesOf(const World& world, const std::vector<WorldChange>& changes);
// The records as text, the same for the same records.
[[nodiscard]] std::string textOf(const World& world);

// The records that the database holds now.
[[nodiscard]] World worldIn(const TestDatabase& db, const World& world);

// What the records are to be afterwards; nothing where a rule forbids it.
[[nodiscard]] std::optional<World> wantedAfter(const World& world, const std::vector<WorldChange>& changes);

}  // namespace iterandum::test
