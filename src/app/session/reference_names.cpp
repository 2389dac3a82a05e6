#include "app/session/reference_names.h"

#include <algorithm>
#include <numeric>

namespace iterandum {

const Reference* ReferenceNames::reference(const Table& table, std::size_t column) const {
  for (const Reference& r : table.references) {
    if (r.columns.size() == 1 && r.columns[0] == column && !r.targetMissing) return &r;
  }
  return nullptr;
}

QString ReferenceNames::name(const Table& table, std::size_t column, const Value& value) const {
  const auto names = names_.find({table.name, column});
  if (names == names_.end()) return {};
  const auto it = names->second.find(value);
  return it == names->second.end() ? QString() : it->second;
}

std::vector<std::string> ReferenceNames::readable(const Table& table) const {
  const auto chosen = chosen_.find(displayName(table.name));
  std::vector<std::string> out = chosen == chosen_.end() ? readableColumns(table) : chosen->second;
  std::erase_if(out, [&](const std::string& name) {
    return table.column(name) == nullptr || (hidden_ && hidden_(table.name, name));
  });
  return out;
}

// The sheet is narrow; the chooser and the card of that record show more. What was chosen is shown whole.
std::vector<std::string> ReferenceNames::shownBy(const Table& table) const {
  std::vector<std::string> out = readable(table);
  if (out.size() > 1 && !chosen_.contains(displayName(table.name))) out.resize(1);
  return out;
}

CalledBy ReferenceNames::calledBy() const {
  CalledBy out;
  for (const Table& table : catalogue_->tables()) {
    std::vector<std::string> called = shownBy(table);
    if (!called.empty()) out[displayName(table.name)] = std::move(called);
  }
  return out;
}

void ReferenceNames::chooseReadable(std::map<std::string, std::vector<std::string>> choices) {
  chosen_ = std::move(choices);
  forget();
}

void ReferenceNames::want(const Table& table, std::size_t column, const std::vector<Value>& values) {
  const Reference* reference = this->reference(table, column);
  const Table* target = reference == nullptr ? nullptr : catalogue_->find(reference->target);
  if (target == nullptr) return;
  const std::vector<std::string> readable = shownBy(*target);
  if (readable.empty() || readable == reference->targetColumns) return;
  Names& names = names_[{table.name, column}];
  auto keys = std::make_shared<std::vector<ValueColumn>>(1);
  for (const Value& v : values) {
    if (v.isNull() || v.kind() == Value::Kind::PendingKey) continue;
    if (names.try_emplace(v).second) (*keys)[0].push(v);
  }
  if ((*keys)[0].empty()) return;
  using Found = std::vector<std::pair<Value, QString>>;
  ++asking_;
  session_.post(
      this,
      [keys, target, readable, columns = reference->targetColumns](Session& session,
                                                                   Progress& progress) -> Result<Found> {
        std::vector<std::uint32_t> positions((*keys)[0].size());
        std::iota(positions.begin(), positions.end(), 0U);
        KeyRead read{target, columns, keys.get(), positions, readable, 1};
        Found found;
        ITERANDUM_TRY(session.readByKeys(
            read,
            [&](std::size_t at, ValueTuple&& record) {
              std::string text;
              for (const Value& part : record) {
                if (!part.isNull()) text += (text.empty() ? "" : " · ") + canonicalText(part);
              }
              found.emplace_back((*keys)[0].at(at),
                                 QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size())));
            },
            progress));
        return found;
      },
      [this, key = std::make_pair(table.name, column)](Result<Found>&& found) {
        --asking_;
        if (found) {
          for (auto& [value, text] : *found) names_[key][value] = text;
        }
        emit named();
      });
}

}  // namespace iterandum
