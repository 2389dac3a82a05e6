// ReviewPage: what records and values are called.
#include <numeric>

#include "app/review/review_page.h"
#include "app/values/shown_value.h"
#include "core/lenses/lens.h"

namespace iterandum {

void ReviewPage::loadNames() {
  names_.clear();
  std::map<const Table*, std::vector<std::uint32_t>> byTable;
  for (std::uint32_t i = 0; i < refs_.size() && i < 5000; ++i) {
    const Table* table = desk_.catalogue().find(refs_[i].table);
    if (table != nullptr && !refs_[i].isAdded() && changes_[i].keyColumns == table->writeKeyColumns())
      byTable[table].push_back(i);
  }
  for (const auto& [table, indexes] : byTable) {
    const std::vector<std::string> readable = readableColumns(*table);
    auto keys = std::make_shared<std::vector<ValueColumn>>(table->writeKeyColumns().size());
    for (const std::uint32_t i : indexes) {
      for (std::size_t k = 0; k < keys->size(); ++k) (*keys)[k].push(refs_[i].key[k]);
    }
    desk_.front().post(
        this,
        [table = table, readable, keys](Session& session,
                                        Progress& progress) -> Result<std::vector<std::pair<std::size_t, QString>>> {
          std::vector<std::uint32_t> positions((*keys)[0].size());
          std::iota(positions.begin(), positions.end(), 0U);
          KeyRead read{table, table->writeKeyColumns(), keys.get(), positions, readable, 1};
          std::vector<std::pair<std::size_t, QString>> out;
          ITERANDUM_TRY(session.readByKeys(
              read,
              [&](std::size_t at, ValueTuple&& record) {
                QString text;
                for (const Value& v : record) {
                  if (!v.isNull() && !(v.isString() && v.asString().empty()))
                    text += (text.isEmpty() ? "" : ", ") + toQ(canonicalText(v)).left(60);
                }
                out.emplace_back(at, text);
              },
              progress));
          return out;
        },
        [this, indexes = indexes](Result<std::vector<std::pair<std::size_t, QString>>>&& found) {
          if (!found || stale_) return;
          for (auto& [at, text] : *found) {
            if (!text.isEmpty()) names_[indexes[at]] = text;
          }
          showGroup();
        });
  }
}

QString ReviewPage::recordName(std::uint32_t change) const {
  const auto it = names_.find(change);
  if (it != names_.end()) return it->second;
  if (refs_[change].isAdded()) return tr("new");
  QString out;
  for (const Value& v : refs_[change].key) out += (out.isEmpty() ? "" : ", ") + toQ(canonicalText(v)).left(60);
  return out;
}

QString ReviewPage::shown(const TableName& name, const std::string& column, const Value& value) const {
  const Table* table = desk_.catalogue().find(name);
  const auto c = table == nullptr ? std::nullopt : table->columnIndex(column);
  if (!c) return toQ(valueInWords(value));
  QString called = desk_.names().name(*table, *c, value);
  if (!called.isEmpty()) return called;
  const Lens* lens = desk_.lenses().of(table->name, table->columns[*c].name);
  const QString text = shownValue(table->columns[*c], value, lens).left(200);
  // What is signed for is what will be stored.
  const bool beside = lens != nullptr && lens->kind != LensKind::Masked && !value.isNull() &&
                      shownThrough(*lens, table->columns[*c], value).has_value();
  return beside ? QStringLiteral("%1 (%2)").arg(text, shownValue(table->columns[*c], value)) : text;
}

void ReviewPage::wantNames() {
  for (const ChangeGroup& g : groups_) {
    const Table* table = desk_.catalogue().find(g.table);
    if (table == nullptr) continue;
    std::map<std::size_t, std::vector<Value>> values;
    for (std::size_t i = 0; i < g.changes.size() && i < 200; ++i) {
      for (const CellChange& cell : changes_[g.changes[i]].cells) {
        const auto c = table->columnIndex(cell.column);
        if (!c || desk_.names().reference(*table, *c) == nullptr) continue;
        values[*c].push_back(cell.from);
        values[*c].push_back(cell.to);
      }
    }
    for (const auto& [column, list] : values) desk_.names().want(*table, column, list);
  }
}

}  // namespace iterandum
