// Lenses: how the stored values of a column are shown and typed. The database, change files, scopes, rules and recipes
// hold what is stored; a lens stands between that and the eyes and fingers of a person.
//
// A document of its own (docs/formats.md, "Lenses"), kept in the store and exchanged as a file.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"

namespace iterandum {

enum class LensKind {
  Duration,  // a number of `unit`: "1 h 30 min"
  Moment,    // a number of `unit` since a day: "2026-11-25 14:05:00 UTC"
  Labels,    // a code, shown by its label
  Factor,    // a number times `factor`, with `behind` behind it: 1240 as "1.24 m"
  Flags,     // the bits of a number by their names: "street, park"
  Masked     // shown by dots
};

enum class StoredUnit { Nanosecond, Microsecond, Millisecond, Second, Minute, Hour, Day };

enum class DurationForm {
  Words,  // 1 h 30 min
  Iso,    // PT1H30M
  Clock   // 1:30
};

struct LensLabel {
  std::string stored;  // as it is typed without a lens
  std::string shown;
  friend bool operator==(const LensLabel&, const LensLabel&) = default;
};

struct Lens {
  std::string table;  // as parseTableName() takes it
  std::string column;
  LensKind kind = LensKind::Masked;
  StoredUnit unit = StoredUnit::Second;  // Duration, Moment
  DurationForm form = DurationForm::Words;
  std::string since = "1970-01-01";  // Moment: the day it is counted from; another one where it counts days only
  std::vector<LensLabel> labels;     // Labels
  std::string factor = "1";          // Factor: a decimal that is not nought
  std::string behind;                // Factor; may be empty
  std::vector<std::string> bits;     // Flags: the lowest bit first, at most 62; an empty name: the bit has none
  friend bool operator==(const Lens&, const Lens&) = default;
};

[[nodiscard]] std::string lensesToJson(const std::vector<Lens>& lenses);
// Errors: InvalidFile with the JSON Pointer; a lens that cannot be looked through is one, two for a column are another.
[[nodiscard]] Result<std::vector<Lens>> lensesFromJson(std::string_view document);

// "ns", "us", "ms", "s", "min", "h", "d"
[[nodiscard]] std::string unitName(StoredUnit unit);

// Why nothing could be seen through it, whatever the column: labels that would be taken for one another, a factor of
// nought. Empty: it is sound.
[[nodiscard]] std::string lensUnsound(const Lens& lens);
// Why it does not suit the column (numbers are wanted, the label's code is none of its values). Empty: it does.
[[nodiscard]] std::string lensUnsuited(const Lens& lens, const Column& column);

// The value as people read it. Nothing: it cannot be shown so that typing it gives it back, and is shown as stored.
// REQUIRES, of both: the lens is sound and suits the column.
[[nodiscard]] std::optional<std::string> shownThrough(const Lens& lens, const Column& column, const Value& value);
// The value that is meant. What is shown can be typed; a duration in any of its forms; a label in any case where one
// fits; and "stored 345600" for what lies in the column itself. No text at all is what it is without a lens. Errors:
// Constraint, with what is wanted.
[[nodiscard]] Result<Value> typedThrough(const Lens& lens, const Column& column, std::string_view text);

// Lenses that the column's name, and some of its values, speak for; the likeliest first. None is put on by itself.
[[nodiscard]] std::vector<Lens> likelyLenses(const Table& table, const Column& column, const std::vector<Value>& some);

}  // namespace iterandum
