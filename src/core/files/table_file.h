// A file with corrections: its form found by what it holds, and its lines again as often as they are wanted.
#pragma once

#include <optional>

#include "core/files/delimited_text.h"
#include "core/files/file_header.h"
#include "core/files/spreadsheet.h"

namespace iterandum {

struct TableFileOptions {
  std::string name;           // of the file: what calls itself CSV is none of the other forms
  std::string sheet;          // of a spreadsheet; empty: the first that has a header
  std::string delimiter;      // a sign, or comma, semicolon, tab, bar; empty: it is found
  std::string noValue;        // of a delimited text, besides an empty field
  std::string encoding = {};  // of a text, as ICU calls it; empty: it is found
};

class TableFile {
 public:
  // Errors: InvalidFile; InvalidInput, NotFound: options that do not fit the file.
  [[nodiscard]] static Result<std::unique_ptr<TableFile>> open(const TableFileOptions& options, const Table& table,
                                                               std::string content);
  // None where it is no spreadsheet.
  [[nodiscard]] std::vector<std::string> sheets() const;
  // From its first line: of the sheet that was asked for, or the first that has a header.
  [[nodiscard]] Result<std::unique_ptr<TableSource>> lines();
  // The same behind the header. Errors: InvalidFile where there is none.
  [[nodiscard]] Result<std::unique_ptr<TableSource>> linesBehindHeader(const Table& table,
                                                                       const std::vector<const Column*>& match,
                                                                       FileHeader& header,
                                                                       const HeaderOptions& options = {});
  // The names of its columns where no line says which record is meant. Errors: as likelyHeader().
  [[nodiscard]] Result<FileHeader> likelyColumns(const Table& table, const HeaderOptions& options);
  // What is to be said about how it was read; empty: nothing.
  [[nodiscard]] const std::string& note() const { return text_.note; }
  // How its letters are written; empty: it is no text.
  [[nodiscard]] const std::string& encoding() const { return text_.encoding; }
  // What parts its fields; nothing: it is no delimited text.
  [[nodiscard]] std::optional<char> delimiter() const {
    return form_ == Form::Delimited ? std::optional(delimiter_) : std::nullopt;
  }

 private:
  enum class Form { Delimited, Json, Spreadsheet };
  [[nodiscard]] Result<std::unique_ptr<TableSource>> sheet(std::size_t index);

  Form form_ = Form::Delimited;
  std::string content_;
  TextForm text_;
  char delimiter_ = ',';
  std::string noValue_;
  std::unique_ptr<Spreadsheet> spreadsheet_;
  std::optional<std::size_t> sheet_;
};

}  // namespace iterandum
