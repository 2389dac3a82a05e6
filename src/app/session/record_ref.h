// RecordRef and CellEdit: a record and a cell as the window speaks of them.
#pragma once

#include <QString>
#include <cstdint>
#include <string>

#include "core/catalogue/catalogue.h"
#include "core/value/value_column.h"

namespace iterandum {

// One record: an existing one by its key, or a new one by its id.
struct RecordRef {
  TableName table;
  ValueTuple key;             // by writeKeyColumns()
  std::uint64_t addedId = 0;  // not 0: a new record

  [[nodiscard]] bool isAdded() const { return addedId != 0; }
  friend bool operator==(const RecordRef& a, const RecordRef& b) {
    return a.table == b.table && a.addedId == b.addedId && sameTuple(a.key, b.key);
  }
};

// The same text for the same record: for looking records up.
[[nodiscard]] QString recordText(const RecordRef& ref);

// One cell to be staged, with what it holds in the database.
struct CellEdit {
  RecordRef record;
  std::string column;
  Value from;
  Value to;
};

}  // namespace iterandum
