// Fuzzing expressions, lists and recipes: whatever is typed or read is understood, or refused at a place; computing it
// gives a value or an error, of whatever the record holds.
#include <cstddef>
#include <cstdint>
#include <cstdlib>

#include "core/acts/act.h"
#include "core/acts/recipe.h"
#include "core/expression/expression.h"
#include "core/files/value_list.h"

using namespace iterandum;

namespace {

const Catalogue& catalogue() {
  static const Catalogue kCatalogue = [] {
    Table tree;
    tree.name.name = "tree";
    for (const auto& [name, type] : std::vector<std::pair<const char*, TypeClass>>{{"n", TypeClass::Integer},
                                                                                   {"d", TypeClass::Decimal},
                                                                                   {"r", TypeClass::Real},
                                                                                   {"t", TypeClass::Text},
                                                                                   {"day", TypeClass::Date},
                                                                                   {"at", TypeClass::Timestamp},
                                                                                   {"any", TypeClass::Any}}) {
      Column column;
      column.name = name;
      column.type = type;
      tree.columns.push_back(std::move(column));
    }
    return Catalogue({std::move(tree)});
  }();
  return kCatalogue;
}

// A record that holds what such columns hold, and one without any value.
ValueTuple valuesFor(const RecordNeeds& needs, bool empty) {
  ValueTuple out;
  for (const ColumnPath& path : needs.columns) {
    const char first = path.column[0];
    if (empty) {
      out.emplace_back();
    } else if (first == 'n') {
      out.push_back(Value::integer(INT64_MIN));
    } else if (path.column == "d") {
      out.push_back(Value::decimal("-99999999999999999999.50"));
    } else if (first == 'r') {
      out.push_back(Value::real(1e300));
    } else {
      out.push_back(Value::text(first == 't' ? "\xC3\x84 e\xCC\x81\xFF" : "9999-12-31"));
    }
  }
  return out;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace std::chrono;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  const ExpressionContext context{{&catalogue(), sys_days(2026y / November / 26)}, "2026-11-26 12:00:00", {}};
  const Table& tree = *catalogue().find({"", "tree"});
  RecordNeeds needs;
  const auto expression = Expression::parse(tree, text, context, needs);
  if (!expression && expression.error().place.rfind("position ", 0) != 0) std::abort();
  for (const bool empty : {false, true}) {
    if (!expression) break;
    const ValueTuple values = valuesFor(needs, empty);
    const std::vector<char> facts(needs.facts.size(), 1);
    const auto computed = expression->of({values, facts, 1});
    if (!computed) continue;
    for (const Column& column : tree.columns) (void)valueFor(column, *computed);
  }
  (void)readMap(text);
  if (const auto recipe = recipeFromJson(text)) {
    const auto again = recipeFromJson(recipeToJson(*recipe));
    if (!again || !(*again == *recipe)) std::abort();
  }
  return 0;
}
