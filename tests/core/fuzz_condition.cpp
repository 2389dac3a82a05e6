// Fuzzing the language of conditions: whatever is typed is read or refused at a place, and said in words.
#include <cstddef>
#include <cstdint>
#include <cstdlib>

#include "core/scope/column_path.h"
#include "core/scope/condition_text.h"
#include "core/scope/scope.h"

using namespace iterandum;

namespace {

Column column(const char* name, TypeClass type) {
  Column out;
  out.name = name;
  out.type = type;
  return out;
}

const Catalogue& catalogue() {
  static const Catalogue kCatalogue = [] {
    Table species;
    species.name.name = "species";
    species.columns = {column("id", TypeClass::Integer), column("name", TypeClass::Text)};
    UniqueKey key;
    key.primary = true;
    key.columns = {0};
    species.keys.push_back(std::move(key));
    Table tree;
    tree.name.name = "tree";
    tree.columns = {column("id", TypeClass::Integer),     column("species_id", TypeClass::Integer),
                    column("height", TypeClass::Decimal), column("planted", TypeClass::Date),
                    column("seen", TypeClass::Timestamp), column("note", TypeClass::Text),
                    column("any", TypeClass::Any),        column("felled", TypeClass::Boolean),
                    column("and", TypeClass::Real)};
    // As where whatever is given is kept.
    for (Column& c : tree.columns) c.storesOffType = c.name == "felled" || c.name == "seen";
    Reference reference;
    reference.name = "tree of species";
    reference.columns = {1};
    reference.target = species.name;
    reference.targetColumns = {"id"};
    tree.references.push_back(std::move(reference));
    return Catalogue({std::move(species), std::move(tree)});
  }();
  return kCatalogue;
}

// An error names its place; what is understood can be said, and its words say the same when they are read again.
void check(const Table& table, const ConditionContext& context, const Result<Condition>& condition) {
  if (!condition) {
    if (condition.error().place.rfind("position ", 0) != 0) std::abort();
    return;
  }
  if (condition->op == Condition::Op::All) return;
  const std::string words = conditionInWords(table, *condition);
  const auto again = parseCondition(table, words, context);
  // Said in full, with its columns named, it may be nested deeper than is taken.
  if (!again && again.error().message.find("nested") == std::string::npos) std::abort();
  if (again && conditionInWords(table, *again) != words) std::abort();
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace std::chrono;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  const ConditionContext context{&catalogue(), sys_days(2026y / November / 26),
                                 [](const Table&, const std::string&, KnownOf) { return std::make_shared<KeyList>(); }};
  const Table& tree = *catalogue().find({"", "tree"});
  check(tree, context, parseCondition(tree, text, context));
  const Table& species = *catalogue().find({"", "species"});
  check(species, context, parseCondition(species, text, context));
  for (const Column& c : tree.columns) check(tree, context, parseColumnCondition(tree, {{}, c.name}, text, context));
  if (const auto borrowed = readColumnPath(tree, "species.name", &catalogue())) {
    check(tree, context, parseColumnCondition(tree, *borrowed, text, context));
  }
  (void)scopeFromJson(text);
  return 0;
}
