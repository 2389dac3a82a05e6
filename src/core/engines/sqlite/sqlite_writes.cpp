#include "core/engines/sqlite/sqlite_writes.h"

#include "core/engines/sqlite/sqlite_handle.h"

namespace iterandum {
namespace {

// As many records of one table are kept in mind: some 100 MB.
constexpr std::size_t kMostNoted = 1'000'000;
constexpr const char* kMore = "there are more than can be listed";

}  // namespace

SqliteWrites::SqliteWrites(sqlite3* db, const Catalogue& catalogue) : db_(db) {
  for (const Table& table : catalogue.tables()) {
    if (table.kind == TableKind::View || table.kind == TableKind::VirtualTable) continue;
    Noted noted;
    noted.table = &table;
    if (table.rowIdName.empty() && table.primaryKey() != nullptr) {
      for (const std::size_t c : table.primaryKey()->columns) noted.keyPositions.push_back(static_cast<int>(c));
    }
    tables_.emplace(table.name.name, std::move(noted));
  }
  sqlite3_preupdate_hook(db_, &SqliteWrites::onWrite, this);
}

SqliteWrites::~SqliteWrites() { sqlite3_preupdate_hook(db_, nullptr, nullptr); }

void SqliteWrites::onWrite(void* self, sqlite3* db, int operation, const char* schema, const char* table,
                           sqlite3_int64 before, sqlite3_int64 after) {
  // What a statement does by itself is what it says; triggers and references act below it.
  if (sqlite3_preupdate_depth(db) == 0 || std::string_view(schema) != "main") return;
  auto& tables = static_cast<SqliteWrites*>(self)->tables_;
  const auto it = tables.find(table);
  if (it != tables.end()) static_cast<SqliteWrites*>(self)->note(it->second, db, operation, before, after);
}

void SqliteWrites::note(Noted& noted, sqlite3* db, int operation, std::int64_t before, std::int64_t after) const {
  if (noted.rowIds.size() + noted.keys.size() >= kMostNoted) {
    noted.untold = kMore;
    return;
  }
  if (!noted.table->rowIdName.empty()) {
    if (operation != SQLITE_INSERT) noted.rowIds.insert(before);
    if (operation != SQLITE_DELETE) noted.rowIds.insert(after);
    return;
  }
  if (noted.keyPositions.empty()) {
    noted.untold = "its records have no names";
    return;
  }
  const auto add = [&](auto&& valueAt) {
    ValueTuple key;
    for (const int position : noted.keyPositions) {
      sqlite3_value* value = nullptr;
      if (valueAt(db, position, &value) != SQLITE_OK || value == nullptr) {
        noted.untold = "the name of a record cannot be read";
        return;
      }
      key.push_back(sqliteValue(value));
    }
    noted.keys.insert(std::move(key));
  };
  if (operation != SQLITE_INSERT) add(sqlite3_preupdate_old);
  if (operation != SQLITE_DELETE) add(sqlite3_preupdate_new);
}

std::vector<TableWrites> SqliteWrites::soFar(std::uint64_t most) const {
  std::vector<TableWrites> out;
  for (const auto& [name, noted] : tables_) {
    if (noted.rowIds.empty() && noted.keys.empty() && noted.untold.empty()) continue;
    TableWrites writes;
    writes.name = noted.table->name;
    writes.table = noted.table;
    const bool byRowId = !noted.table->rowIdName.empty();
    writes.keyColumns =
        byRowId ? std::vector<std::string>{noted.table->rowIdName}
                : noted.table->columnNames(noted.table->primaryKey() != nullptr ? noted.table->primaryKey()->columns
                                                                                : std::vector<std::size_t>());
    writes.keys.resize(writes.keyColumns.size());
    std::uint64_t count = 0;
    const auto full = [&] { return count++ >= most; };
    for (const std::int64_t rowId : noted.rowIds) {
      if (full()) break;
      writes.keys[0].push(Value::integer(rowId));
    }
    for (const ValueTuple& key : noted.keys) {
      if (full()) break;
      for (std::size_t k = 0; k < key.size(); ++k) writes.keys[k].push(key[k]);
    }
    writes.untold = count > most ? kMore : noted.untold;
    out.push_back(std::move(writes));
  }
  return out;
}

}  // namespace iterandum
