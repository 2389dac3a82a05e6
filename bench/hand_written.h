// What a careful programmer would write by hand with SQLite's C interface for the same work: the yardstick.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace bench {

struct Edit {
  std::int64_t id;
  std::int64_t from;
  std::int64_t to;
};

// One transaction: for each edit, read the whole record, compare, update, read the whole record again. Keeps the
// records before and after in memory, as a receipt would. Returns how many were written.
std::size_t applyVerified(const std::string& path, const std::vector<Edit>& edits);
// The barest way: UPDATE … WHERE id = ? AND value IS ?, count the affected rows.
std::size_t applyBare(const std::string& path, const std::vector<Edit>& edits);
// Reads the value of each record by key and compares. Returns how many are as expected.
std::size_t readAndCompare(const std::string& path, const std::vector<Edit>& edits);
// The first `limit` records of the table, every column fetched. Returns how many.
std::size_t firstScreen(const std::string& path, int limit);
// The same with the file open already: the bare query. The first call opens it, for good.
std::size_t firstScreenOfOpenFile(const std::string& path, int limit);
// All keys and values of one column, kept in two arrays. Returns their number.
std::size_t readKeysAndValues(const std::string& path);

}  // namespace bench
