// RecordActs: acts held against a table, and done to its records one after the other. Nothing is written: what comes
// out are the cells that are to be something else.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/acts/act.h"
#include "core/engines/session.h"
#include "core/expression/expression.h"

namespace iterandum {

// One record on its way through the acts.
struct ActedRecord {
  ValueTuple values;         // by RecordActs::needs().columns; what the acts so far have left
  std::vector<char> facts;   // by RecordActs::needs().facts
  std::uint64_t number = 0;  // in the order asked for, from 1
  ValueTuple key = {};       // by writeKeyColumns(), as it was; of a record that is not in the database: empty
  ValueTuple before = {};    // of the columns that are acted on
  ValueTuple stored = {};    // the same as the database holds them; kept by whoever lays staged values over them
  std::optional<Error> failure = {};
  std::string failedColumn = {};

  [[nodiscard]] bool failed() const { return failure.has_value(); }
};

class RecordActs {
 public:
  // Errors: InvalidInput naming the act and the place in it; InvalidFile for a list that says two things of one value.
  [[nodiscard]] static Result<RecordActs> make(const Table& table, const std::vector<Act>& acts,
                                               const ExpressionContext& context);

  [[nodiscard]] const Table& table() const { return *table_; }
  // What has to be known of a record: the table's key columns first, by writeKeyColumns().
  [[nodiscard]] const RecordNeeds& needs() const { return needs_; }
  // The columns that are acted on, each once, and where each lies among the needs.
  [[nodiscard]] const std::vector<const Column*>& columns() const { return columns_; }
  [[nodiscard]] const std::vector<std::size_t>& places() const { return places_; }
  // Whether the database has to be asked on the way: for a borrowed column when an act has changed what leads to it, or
  // for the spelling in which it would give a value back.
  [[nodiscard]] bool asksTheDatabase() const;

  // All acts on all of these records; what fails of one stops that record alone. `session`: null where
  // asksTheDatabase() is not so. Not from several threads at once. Errors: the session's.
  [[nodiscard]] Status run(std::span<ActedRecord> records, Session* session, Progress& progress) const;

  // Sees to it that a column is among the needs; where it lies there.
  std::size_t alsoNeed(const ColumnPath& path) { return needs_.column(path); }
  // Fills in all that is borrowed, by what the records hold now. Errors: the session's.
  [[nodiscard]] Status lookUpBorrowed(std::span<ActedRecord> records, Session& session, Progress& progress) const;

  // Whether a column that is acted on is to hold something else than before.
  [[nodiscard]] bool differs(const ActedRecord& record, std::size_t column) const;

 private:
  struct Bound;
  Result<std::pair<const Column*, std::size_t>> bindColumn(const std::string& name);
  Status bind(const Act& act, const ExpressionContext& context);
  Status respell(std::span<ActedRecord> records, Session& session, Progress& progress) const;
  // What leads to the column, as the record holds it now.
  [[nodiscard]] ValueTuple keyOver(const ActedRecord& record, const ColumnPath& path) const;
  Status lookUp(std::span<ActedRecord> records, std::size_t slot, std::vector<ValueTuple> keys, Session& session,
                Progress& progress) const;

  const Table* table_ = nullptr;
  RecordNeeds needs_;
  std::vector<const Column*> columns_;
  std::vector<std::size_t> places_;
  std::vector<std::shared_ptr<const Bound>> acts_;
  std::vector<std::size_t> elsewhere_;  // places of borrowed columns
};

// Whether two values are the same to whoever looks at the column.
[[nodiscard]] bool sameInColumn(const Column& column, const Value& a, const Value& b);

}  // namespace iterandum
