// Many keys and values in one statement: a JSON document that the server turns into a table with JSON_TABLE.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "core/engines/mariadb/maria_handle.h"
#include "core/engines/mariadb/maria_types.h"
#include "core/value/value_column.h"

namespace iterandum {

class MariaBatch {
 public:
  explicit MariaBatch(std::size_t rows) : rows_(rows) {}

  // `at` gives the value of a row. Keys are made so that the server finds them through an index.
  template <typename ValueAt>
  void add(const Column* column, const std::string& name, bool asKey, const ValueAt& at) {
    Part part;
    part.texts.reserve(rows_);
    std::size_t longest = 0;
    for (std::size_t r = 0; r < rows_; ++r) {
      Cell cell;
      const Value value = at(r);
      cell.null = value.isNull();
      if (!cell.null && !mariaText(column, value, cell.text)) {
        // A key that cannot be there finds nothing. NULL would find NULL.
        cell.null = true;
        unfit_ = unfit_ || !asKey;
        part.impossible.push_back(r);
      }
      part.anyNull = part.anyNull || cell.null;
      longest = std::max(longest, cell.text.size());
      part.texts.push_back(std::move(cell));
    }
    part.transport = mariaTransport(column, "u." + name, longest, asKey);
    part.name = name;
    parts_.push_back(std::move(part));
  }

  // JSON_TABLE(…) AS u, with the columns that were added and `ord`, which counts rows from 1.
  [[nodiscard]] std::string source(const MariaHandle& handle) const;
  // The value of the part as the column has it.
  [[nodiscard]] const std::string& expression(std::size_t part) const { return parts_[part].transport.expression; }
  [[nodiscard]] bool anyNull(std::size_t part) const { return parts_[part].anyNull; }
  // Whether some value can travel in no way (a text that is no UTF-8, a number that is not finite).
  [[nodiscard]] bool unfit() const { return unfit_; }

 private:
  struct Cell {
    bool null = false;
    std::string text;
  };
  struct Part {
    std::string name;
    MariaTransport transport;
    std::vector<Cell> texts;
    std::vector<std::size_t> impossible;
    bool anyNull = false;
  };
  [[nodiscard]] bool isImpossible(std::size_t row) const;

  std::size_t rows_;
  std::vector<Part> parts_;
  bool unfit_ = false;
};

// A condition that joins t, the table, with the batch's keys, which are its parts from `firstPart` on.
[[nodiscard]] std::string mariaKeyCondition(const Table& table, const std::vector<std::string>& keyColumns,
                                            const MariaBatch& batch, std::size_t firstPart);

}  // namespace iterandum
