// What a column takes: turning values from files and typed text into what the database would hold, or saying in words
// what is wanted instead. Needs the column's description only, never the database.
#pragma once

#include <string>
#include <string_view>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"

namespace iterandum {

// What the column wants, in words: "a whole number from 0 to 5", "one of sound, fair, poor", "a date like 2026-11-25".
[[nodiscard]] std::string wantedInWords(const Column& column);

// A value that is only to be compared: the same change of form as storedForm() does, but nothing is refused.
// Whether a number is put where a date or time is meant, which the database takes without a word.
[[nodiscard]] bool isStrangeDate(const Column& column, const Value& value);
[[nodiscard]] Value comparableForm(const Column& column, const Value& value);

// A new value in the form that the database will hold it in.
// Errors: Constraint, with a message that says what is wanted (type, range, length, NULL, allowed values).
[[nodiscard]] Result<Value> storedForm(const Column& column, const Value& value);

// Typed text as a value of the column. Empty text stays empty text where the column holds text; elsewhere it is
// NULL where that is allowed. Errors: as storedForm().
[[nodiscard]] Result<Value> typedValue(const Column& column, std::string_view text);

// Whether storedForm() would refuse or change a value that already lies in the column. Such a value is written to
// files as {"text": …} and the like, so that it can come back.
[[nodiscard]] bool isOffType(const Column& column, const Value& value);

}  // namespace iterandum
