// RecordWriter: records as they leave, in the formats that other programs and people read. None holds more than a few
// records, whatever their number.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/engines/session.h"

namespace iterandum {

class RecordWriter {
 public:
  // Gets what is written, piece by piece. Errors are handed on.
  using Sink = std::function<Status(std::string_view piece)>;
  RecordWriter() = default;
  RecordWriter(const RecordWriter&) = delete;
  RecordWriter& operator=(const RecordWriter&) = delete;
  virtual ~RecordWriter() = default;
  [[nodiscard]] virtual Status begin() = 0;
  [[nodiscard]] virtual Status record(const ValueTuple& values) = 0;
  // Nothing may follow.
  [[nodiscard]] virtual Status end() = 0;
};

struct RecordForm {
  std::vector<Column> columns;       // what each value is, under the name that heads it
  std::string noValue;               // CSV, TSV: what stands for no value
  std::string title;                 // which records these are, in words
  const Table* table = nullptr;      // SQL: whose records; not owned
  const Session* session = nullptr;  // SQL: whose language; not owned
};

// csv, tsv, json, jsonl, markdown, html, xlsx or sql. REQUIRES: one of these.
// docs/command-line.md says what no value, empty text and the like look like in each.
[[nodiscard]] std::unique_ptr<RecordWriter> makeRecordWriter(const std::string& format, RecordForm form,
                                                             RecordWriter::Sink sink);
// The formats, in this order.
[[nodiscard]] const std::vector<std::string>& recordFormats();

// XLSX alone, through libxlsxwriter.
[[nodiscard]] std::unique_ptr<RecordWriter> makeXlsxWriter(RecordForm form, RecordWriter::Sink sink);

// A field as CSV and its relatives write it; quoted where it has to be, or could be taken for the mark of no value.
[[nodiscard]] std::string delimitedField(const std::string& text, char delimiter, const std::string& noValue);

}  // namespace iterandum
