#include "hand_written.h"

#include <sqlite3.h>

#include <cstdlib>
#include <cstring>

namespace bench {
namespace {

sqlite3* openFile(const std::string& path) {
  sqlite3* db = nullptr;
  if (sqlite3_open_v2(path.c_str(), &db, SQLITE_OPEN_READWRITE | SQLITE_OPEN_NOMUTEX, nullptr) != SQLITE_OK)
    std::abort();
  sqlite3_exec(db, "PRAGMA foreign_keys = ON; PRAGMA cache_size = -65536", nullptr, nullptr, nullptr);
  return db;
}

sqlite3_stmt* prepare(sqlite3* db, const char* sql) {
  sqlite3_stmt* statement = nullptr;
  if (sqlite3_prepare_v2(db, sql, -1, &statement, nullptr) != SQLITE_OK) std::abort();
  return statement;
}

// A record kept as a programmer would keep it: numbers as they are, texts copied.
struct Cell {
  int type = SQLITE_NULL;
  std::int64_t integer = 0;
  double real = 0;
  std::string text;
};

void keepRow(sqlite3_stmt* s, std::vector<Cell>& cells) {
  const int columns = sqlite3_column_count(s);
  for (int c = 0; c < columns; ++c) {
    Cell cell;
    cell.type = sqlite3_column_type(s, c);
    if (cell.type == SQLITE_INTEGER) cell.integer = sqlite3_column_int64(s, c);
    if (cell.type == SQLITE_FLOAT) cell.real = sqlite3_column_double(s, c);
    if (cell.type == SQLITE_TEXT) {
      cell.text.assign(reinterpret_cast<const char*>(sqlite3_column_text(s, c)),
                       static_cast<std::size_t>(sqlite3_column_bytes(s, c)));
    }
    cells.push_back(std::move(cell));
  }
}

}  // namespace

std::size_t applyVerified(const std::string& path, const std::vector<Edit>& edits) {
  sqlite3* db = openFile(path);
  sqlite3_exec(db, "BEGIN IMMEDIATE", nullptr, nullptr, nullptr);
  sqlite3_stmt* read = prepare(db, "SELECT * FROM reading WHERE id = ?1");
  sqlite3_stmt* write = prepare(db, "UPDATE reading SET grade = ?1 WHERE id = ?2");
  std::vector<Cell> before;
  std::vector<Cell> after;
  std::size_t written = 0;
  for (const Edit& e : edits) {
    sqlite3_bind_int64(read, 1, e.id);
    if (sqlite3_step(read) == SQLITE_ROW && sqlite3_column_int64(read, 1) == e.from) keepRow(read, before);
    sqlite3_reset(read);
  }
  for (const Edit& e : edits) {
    sqlite3_bind_int64(write, 1, e.to);
    sqlite3_bind_int64(write, 2, e.id);
    if (sqlite3_step(write) == SQLITE_DONE) written += static_cast<std::size_t>(sqlite3_changes(db));
    sqlite3_reset(write);
  }
  for (const Edit& e : edits) {
    sqlite3_bind_int64(read, 1, e.id);
    if (sqlite3_step(read) == SQLITE_ROW) keepRow(read, after);
    sqlite3_reset(read);
  }
  sqlite3_finalize(read);
  sqlite3_finalize(write);
  sqlite3_exec(db, "COMMIT", nullptr, nullptr, nullptr);
  sqlite3_close(db);
  return before.size() == after.size() ? written : 0;
}

std::size_t applyBare(const std::string& path, const std::vector<Edit>& edits) {
  sqlite3* db = openFile(path);
  sqlite3_exec(db, "BEGIN IMMEDIATE", nullptr, nullptr, nullptr);
  sqlite3_stmt* write = prepare(db, "UPDATE reading SET grade = ?1 WHERE id = ?2 AND grade IS ?3");
  std::size_t written = 0;
  for (const Edit& e : edits) {
    sqlite3_bind_int64(write, 1, e.to);
    sqlite3_bind_int64(write, 2, e.id);
    sqlite3_bind_int64(write, 3, e.from);
    if (sqlite3_step(write) == SQLITE_DONE) written += static_cast<std::size_t>(sqlite3_changes(db));
    sqlite3_reset(write);
  }
  sqlite3_finalize(write);
  sqlite3_exec(db, "COMMIT", nullptr, nullptr, nullptr);
  sqlite3_close(db);
  return written;
}

std::size_t readAndCompare(const std::string& path, const std::vector<Edit>& edits) {
  sqlite3* db = openFile(path);
  sqlite3_stmt* read = prepare(db, "SELECT grade FROM reading WHERE id = ?1");
  std::size_t same = 0;
  for (const Edit& e : edits) {
    sqlite3_bind_int64(read, 1, e.id);
    if (sqlite3_step(read) == SQLITE_ROW && sqlite3_column_int64(read, 0) == e.from) ++same;
    sqlite3_reset(read);
  }
  sqlite3_finalize(read);
  sqlite3_close(db);
  return same;
}

namespace {

std::size_t readScreen(sqlite3* db, int limit) {
  sqlite3_stmt* read = prepare(db, "SELECT * FROM reading ORDER BY id LIMIT ?1");
  sqlite3_bind_int(read, 1, limit);
  std::vector<Cell> cells;
  std::size_t rows = 0;
  while (sqlite3_step(read) == SQLITE_ROW) {
    keepRow(read, cells);
    ++rows;
  }
  sqlite3_finalize(read);
  return rows;
}

}  // namespace

std::size_t firstScreen(const std::string& path, int limit) {
  sqlite3* db = openFile(path);
  const std::size_t rows = readScreen(db, limit);
  sqlite3_close(db);
  return rows;
}

std::size_t firstScreenOfOpenFile(const std::string& path, int limit) {
  static sqlite3* const db = openFile(path);
  return readScreen(db, limit);
}

std::size_t readKeysAndValues(const std::string& path) {
  sqlite3* db = openFile(path);
  sqlite3_stmt* read = prepare(db, "SELECT id, grade FROM reading");
  std::vector<std::int64_t> keys;
  std::vector<std::int64_t> values;
  while (sqlite3_step(read) == SQLITE_ROW) {
    keys.push_back(sqlite3_column_int64(read, 0));
    values.push_back(sqlite3_column_int64(read, 1));
  }
  sqlite3_finalize(read);
  sqlite3_close(db);
  return keys.size();
}

}  // namespace bench
