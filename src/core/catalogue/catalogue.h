// What a database holds: tables, columns, keys, references, rules. Plain data, read once by an engine and then shared
// as an immutable value between threads. Nothing here knows which engine it came from.
#pragma once

#include <cstddef>
#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/value/value.h"

namespace iterandum {

struct TableName {
  std::string schema;  // empty: the engine's default
  std::string name;
  friend bool operator==(const TableName&, const TableName&) = default;
  friend auto operator<=>(const TableName&, const TableName&) = default;
};

// An SQL quoted identifier where the name needs one ("odd.name"), else the name as it is.
[[nodiscard]] std::string quotedIfOdd(std::string_view name);
// `name` or `schema.name`, quoted where needed: the form of change files and of the command line.
[[nodiscard]] std::string displayName(const TableName& name);
// Reads the form of displayName. Errors: InvalidInput.
[[nodiscard]] Result<TableName> parseTableName(std::string_view text);

enum class TypeClass {
  Any,  // may hold any type: every value keeps its own
  Boolean,
  Integer,
  Real,
  Decimal,
  Text,
  Bytes,
  Date,
  Time,
  Timestamp,
  Interval,
  Other
};

struct Column {
  std::string name;
  std::string declaredType;  // the database's own words
  std::string comment;       // what whoever made the database says about it
  std::string engineType;    // for engines alone: what a value of the column is cast to
  TypeClass type = TypeClass::Any;
  bool nullable = true;
  bool hasDefault = false;
  std::string defaultExpression;
  bool computed = false;           // the database computes it; never written
  bool generatedKey = false;       // the database gives a value when an addition leaves it out
  bool numbersStayUsedUp = false;  // what it gave is not taken back when the transaction is rolled back
  bool numericText = false;        // text that is a plain number is stored as a number
  bool storesOffType = false;      // values of another type may already lie in it
  bool booleansAsNumbers = false;
  bool paddedWithBlanks = false;          // text shorter than maxLength is filled up with blanks
  bool respelled = false;                 // the database may give a text back in another spelling
  bool losesTrailingBlanks = false;       // blanks at the end of a text are not kept
  bool foundExactly = false;              // the database takes no two different values of it for equal
  bool comparedAsText = false;            // for engines alone: only the texts of two values tell whether they are equal
  bool unsigned64 = false;                // an Integer that goes up to 2^64 - 1
  std::optional<std::int64_t> maxLength;  // in characters
  std::optional<std::int64_t> minInteger;  // what the type holds, for Integer
  std::optional<std::int64_t> maxInteger;
  std::optional<int> exactDigits;   // significant digits that a Decimal keeps exactly
  std::optional<int> mostDigits;    // a Decimal's digits in all, where there is a limit
  std::optional<int> mostDecimals;  // and those behind the point
  std::vector<Value> allowed;       // all allowed values, where a rule lists them
  bool allowedIsAdvice = false;     // the list is what to offer; others that the database takes for equal pass too
  std::optional<Value> minimum;     // where a rule gives a bound
  std::optional<Value> maximum;
  std::string notEditable;  // why no cell of it can be edited; empty: it can
};

struct UniqueKey {
  std::string name;
  bool primary = false;
  std::vector<std::size_t> columns;
  std::vector<std::string> collations;  // of each column, as the engine names it
};

enum class ReferenceAction { NoAction, Restrict, Cascade, SetNull, SetDefault };

struct Reference {
  std::string name;
  std::vector<std::size_t> columns;
  TableName target;
  std::vector<std::string> targetColumns;
  ReferenceAction onDelete = ReferenceAction::NoAction;
  ReferenceAction onUpdate = ReferenceAction::NoAction;
  bool targetMissing = false;  // the table or columns it names are not there
  bool stated = false;         // somebody said so; the database does not know of it and holds nobody to it
};

struct CheckRule {
  std::string name;
  std::string expression;            // the engine's own language
  bool understood = false;           // the columns' allowed values, bounds and lengths say all that it says
  std::vector<std::size_t> columns;  // those it speaks of, as far as can be told
};

// Code of the database that runs when records of a table are written.
struct Trigger {
  std::string name;
  std::string text;  // its own and that of functions that it calls; empty: it cannot be read
};

// A reference that the database does not declare but somebody knows of.
struct StatedReference {
  TableName table;
  std::string column;
  TableName target;
  std::string targetColumn;
  friend bool operator==(const StatedReference&, const StatedReference&) = default;
};

enum class TableKind { Table, View, VirtualTable, Internal };

// How one record is told from the others (design.md, "A record's name").
struct Identity {
  enum class Kind { None, PrimaryKey, UniqueKey, RowId, WholeRecord };
  Kind kind = Kind::None;
  std::vector<std::string> columns;  // for RowId: the name the row id goes by
};

struct Table {
  TableName name;
  std::string homeSchema;  // for engines alone: the schema's own name, also where `name` leaves it out
  TableKind kind = TableKind::Table;
  std::string comment;  // what whoever made the database says about it
  std::vector<Column> columns;
  std::vector<UniqueKey> keys;  // every unique key over plain columns, the primary one first
  std::vector<Reference> references;
  std::vector<std::vector<std::size_t>> indexes;  // columns of every index that can find records, in its order
  std::vector<CheckRule> checks;
  std::vector<Trigger> triggers;
  Identity identity;
  std::string rowIdName;  // how the row id can be spoken of; empty: it has none
  bool primaryKeyMayBeNull = false;
  bool writesNotCounted = false;  // the engine does not say how many records a write touched
  bool cannotRollBack = false;    // what is written to it stays written, whatever becomes of the transaction
  std::string notEditable;        // why no record of it can be changed; empty: they can
  std::string cannotEdit;         // the same for edits, additions, removals alone
  std::string cannotAdd;
  std::string cannotRemove;
  std::string unusable;  // why it cannot even be read; empty: it can

  [[nodiscard]] std::optional<std::size_t> columnIndex(std::string_view column) const;
  [[nodiscard]] const Column* column(std::string_view column) const;
  // Positions of the named columns. REQUIRES: all exist.
  [[nodiscard]] std::vector<std::size_t> columnIndexes(const std::vector<std::string>& names) const;
  [[nodiscard]] const UniqueKey* primaryKey() const;
  [[nodiscard]] std::vector<std::string> columnNames(const std::vector<std::size_t>& positions) const;
  // The columns that single out a record inside one transaction: the row id where a primary key may hold NULL, else
  // the identity.
  [[nodiscard]] std::vector<std::string> writeKeyColumns() const;
  // All columns, and the row id where it takes part in naming a record.
  [[nodiscard]] std::vector<std::string> recordColumns() const;
  // Whether some index starts with these columns, in any order.
  [[nodiscard]] bool canFindBy(const std::vector<std::size_t>& wanted) const;
};

struct IncomingReference {
  std::size_t table;      // position in Catalogue::tables
  std::size_t reference;  // position in that table's references
};

class Catalogue {
 public:
  // `defaultSchema` is another way to say no schema at all ("main" in SQLite).
  explicit Catalogue(std::vector<Table> tables = {}, std::string defaultSchema = {});
  [[nodiscard]] const std::vector<Table>& tables() const { return tables_; }
  // Nothing when there is none. A name without schema finds the table in any schema, the default one first.
  [[nodiscard]] const Table* find(const TableName& name) const;
  [[nodiscard]] std::vector<IncomingReference> referencesTo(const TableName& name) const;
  // Why this cannot be taken for a reference; empty: it can.
  [[nodiscard]] std::string cannotState(const StatedReference& reference) const;
  // The same with these references; those that cannot be are left out.
  [[nodiscard]] Catalogue withReferences(const std::vector<StatedReference>& references) const;
  // The tables whose name is most like this one, for "did you mean".
  [[nodiscard]] std::string closestName(std::string_view name) const;

 private:
  std::vector<Table> tables_;
  std::string defaultSchema_;
  std::map<TableName, std::vector<IncomingReference>> incoming_;
};

// The column whose name is nearly this one (a letter or two, blanks and signs apart); empty: none is.
[[nodiscard]] std::string closestColumn(const Table& table, std::string_view name);

// Columns that say best which record this is to a person: a unique text, else texts, else the key. At most three.
[[nodiscard]] std::vector<std::string> readableColumns(const Table& table);

}  // namespace iterandum
