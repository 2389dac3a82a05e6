#include "cli/record_output.h"

#include <algorithm>

#include "core/value/json.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

constexpr std::size_t kRowsThatSettleWidths = 200;
constexpr std::size_t kWidestCell = 60;

std::size_t characters(const std::string& s) {
  return static_cast<std::size_t>(
      std::count_if(s.begin(), s.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0) != 0x80; }));
}

std::string shortened(const std::string& s) {
  if (characters(s) <= kWidestCell) return s;
  std::size_t seen = 0;
  for (std::size_t i = 0; i < s.size(); ++i) {
    if ((static_cast<unsigned char>(s[i]) & 0xC0) != 0x80 && ++seen == kWidestCell) return s.substr(0, i) + "…";
  }
  return s;
}

class TableWriter final : public RecordWriter {
 public:
  TableWriter(std::vector<Column> columns, Sink sink)
      : columns_(std::move(columns)), sink_(std::move(sink)), table_(heads(), right()) {}
  bool begin() override { return true; }
  bool record(const ValueTuple& values) override {
    std::vector<std::string> cells;
    for (const Value& v : values) cells.push_back(cell(v));
    if (flushed_) return sink_(table_.line(cells));
    table_.add(std::move(cells));
    return table_.rows() < kRowsThatSettleWidths || flush();
  }
  bool end() override { return flushed_ || flush(); }

 private:
  static std::string cell(const Value& v) {
    if (v.isNull()) return "no value";
    if (v.isString() && v.asString().empty()) return "empty text";
    if (v.kind() == Value::Kind::Bytes) return std::to_string(v.asString().size()) + " bytes";
    return shortened(visibleText(canonicalText(v)));
  }
  [[nodiscard]] std::vector<std::string> heads() const {
    std::vector<std::string> out;
    for (const Column& c : columns_) out.push_back(visibleText(c.name));
    return out;
  }
  [[nodiscard]] std::vector<bool> right() const {
    std::vector<bool> out;
    for (const Column& c : columns_)
      out.push_back(c.type == TypeClass::Integer || c.type == TypeClass::Real || c.type == TypeClass::Decimal);
    return out;
  }
  bool flush() {
    flushed_ = true;
    return sink_(table_.text());
  }
  std::vector<Column> columns_;
  Sink sink_;
  TextTable table_;
  bool flushed_ = false;
};

class CsvWriter final : public RecordWriter {
 public:
  CsvWriter(std::vector<Column> columns, std::string nullMark, Sink sink)
      : columns_(std::move(columns)), null_(std::move(nullMark)), sink_(std::move(sink)) {}
  bool begin() override {
    std::string line;
    for (const Column& c : columns_) line += (line.empty() ? "" : ",") + field(c.name);
    return sink_(line + "\r\n");
  }
  bool record(const ValueTuple& values) override {
    std::string line;
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (i > 0) line += ',';
      line += values[i].isNull() ? null_ : field(canonicalText(values[i]));
    }
    return sink_(line + "\r\n");
  }
  bool end() override { return true; }

 private:
  [[nodiscard]] std::string field(const std::string& s) const {
    // Text that could be taken for the mark of "no value" is told apart from it by its quotes.
    const bool quote = s.empty() || s == null_ || s.find_first_of(",\"\r\n") != std::string::npos || s.front() == ' ' ||
                       s.back() == ' ';
    if (!quote) return s;
    std::string out = "\"";
    for (const char c : s) {
      if (c == '"') out += '"';
      out += c;
    }
    return out + "\"";
  }
  std::vector<Column> columns_;
  std::string null_;
  Sink sink_;
};

class JsonRecordWriter final : public RecordWriter {
 public:
  JsonRecordWriter(std::vector<Column> columns, Sink sink) : columns_(std::move(columns)), sink_(std::move(sink)) {}
  bool begin() override { return sink_("["); }
  bool record(const ValueTuple& values) override {
    JsonWriter out;
    out.beginObject();
    for (std::size_t i = 0; i < values.size(); ++i) {
      out.name(columns_[i].name).value(values[i], columns_[i].type == TypeClass::Any);
    }
    out.endObject();
    const bool first = first_;
    first_ = false;
    return sink_((first ? "\n" : ",\n") + out.take());
  }
  bool end() override { return sink_(first_ ? "]\n" : "\n]\n"); }

 private:
  std::vector<Column> columns_;
  Sink sink_;
  bool first_ = true;
};

}  // namespace

void TextTable::settle() {
  widths_.clear();
  for (std::size_t c = 0; c < heads_.size(); ++c) {
    std::size_t width = characters(heads_[c]);
    for (const auto& row : rows_) width = std::max(width, characters(row[c]));
    widths_.push_back(width);
  }
}

std::string TextTable::line(const std::vector<std::string>& cells) const {
  std::string out;
  for (std::size_t c = 0; c < cells.size(); ++c) {
    const std::size_t used = characters(cells[c]);
    const std::string pad(widths_[c] > used ? widths_[c] - used : 0, ' ');
    if (c > 0) out += "  ";
    out += right_[c] ? pad + cells[c] : cells[c] + pad;
  }
  out.erase(out.find_last_not_of(' ') + 1);
  return out + "\n";
}

std::string TextTable::text() {
  settle();
  std::string out = line(heads_);
  std::vector<std::string> rule;
  for (const std::size_t width : widths_) {
    std::string dashes;
    for (std::size_t i = 0; i < width; ++i) dashes += "─";
    rule.push_back(dashes);
  }
  out += line(rule);
  for (const auto& row : rows_) out += line(row);
  return out;
}

std::unique_ptr<RecordWriter> makeRecordWriter(const std::string& format, std::vector<Column> columns,
                                               const std::string& nullMark, RecordWriter::Sink sink) {
  if (format == "csv") return std::make_unique<CsvWriter>(std::move(columns), nullMark, std::move(sink));
  if (format == "json") return std::make_unique<JsonRecordWriter>(std::move(columns), std::move(sink));
  return std::make_unique<TableWriter>(std::move(columns), std::move(sink));
}

}  // namespace iterandum::cli
