// How records are called that a paper speaks of: by key and by name. Wanted one by one, read in few round trips.
#pragma once

#include <map>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/engines/session.h"
#include "core/files/called_records.h"

namespace iterandum {

class RecordNames {
 public:
  RecordNames(const Catalogue& catalogue, const CalledBy& calledBy) : catalogue_(catalogue), calledBy_(calledBy) {}

  // The record that has these values in these columns. One that has no better name than them is not read.
  void want(const TableName& table, const std::vector<std::string>& columns, const ValueTuple& key);
  // The record that a value of a reference points at.
  void wantPointed(const TableName& table, const std::string& column, const Value& value);
  // Errors: the session's. A record that is not there has no name.
  [[nodiscard]] Status read(Session& session, Progress& progress);

  // Empty: it has none.
  [[nodiscard]] std::string name(const TableName& table, const std::vector<std::string>& columns,
                                 const ValueTuple& key) const;
  [[nodiscard]] std::string pointed(const TableName& table, const std::string& column, const Value& value) const;

 private:
  struct Wanted {
    const Table* table = nullptr;
    std::vector<std::string> columns;
    std::vector<std::string> called;
    std::unordered_map<ValueTuple, std::string, TupleHash, TupleSame> names;
  };
  // By table and columns; null: there is nothing to be read.
  [[nodiscard]] Wanted* wanted(const TableName& table, const std::vector<std::string>& columns);

  const Catalogue& catalogue_;
  const CalledBy& calledBy_;
  std::map<std::pair<TableName, std::vector<std::string>>, Wanted> wanted_;
};

}  // namespace iterandum
