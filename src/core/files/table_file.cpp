#include "core/files/table_file.h"

#include <algorithm>

#include "core/base/names.h"
#include "core/files/json_records.h"
#include "core/files/working_copy.h"
#include "core/scope/column_path.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

Result<char> delimiterCalled(const std::string& word) {
  if (word == "comma") return ',';
  if (word == "semicolon") return ';';
  if (word == "tab" || word == "\\t") return '\t';
  if (word == "bar") return '|';
  const bool fits = word.size() == 1 && word != "\"" && word != "\n" && word != "\r";
  if (fits) return word.front();
  return fail(ErrorKind::InvalidInput, "one sign is wanted, or comma, semicolon, tab, bar; not '" + word + "'",
              "--delimiter");
}

// A list, a name or an object begins a JSON document; a file that calls itself otherwise is no such thing.
bool looksLikeJson(const std::string& text, const std::string& path) {
  for (const char* ending : {".csv", ".tsv", ".txt"}) {
    if (path.ends_with(ending)) return false;
  }
  const std::size_t first = text.find_first_not_of(" \t\r\n");
  return first != std::string::npos && (text[first] == '[' || text[first] == '{');
}

}  // namespace

std::vector<std::string> TableFile::sheets() const {
  return spreadsheet_ ? spreadsheet_->sheets() : std::vector<std::string>();
}

Result<std::unique_ptr<TableFile>> TableFile::open(const TableFileOptions& options, const Table& table,
                                                   std::string content) {
  auto out = std::make_unique<TableFile>();
  out->noValue_ = options.noValue;
  out->content_ = std::move(content);
  if (looksLikeSpreadsheet(out->content_)) {
    out->form_ = Form::Spreadsheet;
    ITERANDUM_ASSIGN(out->spreadsheet_, Spreadsheet::open(out->content_));
    const std::vector<std::string>& names = out->spreadsheet_->sheets();
    if (contains(names, kCopySheet) && options.sheet.empty()) {
      return fail(ErrorKind::InvalidFile, "it is a working copy; bring-back stages what was changed in it");
    }
    if (options.sheet.empty()) return out;
    const auto found = std::find(names.begin(), names.end(), options.sheet);
    if (found == names.end()) {
      std::string known;
      for (const std::string& name : names) known += (known.empty() ? "" : ", ") + name;
      return fail(ErrorKind::NotFound, "there is no sheet '" + options.sheet + "' in it; there are " + known,
                  "--sheet");
    }
    out->sheet_ = static_cast<std::size_t>(found - names.begin());
    return out;
  }
  if (!options.sheet.empty()) return fail(ErrorKind::InvalidInput, "only a spreadsheet has sheets", "--sheet");
  out->text_.encoding = options.encoding;
  ITERANDUM_ASSIGN(out->content_, textOfFile(std::move(out->content_), out->text_));
  if (looksLikeJson(out->content_, options.name)) {
    out->form_ = Form::Json;
    return out;
  }
  if (!options.delimiter.empty()) {
    ITERANDUM_ASSIGN(out->delimiter_, delimiterCalled(options.delimiter));
  } else {
    out->delimiter_ = delimiterOf(out->content_, [&](const std::string& text) {
      const std::string name = trimmed(text);
      return !name.empty() && columnCalled(table, name) != nullptr;
    });
  }
  return out;
}

Result<std::unique_ptr<TableSource>> TableFile::sheet(std::size_t index) {
  if (index >= spreadsheet_->sheets().size()) return fail(ErrorKind::InvalidFile, "there is no sheet in it");
  return spreadsheet_->sheet(index);
}

Result<std::unique_ptr<TableSource>> TableFile::lines() {
  if (form_ == Form::Spreadsheet) return sheet(sheet_.value_or(0));
  if (form_ == Form::Json) {
    ITERANDUM_ASSIGN(std::unique_ptr<JsonRecords> records, JsonRecords::open(content_));
    return std::unique_ptr<TableSource>(std::move(records));
  }
  return std::unique_ptr<TableSource>(std::make_unique<DelimitedText>(content_, DelimitedForm{delimiter_, noValue_}));
}

Result<std::unique_ptr<TableSource>> TableFile::linesBehindHeader(const Table& table,
                                                                  const std::vector<const Column*>& match,
                                                                  FileHeader& header, const HeaderOptions& options) {
  const auto behind = [&]() -> Result<std::unique_ptr<TableSource>> {
    ITERANDUM_ASSIGN(std::unique_ptr<TableSource> source, lines());
    ITERANDUM_ASSIGN(header, findHeader(*source, table, match, options));
    return source;
  };
  if (form_ != Form::Spreadsheet || sheet_) return behind();
  for (std::size_t i = 0; i < spreadsheet_->sheets().size(); ++i) {
    sheet_ = i;
    auto source = behind();
    if (source || source.error().kind != ErrorKind::NotFound) return source;
  }
  sheet_.reset();
  return behind();
}

Result<FileHeader> TableFile::likelyColumns(const Table& table, const HeaderOptions& options) {
  ITERANDUM_ASSIGN(const std::unique_ptr<TableSource> source, lines());
  return likelyHeader(*source, table, options);
}

}  // namespace iterandum
