#include "core/paper/record_names.h"

#include <algorithm>
#include <numeric>

namespace iterandum {

RecordNames::Wanted* RecordNames::wanted(const TableName& table, const std::vector<std::string>& columns) {
  const auto [at, isNew] = wanted_.try_emplace({table, columns});
  Wanted& out = at->second;
  if (isNew) {
    out.table = catalogue_.find(table);
    out.columns = columns;
    if (out.table != nullptr) {
      const auto chosen = calledBy_.find(displayName(out.table->name));
      out.called = chosen != calledBy_.end() ? chosen->second : readableColumns(*out.table);
      if (chosen == calledBy_.end() && out.called.size() > 1) out.called.resize(1);
      std::erase_if(out.called, [&](const std::string& name) { return out.table->column(name) == nullptr; });
      if (!out.table->unusable.empty() || out.called == columns) out.called.clear();
    }
  }
  return out.called.empty() ? nullptr : &out;
}

void RecordNames::want(const TableName& table, const std::vector<std::string>& columns, const ValueTuple& key) {
  const bool known = std::none_of(key.begin(), key.end(), [](const Value& part) {
    return part.isNull() || part.kind() == Value::Kind::PendingKey;
  });
  if (columns.empty() || !known) return;
  if (Wanted* one = wanted(table, columns)) one->names.try_emplace(key);
}

void RecordNames::wantPointed(const TableName& table, const std::string& column, const Value& value) {
  const Table* own = catalogue_.find(table);
  const Column* of = own == nullptr ? nullptr : own->column(column);
  const auto reference = of == nullptr ? std::nullopt : calledReference(*own, *of, catalogue_, calledBy_);
  if (reference) want(reference->target->name, {reference->key}, {value});
}

Status RecordNames::read(Session& session, Progress& progress) {
  for (auto& [place, one] : wanted_) {
    if (one.names.empty()) continue;
    std::vector<ValueColumn> keys(one.columns.size());
    std::vector<std::string*> names;
    for (auto& [key, name] : one.names) {
      for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(key[k]);
      names.push_back(&name);
    }
    std::vector<std::uint32_t> rows(names.size());
    std::iota(rows.begin(), rows.end(), 0U);
    const KeyRead read{one.table, one.columns, &keys, rows, one.called, 1};
    ITERANDUM_TRY(session.readByKeys(
        read,
        [&](std::size_t row, ValueTuple&& record) {
          for (const Value& part : record) {
            if (!part.isNull()) *names[row] += (names[row]->empty() ? "" : " · ") + canonicalText(part);
          }
        },
        progress));
  }
  return {};
}

std::string RecordNames::name(const TableName& table, const std::vector<std::string>& columns,
                              const ValueTuple& key) const {
  const auto place = wanted_.find({table, columns});
  if (place == wanted_.end()) return {};
  const auto found = place->second.names.find(key);
  return found == place->second.names.end() ? std::string() : found->second;
}

std::string RecordNames::pointed(const TableName& table, const std::string& column, const Value& value) const {
  const Table* own = catalogue_.find(table);
  const Column* of = own == nullptr ? nullptr : own->column(column);
  const auto reference = of == nullptr ? std::nullopt : calledReference(*own, *of, catalogue_, calledBy_);
  return reference ? name(reference->target->name, {reference->key}, {value}) : std::string();
}

}  // namespace iterandum
