// What a review has to say: findings, effects, the statements, and whether the change set is ready to be applied.
// The words and the JSON form are those of docs/formats.md.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/catalogue/record_words.h"
#include "core/changes/change_list.h"

namespace iterandum {

enum class FindingKind {
  CellChanged,
  AlreadySo,
  RecordGone,
  RecordAmbiguous,
  Duplicate,
  ParentMissing,
  StillReferenced,
  ValueRefused,
  StructureChanged,
  NotEditable,
  DatabaseRefused,
  Unguarded,
  NotAtomic,
  HouseRule
};
[[nodiscard]] const char* findingName(FindingKind kind);

struct Finding {
  FindingKind kind = FindingKind::DatabaseRefused;
  bool blocks = true;  // else it is a note
  std::uint32_t change = 0;
  TableName table;
  std::vector<std::string> keyColumns;
  ValueTuple key;  // empty for an addition
  std::string column;
  std::optional<Value> from;
  std::optional<Value> to;
  std::optional<Value> now;
  std::optional<std::uint64_t> rows;   // StillReferenced: how many
  std::optional<TableName> fromTable;  // and where
  std::string rule;                    // HouseRule: its name
  std::string message;
};

struct Effect {
  enum class Kind { CascadeRemove, CascadeSet, DatabaseSet };
  Kind kind = Kind::DatabaseSet;
  TableName table;
  std::uint32_t change = 0;
  std::uint64_t rows = 0;               // cascades
  std::string column;                   // CascadeSet, DatabaseSet
  std::vector<std::string> keyColumns;  // DatabaseSet
  ValueTuple key;
  Value from;
  Value to;
};
[[nodiscard]] const char* effectName(Effect::Kind kind);

// What was written to one table during the rehearsal that no change asks for and no reference takes along: by
// triggers, as a rule.
struct WrittenElsewhere {
  struct Record {
    ValueTuple key;     // by Table::writeKeyColumns()
    ValueTuple before;  // by `columns`; empty: it was not there
    ValueTuple after;   // empty: it is not there afterwards
  };
  TableName table;
  std::uint64_t added = 0;
  std::uint64_t changed = 0;
  std::uint64_t removed = 0;
  std::vector<std::string> columns;
  std::vector<std::string> keyColumns;
  std::vector<Record> records;  // the first ones
  std::vector<std::string> by;  // triggers that speak of the table: "tree_log_all on tree"
  std::string untold;           // what cannot be told, and why
};
// "2 records of tree_log added, 1 changed"; what is not counted is left out.
[[nodiscard]] std::string elsewhereInWords(const WrittenElsewhere& written);

struct ReviewStatement {
  std::string sql;
  std::vector<std::uint32_t> changes;
};

struct ReviewCounts {
  std::uint64_t edits = 0;
  std::uint64_t additions = 0;
  std::uint64_t removals = 0;
  std::uint64_t cells = 0;
  std::uint64_t tables = 0;
};

struct Review {
  ReviewCounts counts;
  std::vector<ReviewStatement> statements;
  std::vector<Finding> findings;  // by change
  std::vector<Effect> effects;
  std::vector<WrittenElsewhere> elsewhere;  // by table
  // Columns ("tree.tree_id") for which the rehearsal used up numbers that the server gives out and does not take back.
  std::vector<std::string> usedUp;
  bool rehearsed = false;
  bool ready = false;
};

// What there is to say about numbers that were used up; empty when none were.
[[nodiscard]] std::string usedUpInWords(const Review& review);

[[nodiscard]] std::string reviewJson(const Review& review, const Catalogue& catalogue);
[[nodiscard]] std::string reviewText(const Review& review);
// The script with the findings as comments at its head.
[[nodiscard]] std::string reviewScript(const Review& review);

}  // namespace iterandum
