#include "core/files/record_writer.h"

#include <algorithm>

#include "core/value/html_text.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

bool isNumeric(const Column& column) {
  return column.type == TypeClass::Integer || column.type == TypeClass::Real || column.type == TypeClass::Decimal;
}

class DelimitedWriter final : public RecordWriter {
 public:
  DelimitedWriter(RecordForm form, char delimiter, Sink sink)
      : form_(std::move(form)), delimiter_(delimiter), sink_(std::move(sink)) {}
  Status begin() override {
    std::string line;
    for (std::size_t i = 0; i < form_.columns.size(); ++i) {
      if (i > 0) line += delimiter_;
      line += delimitedField(form_.columns[i].name, delimiter_, form_.noValue);
    }
    return sink_(line + "\r\n");
  }
  Status record(const ValueTuple& values) override {
    std::string line;
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (i > 0) line += delimiter_;
      line += values[i].isNull() ? form_.noValue : delimitedField(canonicalText(values[i]), delimiter_, form_.noValue);
    }
    return sink_(line + "\r\n");
  }
  Status end() override { return {}; }

 private:
  RecordForm form_;
  char delimiter_;
  Sink sink_;
};

class JsonRecordWriter final : public RecordWriter {
 public:
  JsonRecordWriter(RecordForm form, bool byLine, Sink sink)
      : form_(std::move(form)), byLine_(byLine), sink_(std::move(sink)) {}
  Status begin() override { return byLine_ ? Status() : sink_("["); }
  Status record(const ValueTuple& values) override {
    JsonWriter out;
    out.beginObject();
    for (std::size_t i = 0; i < values.size(); ++i) {
      out.name(form_.columns[i].name).value(values[i], form_.columns[i].type == TypeClass::Any);
    }
    out.endObject();
    const bool first = first_;
    first_ = false;
    return sink_(byLine_ ? out.take() + "\n" : (first ? "\n" : ",\n") + out.take());
  }
  Status end() override { return byLine_ ? Status() : sink_(first_ ? "]\n" : "\n]\n"); }

 private:
  RecordForm form_;
  bool byLine_;
  Sink sink_;
  bool first_ = true;
};

class MarkdownWriter final : public RecordWriter {
 public:
  MarkdownWriter(RecordForm form, Sink sink) : form_(std::move(form)), sink_(std::move(sink)) {}
  Status begin() override {
    std::string heads = "|";
    std::string rule = "|";
    for (const Column& column : form_.columns) {
      heads += " " + escaped(column.name) + " |";
      rule += isNumeric(column) ? " ---: |" : " --- |";
    }
    const std::string title = form_.title.empty() ? "" : escaped(form_.title) + "\n\n";
    return sink_(title + heads + "\n" + rule + "\n");
  }
  Status record(const ValueTuple& values) override {
    std::string line = "|";
    for (const Value& v : values) {
      const bool empty = v.isString() && v.asString().empty();
      line += v.isNull() ? " |" : (empty ? " '' |" : " " + escaped(canonicalText(v)) + " |");
    }
    return sink_(line + "\n");
  }
  Status end() override { return {}; }

 private:
  static std::string escaped(const std::string& text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
      const char c = text[i];
      if (c == '\r' && i + 1 < text.size() && text[i + 1] == '\n') continue;
      if (c == '\n' || c == '\r') {
        out += "<br>";
      } else if (c == '<') {
        out += "&lt;";
      } else if (c == '&') {
        out += "&amp;";
      } else {
        if (std::string_view("|\\`*_[]~").find(c) != std::string_view::npos) out += '\\';
        out += c;
      }
    }
    return out;
  }
  RecordForm form_;
  Sink sink_;
};

class HtmlWriter final : public RecordWriter {
 public:
  HtmlWriter(RecordForm form, Sink sink) : form_(std::move(form)), sink_(std::move(sink)) {}
  Status begin() override {
    const std::string title = htmlText(form_.title.empty() ? "Records" : form_.title);
    std::string out =
        "<!DOCTYPE html>\n<html>\n<head>\n<meta charset=\"utf-8\">\n<title>" + title +
        "</title>\n<style>\ntable { border-collapse: collapse; font-family: sans-serif; }\n"
        "caption { text-align: left; padding: 4px 0; }\n"
        "th, td { border-bottom: 1px solid #bbb; padding: 2px 8px; text-align: left; vertical-align: top; "
        "white-space: pre-wrap; }\n.number { text-align: right; }\n"
        ".none::after { content: \"no value\"; color: #666; font-style: italic; }\n"
        "</style>\n</head>\n<body>\n<table>\n<caption>" +
        title + "</caption>\n<thead>\n<tr>";
    for (const Column& column : form_.columns) {
      out += std::string(isNumeric(column) ? "<th class=\"number\">" : "<th>") + htmlText(column.name) + "</th>";
    }
    return sink_(out + "</tr>\n</thead>\n<tbody>\n");
  }
  Status record(const ValueTuple& values) override {
    std::string line = "<tr>";
    for (const Value& v : values) {
      line += v.isNull() ? "<td class=\"none\"></td>"
                         : (v.isNumber() ? "<td class=\"number\">" : "<td>") + htmlText(canonicalText(v)) + "</td>";
    }
    return sink_(line + "</tr>\n");
  }
  Status end() override { return sink_("</tbody>\n</table>\n</body>\n</html>\n"); }

 private:
  RecordForm form_;
  Sink sink_;
};

// INSERT statements in the language of the database that the records are from. What it computes by itself is left out.
class SqlWriter final : public RecordWriter {
 public:
  SqlWriter(RecordForm form, Sink sink) : form_(std::move(form)), sink_(std::move(sink)) {}
  Status begin() override {
    std::string out;
    for (const std::string& line : form_.session->scriptOpening({})) out += line + "\n";
    for (std::size_t i = 0; i < form_.columns.size(); ++i) {
      const Column* column = form_.table->column(form_.columns[i].name);
      if (column == nullptr || column->computed) continue;
      at_.push_back(i);
      columns_.push_back(column->name);
    }
    return sink_(out);
  }
  Status record(const ValueTuple& values) override {
    ValueTuple wanted;
    for (const std::size_t i : at_) wanted.push_back(values[i]);
    return sink_(form_.session->insertText(*form_.table, columns_, wanted) + "\n");
  }
  Status end() override {
    std::string out;
    for (const std::string& line : form_.session->scriptClosing()) out += line + "\n";
    return sink_(out);
  }

 private:
  RecordForm form_;
  Sink sink_;
  std::vector<std::size_t> at_;
  std::vector<std::string> columns_;
};

}  // namespace

std::string delimitedField(const std::string& text, char delimiter, const std::string& noValue) {
  const bool quote = text.empty() || text == noValue || text.front() == ' ' || text.back() == ' ' ||
                     text.find_first_of("\"\r\n") != std::string::npos || text.find(delimiter) != std::string::npos;
  if (!quote) return text;
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + "\"";
}

const std::vector<std::string>& recordFormats() {
  static const std::vector<std::string> kFormats{"csv", "tsv", "json", "jsonl", "markdown", "html", "xlsx", "sql"};
  return kFormats;
}

std::unique_ptr<RecordWriter> makeRecordWriter(const std::string& format, RecordForm form, RecordWriter::Sink sink) {
  if (format == "csv") return std::make_unique<DelimitedWriter>(std::move(form), ',', std::move(sink));
  if (format == "tsv") return std::make_unique<DelimitedWriter>(std::move(form), '\t', std::move(sink));
  if (format == "markdown") return std::make_unique<MarkdownWriter>(std::move(form), std::move(sink));
  if (format == "html") return std::make_unique<HtmlWriter>(std::move(form), std::move(sink));
  if (format == "xlsx") return makeXlsxWriter(std::move(form), std::move(sink));
  if (format == "sql") return std::make_unique<SqlWriter>(std::move(form), std::move(sink));
  return std::make_unique<JsonRecordWriter>(std::move(form), format == "jsonl", std::move(sink));
}

}  // namespace iterandum
