// LenderJoins: the tables that a query borrows columns from, as SQL. Each record that is lent from is joined once,
// however many of its columns are asked for.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/scope/query.h"

namespace iterandum {

class LenderJoins {
 public:
  // How the engine writes names.
  LenderJoins(std::function<std::string(const std::string&)> identifier,
              std::function<std::string(const Table&)> tableName)
      : identifier_(std::move(identifier)), tableName_(std::move(tableName)) {}

  // The column, qualified by the alias of its table; joins that where it is not yet.
  [[nodiscard]] std::string column(const std::vector<ReferenceStep>& steps, const std::string& name);
  // " LEFT JOIN … ON …", for all columns asked for so far; to follow the query's own table.
  [[nodiscard]] std::string text() const;

 private:
  struct Join {
    std::size_t from;  // 0: the query's own table; else a position in `joins_`, counted from 1
    ReferenceStep step;
  };
  [[nodiscard]] static std::string alias(std::size_t join);

  std::function<std::string(const std::string&)> identifier_;
  std::function<std::string(const Table&)> tableName_;
  std::vector<Join> joins_;
};

}  // namespace iterandum
