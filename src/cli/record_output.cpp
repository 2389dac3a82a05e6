#include "cli/record_output.h"

#include <algorithm>

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
  Status begin() override { return {}; }
  Status record(const ValueTuple& values) override {
    std::vector<std::string> cells;
    for (const Value& v : values) cells.push_back(cell(v));
    if (flushed_) return sink_(table_.line(cells));
    table_.add(std::move(cells));
    return table_.rows() < kRowsThatSettleWidths ? Status() : flush();
  }
  Status end() override { return flushed_ ? Status() : flush(); }

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
  Status flush() {
    flushed_ = true;
    return sink_(table_.text());
  }
  std::vector<Column> columns_;
  Sink sink_;
  TextTable table_;
  bool flushed_ = false;
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

std::unique_ptr<RecordWriter> makeTableWriter(std::vector<Column> columns, RecordWriter::Sink sink) {
  return std::make_unique<TableWriter>(std::move(columns), std::move(sink));
}

}  // namespace iterandum::cli
