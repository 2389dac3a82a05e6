#include "core/files/named_acts.h"

#include "core/catalogue/column_rules.h"
#include "core/scope/column_path.h"

namespace iterandum {
namespace {

std::vector<std::string*> typedIn(Act& act) {
  std::vector<std::string*> out;
  if (act.kind == Act::Kind::To) out.push_back(&act.text);
  if (act.kind != Act::Kind::Map) return out;
  for (auto& [from, to] : act.map) {
    if (from) out.push_back(&*from);
    if (to) out.push_back(&*to);
  }
  return out;
}

}  // namespace

Result<std::vector<std::string>> namesToKeys(std::vector<Act>& acts, const Table& table, const Catalogue& catalogue,
                                             const CalledBy& calledBy, Session& session, Progress& progress) {
  NamedKeys names;
  std::vector<std::string> unknown;
  for (Act& act : acts) {
    const Column* column = columnCalled(table, act.column);
    const auto reference = column == nullptr ? std::nullopt : calledReference(table, *column, catalogue, calledBy);
    if (!reference || !reference->hasNames()) continue;
    for (std::string* text : typedIn(act)) {
      const Result<Value> asKey = typedValue(*column, *text);
      // A text may be a key as well as a name.
      if (text->empty() || (asKey && asKey->kind() != Value::Kind::Text)) continue;
      auto key = names.keyOf(*reference, *text, asKey, session, progress);
      if (key) {
        *text = canonicalText(*key);
        continue;
      }
      if (key.error().kind != ErrorKind::InvalidInput) return fail(std::move(key.error()));
      unknown.push_back(column->name + ": " + key.error().message);
    }
  }
  return unknown;
}

}  // namespace iterandum
