#include "core/catalogue/catalogue.h"

#include <algorithm>
#include <cctype>

namespace iterandum {
namespace {

bool isPlainName(std::string_view name) {
  if (name.empty() || std::isdigit(static_cast<unsigned char>(name[0]))) return false;
  return std::all_of(name.begin(), name.end(), [](char c) {
    const auto u = static_cast<unsigned char>(c);
    return u >= 0x80 || std::isalnum(u) || c == '_' || c == '$';
  });
}

// Reads one identifier, quoted or plain, up to a dot or the end.
std::optional<std::string> readName(std::string_view text, std::size_t& at) {
  std::string out;
  if (at < text.size() && text[at] == '"') {
    for (++at; at < text.size(); ++at) {
      if (text[at] == '"') {
        if (at + 1 < text.size() && text[at + 1] == '"') {
          ++at;
        } else {
          ++at;
          return out;
        }
      }
      out += text[at];
    }
    return std::nullopt;
  }
  while (at < text.size() && text[at] != '.') out += text[at++];
  if (out.empty()) return std::nullopt;
  return out;
}

// Levenshtein distance with two rows (Wagner and Fischer 1974), for suggestions only.
std::size_t editDistance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) row[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t diagonal = row[0];
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t above = row[j];
      row[j] = std::min({above + 1, row[j - 1] + 1, diagonal + (a[i - 1] == b[j - 1] ? 0U : 1U)});
      diagonal = above;
    }
  }
  return row[b.size()];
}

}  // namespace

std::string quotedIfOdd(std::string_view name) {
  if (isPlainName(name)) return std::string(name);
  std::string out = "\"";
  for (const char c : name) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + "\"";
}

std::string displayName(const TableName& name) {
  return name.schema.empty() ? quotedIfOdd(name.name) : quotedIfOdd(name.schema) + "." + quotedIfOdd(name.name);
}

Result<TableName> parseTableName(std::string_view text) {
  std::size_t at = 0;
  TableName name;
  auto first = readName(text, at);
  if (first && at == text.size()) {
    name.name = *first;
    return name;
  }
  if (first && text[at] == '.') {
    ++at;
    auto second = readName(text, at);
    if (second && at == text.size()) {
      name.schema = *first;
      name.name = *second;
      return name;
    }
  }
  return fail(ErrorKind::InvalidInput, "'" + std::string(text) +
                                           "' is not a table name; write name or schema.name, and a name with a dot, a "
                                           "quote or a space in double quotes");
}

std::optional<std::size_t> Table::columnIndex(std::string_view column) const {
  for (std::size_t i = 0; i < columns.size(); ++i) {
    if (columns[i].name == column) return i;
  }
  return std::nullopt;
}

const Column* Table::column(std::string_view column) const {
  const auto index = columnIndex(column);
  return index ? &columns[*index] : nullptr;
}

std::vector<std::size_t> Table::columnIndexes(const std::vector<std::string>& names) const {
  std::vector<std::size_t> out;
  out.reserve(names.size());
  for (const std::string& wanted : names) out.push_back(columnIndex(wanted).value_or(0));
  return out;
}

const UniqueKey* Table::primaryKey() const { return !keys.empty() && keys.front().primary ? &keys.front() : nullptr; }

std::vector<std::string> Table::columnNames(const std::vector<std::size_t>& positions) const {
  std::vector<std::string> out;
  out.reserve(positions.size());
  for (const std::size_t c : positions) out.push_back(columns[c].name);
  return out;
}

std::vector<std::string> Table::writeKeyColumns() const {
  if (primaryKeyMayBeNull && !rowIdName.empty()) return {rowIdName};
  return identity.columns;
}

std::vector<std::string> Table::recordColumns() const {
  std::vector<std::string> out;
  out.reserve(columns.size() + 1);
  for (const Column& c : columns) out.push_back(c.name);
  for (const std::string& keyColumn : writeKeyColumns()) {
    if (!columnIndex(keyColumn)) out.push_back(keyColumn);
  }
  return out;
}

bool Table::canFindBy(const std::vector<std::size_t>& wanted) const {
  const auto startsWith = [&](const std::vector<std::size_t>& index) {
    if (index.size() < wanted.size()) return false;
    return std::all_of(wanted.begin(), wanted.end(), [&](std::size_t c) {
      const auto end = index.begin() + static_cast<std::ptrdiff_t>(wanted.size());
      return std::find(index.begin(), end, c) != end;
    });
  };
  return std::any_of(indexes.begin(), indexes.end(), startsWith);
}

Catalogue::Catalogue(std::vector<Table> tables, std::string defaultSchema)
    : tables_(std::move(tables)), defaultSchema_(std::move(defaultSchema)) {
  for (std::size_t t = 0; t < tables_.size(); ++t) {
    for (std::size_t r = 0; r < tables_[t].references.size(); ++r) {
      incoming_[tables_[t].references[r].target].push_back({t, r});
    }
  }
}

const Table* Catalogue::find(const TableName& name) const {
  const auto it = std::find_if(tables_.begin(), tables_.end(), [&](const Table& t) { return t.name == name; });
  if (it != tables_.end()) return &*it;
  if (!name.schema.empty()) return name.schema == defaultSchema_ ? find({"", name.name}) : nullptr;
  const auto any =
      std::find_if(tables_.begin(), tables_.end(), [&](const Table& t) { return t.name.name == name.name; });
  return any == tables_.end() ? nullptr : &*any;
}

std::vector<IncomingReference> Catalogue::referencesTo(const TableName& name) const {
  const auto it = incoming_.find(name);
  return it == incoming_.end() ? std::vector<IncomingReference>() : it->second;
}

std::string Catalogue::closestName(std::string_view name) const {
  std::string best;
  std::size_t bestDistance = std::max<std::size_t>(2, name.size() / 3) + 1;
  for (const Table& table : tables_) {
    if (table.name.name.size() > 200 || name.size() > 200) continue;
    const std::size_t distance = editDistance(name, table.name.name);
    if (distance < bestDistance) {
      bestDistance = distance;
      best = displayName(table.name);
    }
  }
  return best;
}

std::string closestColumn(const Table& table, std::string_view name) {
  const auto plain = [](std::string_view text) {
    std::string out;
    for (const char c : text) {
      const auto letter = static_cast<unsigned char>(c);
      if (std::isalnum(letter) != 0 || letter >= 0x80) out += static_cast<char>(std::tolower(letter));
    }
    return out;
  };
  const std::string wanted = plain(name);
  std::string best;
  std::size_t bestDistance = std::min<std::size_t>(2, wanted.size() / 4) + 1;
  for (const Column& column : table.columns) {
    const std::string known = plain(column.name);
    if (known.size() > 200 || wanted.size() > 200) continue;
    const std::size_t distance = editDistance(wanted, known);
    if (distance >= bestDistance) continue;
    bestDistance = distance;
    best = column.name;
  }
  return best;
}

std::string Catalogue::cannotState(const StatedReference& r) const {
  const Table* table = find(r.table);
  const Table* target = find(r.target);
  if (table == nullptr) return "there is no table " + displayName(r.table);
  if (target == nullptr) return "there is no table " + displayName(r.target);
  const auto column = table->columnIndex(r.column);
  const auto there = target->columnIndex(r.targetColumn);
  if (!column) return displayName(table->name) + " has no column " + r.column;
  if (!there) return displayName(target->name) + " has no column " + r.targetColumn;
  const bool single = std::any_of(target->keys.begin(), target->keys.end(), [&](const UniqueKey& key) {
    return key.columns == std::vector<std::size_t>{*there};
  });
  if (!single) return r.targetColumn + " is no key of " + displayName(target->name) + ": several records may be meant";
  const bool known = std::any_of(table->references.begin(), table->references.end(), [&](const Reference& other) {
    return other.columns == std::vector<std::size_t>{*column};
  });
  if (known) return r.column + " points at something already";
  return {};
}

Catalogue Catalogue::withReferences(const std::vector<StatedReference>& references) const {
  std::vector<Table> tables = tables_;
  for (const StatedReference& r : references) {
    if (!cannotState(r).empty()) continue;
    Table& table = tables[static_cast<std::size_t>(find(r.table) - tables_.data())];
    Reference stated;
    stated.columns = {*table.columnIndex(r.column)};
    stated.target = find(r.target)->name;
    stated.targetColumns = {r.targetColumn};
    stated.stated = true;
    table.references.push_back(std::move(stated));
  }
  return Catalogue(std::move(tables), defaultSchema_);
}

std::vector<std::string> readableColumns(const Table& table) {
  std::vector<std::string> out;
  const auto add = [&](const std::string& name) {
    if (out.size() < 2 && std::find(out.begin(), out.end(), name) == out.end()) out.push_back(name);
  };
  const auto isText = [&](std::size_t c) { return table.columns[c].type == TypeClass::Text; };
  for (const UniqueKey& key : table.keys) {
    if (key.columns.size() == 1 && isText(key.columns[0])) add(table.columns[key.columns[0]].name);
  }
  for (std::size_t c = 0; c < table.columns.size(); ++c) {
    const std::string& name = table.columns[c].name;
    if (isText(c) && (name.find("name") != std::string::npos || name.find("title") != std::string::npos)) add(name);
  }
  if (out.empty()) {
    for (std::size_t c = 0; c < table.columns.size() && out.empty(); ++c) {
      if (isText(c) && !table.columns[c].computed) add(table.columns[c].name);
    }
  }
  if (out.empty()) {
    for (const std::string& name : table.identity.columns) add(name);
  }
  return out;
}

}  // namespace iterandum
