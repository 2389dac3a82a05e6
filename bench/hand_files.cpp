#include "hand_files.h"

#include <expat.h>
#include <sqlite3.h>
#include <xlsxwriter.h>
#include <zip.h>

#include <array>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <iterator>
#include <memory>
#include <string_view>
#include <vector>

#include "measure.h"

namespace bench {
namespace {

struct CloseDatabase {
  void operator()(sqlite3* db) const { sqlite3_close(db); }
};
struct FinishStatement {
  void operator()(sqlite3_stmt* s) const { sqlite3_finalize(s); }
};
using Database = std::unique_ptr<sqlite3, CloseDatabase>;
using Statement = std::unique_ptr<sqlite3_stmt, FinishStatement>;

Database openDatabase(const std::string& path) {
  sqlite3* db = nullptr;
  if (sqlite3_open_v2(path.c_str(), &db, SQLITE_OPEN_READWRITE, nullptr) != SQLITE_OK) stop("cannot open " + path);
  return Database(db);
}
Statement prepare(const Database& db, const char* sql) {
  sqlite3_stmt* s = nullptr;
  if (sqlite3_prepare_v2(db.get(), sql, -1, &s, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(db.get()));
  return Statement(s);
}
std::string_view text(sqlite3_stmt* s, int column) {
  const auto* held = reinterpret_cast<const char*>(sqlite3_column_text(s, column));
  return held == nullptr ? std::string_view()
                         : std::string_view(held, static_cast<std::size_t>(sqlite3_column_bytes(s, column)));
}

// One line of RFC 4180; the fields' room is used again.
bool readLine(std::string_view& rest, std::vector<std::string>& fields) {
  if (rest.empty()) return false;
  std::size_t used = 0;
  while (true) {
    if (used == fields.size()) fields.emplace_back();
    std::string& field = fields[used++];
    field.clear();
    if (!rest.empty() && rest.front() == '"') {
      rest.remove_prefix(1);
      while (true) {
        const std::size_t quote = rest.find('"');
        if (quote == std::string_view::npos) stop("an open quote");
        field.append(rest.substr(0, quote));
        rest.remove_prefix(quote + 1);
        if (rest.empty() || rest.front() != '"') break;
        field += '"';
        rest.remove_prefix(1);
      }
    } else {
      const std::size_t end = std::min(rest.find_first_of(",\r\n"), rest.size());
      field.assign(rest.substr(0, end));
      rest.remove_prefix(end);
    }
    if (rest.empty() || rest.front() != ',') break;
    rest.remove_prefix(1);
  }
  fields.resize(used);
  if (!rest.empty() && rest.front() == '\r') rest.remove_prefix(1);
  if (!rest.empty() && rest.front() == '\n') rest.remove_prefix(1);
  return true;
}

std::string wholeFile(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  std::string out;
  in.seekg(0, std::ios::end);
  out.resize(static_cast<std::size_t>(in.tellg()));
  in.seekg(0);
  in.read(out.data(), static_cast<std::streamsize>(out.size()));
  return out;
}

// The records of the table, one after the other by their keys, against fields; what differs is kept.
class Comparison {
 public:
  explicit Comparison(const std::string& database) : db_(openDatabase(database)) {
    // One transaction: else each look-up takes and gives back the file's lock.
    if (sqlite3_exec(db_.get(), "BEGIN", nullptr, nullptr, nullptr) != SQLITE_OK) stop(sqlite3_errmsg(db_.get()));
    read_ = prepare(db_, "SELECT * FROM reading WHERE id = ?");
  }
  void hold(const std::vector<std::string>& fields) {
    const std::int64_t key = std::stoll(fields[0]);
    sqlite3_reset(read_.get());
    sqlite3_bind_int64(read_.get(), 1, key);
    if (sqlite3_step(read_.get()) != SQLITE_ROW) stop("a record is missing");
    for (std::size_t c = 1; c < fields.size(); ++c) {
      const std::string_view held = text(read_.get(), static_cast<int>(c));
      if (held != fields[c]) differ_.push_back({key, c, std::string(held), fields[c]});
    }
  }
  [[nodiscard]] std::size_t cells() const { return differ_.size(); }

 private:
  struct Cell {
    std::int64_t key;
    std::size_t column;
    std::string from;
    std::string to;
  };
  Database db_;
  Statement read_;
  std::vector<Cell> differ_;
};

// The cells of a sheet, as far as our own lists have them: numbers, and texts that lie apart or in place.
struct XlsxReading {
  std::vector<std::string> texts;
  std::string value;
  std::vector<std::string> fields;
  std::size_t at = 0;
  bool reads = false;
  bool shared = false;
  bool heads = true;
  Comparison* comparison = nullptr;
};

void readPart(zip_t* zip, const char* name, XlsxReading& reading, XML_StartElementHandler begin,
              XML_EndElementHandler end) {
  zip_file_t* file = zip_fopen(zip, name, 0);
  if (file == nullptr) return;
  XML_Parser parser = XML_ParserCreate(nullptr);
  XML_SetUserData(parser, &reading);
  XML_SetElementHandler(parser, begin, end);
  XML_SetCharacterDataHandler(parser, [](void* self, const char* piece, int size) {
    auto& to = *static_cast<XlsxReading*>(self);
    if (to.reads) to.value.append(piece, static_cast<std::size_t>(size));
  });
  std::array<char, 65536> buffer{};
  while (true) {
    const zip_int64_t size = zip_fread(file, buffer.data(), buffer.size());
    if (size < 0) stop("a damaged archive");
    if (XML_Parse(parser, buffer.data(), static_cast<int>(size), size == 0 ? 1 : 0) != XML_STATUS_OK)
      stop("damaged XML");
    if (size == 0) break;
  }
  XML_ParserFree(parser);
  zip_fclose(file);
}

bool is(const char* name, const char* other) { return std::strcmp(name, other) == 0; }

void beginCell(void* self, const char* name, const char** attributes) {
  auto& to = *static_cast<XlsxReading*>(self);
  if (is(name, "row")) {
    for (std::string& field : to.fields) field.clear();
  } else if (is(name, "c")) {
    to.shared = false;
    for (; *attributes != nullptr; attributes += 2) {
      if (is(attributes[0], "r")) to.at = static_cast<std::size_t>(attributes[1][0] - 'A');
      if (is(attributes[0], "t")) to.shared = is(attributes[1], "s");
    }
  } else if (is(name, "v") || is(name, "t")) {
    to.reads = true;
    to.value.clear();
  }
}

void endCell(void* self, const char* name) {
  auto& to = *static_cast<XlsxReading*>(self);
  if (is(name, "v") || is(name, "t")) {
    to.reads = false;
    if (to.at < to.fields.size()) to.fields[to.at] = to.shared ? to.texts.at(std::stoul(to.value)) : to.value;
  } else if (is(name, "row")) {
    if (!to.heads) to.comparison->hold(to.fields);
    to.heads = false;
  }
}

}  // namespace

std::size_t compareCsvByHand(const std::string& database, const std::string& csv, std::size_t columns) {
  Comparison comparison(database);
  const std::string content = wholeFile(csv);
  std::string_view rest = content;
  std::vector<std::string> fields;
  readLine(rest, fields);  // the heads
  while (readLine(rest, fields)) {
    if (fields.size() != columns) stop("a line of another width");
    comparison.hold(fields);
  }
  return comparison.cells();
}

std::size_t compareXlsxByHand(const std::string& database, const std::string& path, std::size_t columns) {
  Comparison comparison(database);
  zip_t* zip = zip_open(path.c_str(), ZIP_RDONLY, nullptr);
  if (zip == nullptr) stop("no archive");
  XlsxReading reading;
  reading.fields.resize(columns);
  reading.comparison = &comparison;
  readPart(zip, "xl/sharedStrings.xml", reading, beginCell, [](void* self, const char* name) {
    auto& to = *static_cast<XlsxReading*>(self);
    if (!is(name, "t")) return;
    to.reads = false;
    to.texts.push_back(to.value);
  });
  readPart(zip, "xl/worksheets/sheet1.xml", reading, beginCell, endCell);
  zip_discard(zip);
  return comparison.cells();
}

void writeCsvByHand(const std::string& database, const std::string& path) {
  const Database db = openDatabase(database);
  const Statement read = prepare(db, "SELECT * FROM reading");
  FILE* out = std::fopen(path.c_str(), "wb");
  const int columns = sqlite3_column_count(read.get());
  std::string line;
  const auto field = [&](std::string_view held, bool isText) {
    if (held.find_first_of(",\"\r\n") == std::string_view::npos && (!held.empty() || !isText)) {
      line += held;
      return;
    }
    line += '"';
    for (const char c : held) {
      if (c == '"') line += '"';
      line += c;
    }
    line += '"';
  };
  for (int c = 0; c < columns; ++c) {
    if (c > 0) line += ',';
    field(sqlite3_column_name(read.get(), c), true);
  }
  while (true) {
    line += "\r\n";
    std::fwrite(line.data(), 1, line.size(), out);
    if (sqlite3_step(read.get()) != SQLITE_ROW) break;
    line.clear();
    for (int c = 0; c < columns; ++c) {
      if (c > 0) line += ',';
      field(text(read.get(), c), sqlite3_column_type(read.get(), c) == SQLITE_TEXT);
    }
  }
  std::fclose(out);
}

void writeXlsxByHand(const std::string& database, const std::string& path) {
  const Database db = openDatabase(database);
  const Statement read = prepare(db, "SELECT * FROM reading");
  const int columns = sqlite3_column_count(read.get());
  lxw_workbook_options options{};
  options.constant_memory = LXW_TRUE;
  lxw_workbook* book = workbook_new_opt(path.c_str(), &options);
  lxw_worksheet* sheet = workbook_add_worksheet(book, nullptr);
  for (int c = 0; c < columns; ++c)
    worksheet_write_string(sheet, 0, static_cast<lxw_col_t>(c), sqlite3_column_name(read.get(), c), nullptr);
  for (lxw_row_t row = 1; sqlite3_step(read.get()) == SQLITE_ROW; ++row) {
    for (int c = 0; c < columns; ++c) {
      const auto at = static_cast<lxw_col_t>(c);
      const int type = sqlite3_column_type(read.get(), c);
      if (type == SQLITE_INTEGER || type == SQLITE_FLOAT) {
        worksheet_write_number(sheet, row, at, sqlite3_column_double(read.get(), c), nullptr);
      } else if (type == SQLITE_TEXT) {
        worksheet_write_string(sheet, row, at, std::string(text(read.get(), c)).c_str(), nullptr);
      }
    }
  }
  workbook_close(book);
}

}  // namespace bench
