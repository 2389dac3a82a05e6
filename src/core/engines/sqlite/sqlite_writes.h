// SqliteWrites: which records of a database are written besides by triggers and references, as the library's
// pre-update hook tells it (https://www.sqlite.org/c3ref/preupdate_blobwrite.html). Internal to engines/sqlite.
#pragma once

#include <sqlite3.h>

#include <unordered_map>
#include <unordered_set>

#include "core/engines/session.h"

namespace iterandum {

class SqliteWrites {
 public:
  // Notes from here to its end; both outlive it. There is one for a connection at a time.
  SqliteWrites(sqlite3* db, const Catalogue& catalogue);
  SqliteWrites(const SqliteWrites&) = delete;
  SqliteWrites& operator=(const SqliteWrites&) = delete;
  ~SqliteWrites();

  // Writes that were undone since are among them.
  [[nodiscard]] std::vector<TableWrites> soFar(std::uint64_t most) const;

 private:
  struct Noted {
    const Table* table = nullptr;
    std::vector<int> keyPositions;  // of a table without row ids
    std::unordered_set<std::int64_t> rowIds;
    std::unordered_set<ValueTuple, TupleHash, TupleSame> keys;
    std::string untold;
  };

  static void onWrite(void* self, sqlite3* db, int operation, const char* schema, const char* table,
                      sqlite3_int64 before, sqlite3_int64 after);
  void note(Noted& noted, sqlite3* db, int operation, std::int64_t before, std::int64_t after) const;

  sqlite3* db_;
  std::unordered_map<std::string, Noted> tables_;
};

}  // namespace iterandum
