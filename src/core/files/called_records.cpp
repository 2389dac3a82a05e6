#include "core/files/called_records.h"

#include <algorithm>

#include "core/value/text_forms.h"

namespace iterandum {

std::optional<CalledReference> calledReference(const Table& table, const Column& column, const Catalogue& catalogue,
                                               const CalledBy& calledBy) {
  CalledReference out;
  for (const Reference& reference : table.references) {
    const bool isIt = reference.columns.size() == 1 && table.columns[reference.columns[0]].name == column.name;
    if (!isIt || reference.targetMissing) continue;
    out.target = catalogue.find(reference.target);
    out.key = reference.targetColumns[0];
  }
  if (out.target == nullptr || !out.target->unusable.empty() || out.target->column(out.key) == nullptr)
    return std::nullopt;
  const auto chosen = calledBy.find(displayName(out.target->name));
  out.called = chosen != calledBy.end() ? chosen->second : readableColumns(*out.target);
  std::erase_if(out.called, [&](const std::string& name) { return out.target->column(name) == nullptr; });
  if (chosen == calledBy.end() && out.called.size() > 1) out.called.resize(1);
  return out.called.empty() ? std::nullopt : std::optional(std::move(out));
}

Status eachCalled(Session& session, const CalledReference& reference, std::uint64_t most,
                  const std::function<bool(Value&& key, std::string&& called)>& take, Progress& progress) {
  Query query;
  query.table = reference.target;
  query.columns = {reference.key};
  for (const std::string& name : reference.called) {
    query.columns.push_back(name);
    query.order.push_back({name});
  }
  query.limit = most;
  ITERANDUM_TRY(session.select(
      query,
      [&](ValueTuple&& row) {
        std::string text;
        for (std::size_t i = 1; i < row.size(); ++i) {
          if (!row[i].isNull()) text += (text.empty() ? "" : " · ") + canonicalText(row[i]);
        }
        if (text.empty()) text = canonicalText(row[0]);
        return take(std::move(row[0]), std::move(text)) && !progress.cancelled();
      },
      progress));
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  return {};
}

Result<const NamedKeys::Names*> NamedKeys::namesOf(const CalledReference& reference, Session& session,
                                                   Progress& progress) {
  const auto [at, isNew] = names_.try_emplace({reference.target, reference.key});
  Names& names = at->second;
  if (!isNew) return &names;
  std::uint64_t count = 0;
  const auto add = [](std::vector<Value>& keys, const Value& key) {
    if (keys.size() < 2) keys.push_back(key);
  };
  Status read = eachCalled(
      session, reference, kMost + 1,
      [&](Value&& key, std::string&& called) {
        names.tooMany = ++count > kMost;
        names.keys[canonicalText(key)] = true;
        add(names.exactly[called], key);
        add(names.loosely[looseText(called)], key);
        return !names.tooMany;
      },
      progress);
  if (!read) {
    names_.erase(at);
    return fail(std::move(read.error()));
  }
  return &names;
}

Result<Value> NamedKeys::keyOf(const CalledReference& reference, const std::string& text, const Result<Value>& typed,
                               Session& session, Progress& progress) {
  ITERANDUM_ASSIGN(const Names* names, namesOf(reference, session, progress));
  if (typed && (names->tooMany || names->keys.contains(canonicalText(*typed)))) return typed;
  const std::string table = displayName(reference.target->name);
  if (names->tooMany) {
    return fail(ErrorKind::InvalidInput,
                table + " has too many records to go by their names; the key is wanted, not '" + text + "'");
  }
  for (const auto& [known, said] : {std::pair(&names->exactly, text), std::pair(&names->loosely, looseText(text))}) {
    const auto found = known->find(said);
    if (found == known->end()) continue;
    if (found->second.size() == 1) return found->second.front();
    return fail(ErrorKind::InvalidInput,
                "several records of " + table + " are called '" + text + "'; the key is wanted instead");
  }
  if (typed) return typed;
  return fail(ErrorKind::InvalidInput, "no record of " + table + " is called '" + text + "'");
}

}  // namespace iterandum
