#include "core/apply/passing.h"

#include <algorithm>

namespace iterandum {
namespace {

bool isFollowed(const Catalogue& catalogue, const Table& table, const std::string& column) {
  for (const IncomingReference& in : catalogue.referencesTo(table.name)) {
    const Reference& reference = catalogue.tables()[in.table].references[in.reference];
    if (reference.stated) continue;
    const auto& targets = reference.targetColumns;
    if (std::find(targets.begin(), targets.end(), column) != targets.end()) return true;
  }
  return false;
}

bool pointsElsewhere(const Table& table, std::size_t column) {
  return std::any_of(table.references.begin(), table.references.end(), [&](const Reference& reference) {
    return !reference.stated &&
           std::find(reference.columns.begin(), reference.columns.end(), column) != reference.columns.end();
  });
}

// Whole numbers far from what people use, inside the bounds that are known, within 32 bits.
std::optional<std::int64_t> passingNumber(const Column& column, int attempt) {
  std::int64_t low = column.minInteger.value_or(INT64_MIN);
  std::int64_t high = column.maxInteger.value_or(INT64_MAX);
  if (column.minimum) low = column.minimum->kind() == Value::Kind::Integer ? column.minimum->asInteger() : 0;
  if (column.maximum && column.maximum->kind() == Value::Kind::Integer) high = column.maximum->asInteger();
  constexpr std::int64_t kFar = 2000000011;
  const std::int64_t n = column.minimum || low >= 0 ? std::min(high, kFar) - attempt : std::max(low, -kFar) + attempt;
  return n < low || n > high ? std::nullopt : std::optional(n);
}

}  // namespace

std::vector<PassingChoice> passingChoices(const Catalogue& catalogue, const ExaminedBlock& block, std::uint32_t row,
                                          const UniqueKey& key) {
  std::vector<std::pair<int, PassingChoice>> ranked;
  for (const std::size_t c : key.columns) {
    const Column& column = block.table->columns[c];
    const auto cell = block.cellOf(column.name);
    const bool written = block.changes.action == Action::Remove || (cell && block.writesCell(*cell, row));
    if (!written || !column.notEditable.empty()) continue;
    PassingChoice choice;
    choice.column = c;
    choice.followed = isFollowed(catalogue, *block.table, column.name);
    choice.empty = column.nullable && !choice.followed;
    if (!choice.empty && !passingValue(column, 0)) continue;
    const bool elsewhere = !choice.empty && pointsElsewhere(*block.table, c);
    ranked.emplace_back((choice.followed ? 4 : 0) + (elsewhere ? 2 : 0) + (choice.empty ? 0 : 1), choice);
  }
  std::stable_sort(ranked.begin(), ranked.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<PassingChoice> out;
  for (const auto& [unused, choice] : ranked) out.push_back(choice);
  return out;
}

std::optional<Value> passingValue(const Column& column, int attempt) {
  constexpr int kMostAttempts = 64;
  if (attempt >= kMostAttempts) return std::nullopt;
  if (!column.allowed.empty()) {
    if (static_cast<std::size_t>(attempt) >= column.allowed.size()) return std::nullopt;
    return column.allowed[static_cast<std::size_t>(attempt)];
  }
  const std::string mark = "~" + std::to_string(attempt);
  switch (column.type) {
    case TypeClass::Integer:
    case TypeClass::Real:
    case TypeClass::Decimal:
    case TypeClass::Any: {
      const auto n = passingNumber(column, attempt);
      if (!n) return std::nullopt;
      return column.type == TypeClass::Real ? Value::real(static_cast<double>(*n)) : Value::integer(*n);
    }
    case TypeClass::Text:
      if (column.maxLength && static_cast<std::size_t>(*column.maxLength) < mark.size()) return std::nullopt;
      return Value::text(mark);
    case TypeClass::Date:
      return Value::ofString(Value::Kind::Text,
                             "9999-12-" + std::string(attempt % 28 < 9 ? "0" : "") + std::to_string(attempt % 28 + 1));
    default:
      return std::nullopt;
  }
}

}  // namespace iterandum
