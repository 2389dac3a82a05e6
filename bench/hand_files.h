// Files by hand: what a careful programmer would write with SQLite's C interface, libxlsxwriter, libzip and Expat to
// hold a list against a table, and to write a table out. The yardstick of bench_files.
#pragma once

#include <cstddef>
#include <string>

namespace bench {

// Lines of `columns` fields, the first the key: how many cells differ from the table `reading`. They are kept with
// their keys, old and new texts.
[[nodiscard]] std::size_t compareCsvByHand(const std::string& database, const std::string& csv, std::size_t columns);
// The same of the first sheet of a workbook whose days are numbers: those differ all.
[[nodiscard]] std::size_t compareXlsxByHand(const std::string& database, const std::string& path, std::size_t columns);
// All records of `reading`, quoted where they have to be.
void writeCsvByHand(const std::string& database, const std::string& path);
void writeXlsxByHand(const std::string& database, const std::string& path);

}  // namespace bench
