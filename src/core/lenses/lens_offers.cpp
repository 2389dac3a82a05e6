// Which lenses a column speaks for, by its name and by some of its values.
#include <algorithm>
#include <array>

#include "core/lenses/lens.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

struct ByName {
  std::string_view end;
  StoredUnit unit;
};
constexpr std::array<ByName, 13> kDurations{{{"_ns", StoredUnit::Nanosecond},
                                             {"_us", StoredUnit::Microsecond},
                                             {"_ms", StoredUnit::Millisecond},
                                             {"_s", StoredUnit::Second},
                                             {"_sec", StoredUnit::Second},
                                             {"_secs", StoredUnit::Second},
                                             {"_seconds", StoredUnit::Second},
                                             {"_min", StoredUnit::Minute},
                                             {"_minutes", StoredUnit::Minute},
                                             {"_h", StoredUnit::Hour},
                                             {"_hours", StoredUnit::Hour},
                                             {"_d", StoredUnit::Day},
                                             {"_days", StoredUnit::Day}}};

// Moments from 2000 to 2100 are told from other numbers by their size.
constexpr std::int64_t kFirst = 946'684'800;
constexpr std::int64_t kLast = 4'102'444'800;

std::vector<std::int64_t> numbersOf(const std::vector<Value>& some) {
  std::vector<std::int64_t> out;
  for (const Value& value : some) {
    if (value.isNull()) continue;
    if (value.kind() != Value::Kind::Integer) return {};
    out.push_back(value.asInteger());
  }
  return out;
}

bool are(const std::vector<Value>& some, std::string_view yes, std::string_view no) {
  bool both[2] = {false, false};
  for (const Value& value : some) {
    if (value.isNull()) continue;
    if (value.kind() == Value::Kind::Bytes || value.kind() == Value::Kind::PendingKey) return false;
    const std::string text = canonicalText(value);
    if (text != yes && text != no) return false;
    both[text == yes ? 0 : 1] = true;
  }
  return both[0] && both[1];
}

}  // namespace

std::vector<Lens> likelyLenses(const Table& table, const Column& column, const std::vector<Value>& some) {
  std::vector<Lens> out;
  const std::string name = smallLetters(column.name);
  const auto offer = [&](Lens lens) {
    lens.table = displayName(table.name);
    lens.column = column.name;
    if (lensUnsuited(lens, column).empty()) out.push_back(std::move(lens));
  };
  const std::vector<std::int64_t> numbers = numbersOf(some);
  std::int64_t size = 1;
  for (const StoredUnit unit :
       {StoredUnit::Second, StoredUnit::Millisecond, StoredUnit::Microsecond, StoredUnit::Nanosecond}) {
    const bool all = !numbers.empty() && std::all_of(numbers.begin(), numbers.end(), [&](std::int64_t n) {
      return n / size >= kFirst && n / size < kLast;
    });
    Lens moment;
    moment.kind = LensKind::Moment;
    moment.unit = unit;
    if (all) offer(std::move(moment));
    size *= 1000;
  }
  const bool noNumbers =
      numbers.empty() && std::any_of(some.begin(), some.end(), [](const Value& v) { return !v.isNull(); });
  const auto duration =
      std::find_if(kDurations.begin(), kDurations.end(), [&](const ByName& one) { return name.ends_with(one.end); });
  if (duration != kDurations.end() && !noNumbers && out.empty()) {
    Lens lens;
    lens.kind = LensKind::Duration;
    lens.unit = duration->unit;
    offer(std::move(lens));
  }
  if (name.ends_with("_mm")) {
    Lens metres;
    metres.kind = LensKind::Factor;
    metres.factor = "0.001";
    metres.behind = "m";
    offer(std::move(metres));
  }
  constexpr std::array<std::pair<std::string_view, std::string_view>, 5> kYesNo{
      {{"1", "0"}, {"Y", "N"}, {"y", "n"}, {"t", "f"}, {"T", "F"}}};
  for (const auto& [yes, no] : kYesNo) {
    Lens labels;
    labels.kind = LensKind::Labels;
    labels.labels = {{std::string(yes), "yes"}, {std::string(no), "no"}};
    if (column.type != TypeClass::Boolean && are(some, yes, no)) offer(std::move(labels));
  }
  return out;
}

}  // namespace iterandum
