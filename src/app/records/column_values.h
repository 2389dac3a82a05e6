// The values that a column holds, as filters take them: what the panel of values and the sentence's phrases offer.
#pragma once

#include <QString>
#include <functional>
#include <memory>
#include <utility>
#include <vector>

#include "app/records/sheet_model.h"

namespace iterandum {

// The value as a filter cell takes it: 'Harbour', 3, no value.
[[nodiscard]] QString operandFor(const Value& value);
// The condition that finds it: = 'Harbour', no value. Empty for bytes, which cannot be typed.
[[nodiscard]] QString filterFor(const Value& value);

// What a column holds, in a few words: a whole number, a date.
[[nodiscard]] QString kindInWords(const Column& column);

using CountedValues = std::vector<std::pair<Value, std::uint64_t>>;

// One of them as it is offered.
struct OfferedValue {
  QString shown;
  QString operand;  // empty for bytes
  QString filter;
  std::uint64_t records = 0;
  bool nothing = false;  // no value, or empty text
};
// A reference is offered by name: names that are not known yet are asked for, and ReferenceNames::named() tells when it
// pays to ask again. `all`: these are all values there are, so that a name that only one of them has is enough.
[[nodiscard]] std::vector<OfferedValue> offeredValues(SheetModel& model, const ColumnPath& column,
                                                      const CountedValues& values, bool all);

// Reads the commonest values of a column among the records that `where` leaves, at most `most`, behind the scenes.
std::shared_ptr<Progress> readColumnValues(QObject* receiver, SheetModel& model, const ColumnPath& column,
                                           const Condition& where, std::uint64_t most,
                                           std::function<void(Result<CountedValues>&&)> done);

}  // namespace iterandum
