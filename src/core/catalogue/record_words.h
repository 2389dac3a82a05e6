// Records and values as messages, lists and papers name them; nothing in them acts on a terminal.
#pragma once

#include <string>

#include "core/catalogue/catalogue.h"
#include "core/value/value_column.h"

namespace iterandum {

// "tree 4711" or "inspection (4711, 2025-03-02)": a record as messages name it.
[[nodiscard]] std::string recordInWords(const TableName& table, const ValueTuple& key);
// A value as messages show it: no value, empty text, 'text', 42. Of a long text the first `most` bytes.
[[nodiscard]] std::string valueInWords(const Value& value, std::size_t most = 80);
// "3, ‘Oak’".
[[nodiscard]] std::string tupleInWords(const ValueTuple& tuple);

}  // namespace iterandum
