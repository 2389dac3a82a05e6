// Files that are read: texts with signs between fields, JSON records, numbers and days as spreadsheets keep them,
// values as people write them, archives that are none or too much.
#include <gmock/gmock.h>

#include <chrono>
#include <fstream>
#include <random>

#include "core/files/cell_values.h"
#include "core/files/delimited_text.h"
#include "core/files/file_header.h"
#include "core/files/json_records.h"
#include "core/files/record_writer.h"
#include "core/files/spreadsheet.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using CellKind = FileCell::Kind;

// A line for each line, fields with bars between: <> is no value, "" what stood in quotes.
std::string allOf(TableSource& source) {
  std::string out;
  FileLine line;
  while (true) {
    const auto more = source.next(line);
    if (!more) return out + "! " + more.error().text();
    if (!*more) return out;
    out += std::to_string(line.number) + ":";
    for (std::size_t i = 0; i < line.cells.size(); ++i) {
      const FileCell& cell = line.cells[i];
      out += i > 0 ? "|" : "";
      if (cell.kind == CellKind::Absent) out += "-";
      if (cell.kind == CellKind::None) out += "<>";
      const std::string text = cellText(cell);
      if (cell.kind != CellKind::Absent && cell.kind != CellKind::None) out += cell.quoted ? "\"" + text + "\"" : text;
    }
    out += "\n";
  }
}

std::string read(std::string_view text, DelimitedForm form = {}) {
  DelimitedText source(text, std::move(form));
  return allOf(source);
}

TEST(DelimitedTextTest, ReadsWhatTheStandardSaysAndWhatIsOutThere) {
  EXPECT_EQ("1:a|b\n2:1|<>\n3:\"\"|2\n", read("a,b\r\n1,\r\n\"\",2"));
  EXPECT_EQ("1:\"a,b\"|\"c\"\"\n", read("\"a,b\",\"c\"\"\""));
  EXPECT_EQ("1:\"two\nlines\"|x\n3:y\n", read("\"two\nlines\",x\ny\n"));
  EXPECT_EQ("1:a\n2:b\n3:c\n", read("a\rb\nc\r\n"));
  EXPECT_EQ("1:a\"b|<>\n", read("a\"b,"));  // a quote inside a field that is not quoted
  EXPECT_EQ("1:<>\n2:<>|<>\n", read("\n,\n"));
  EXPECT_EQ("", read(""));
  EXPECT_EQ("1:a,b|c\n", read("a,b\tc", {'\t'}));
  EXPECT_EQ("1:<>|\"NULL\"|<>\n", read("NULL,\"NULL\",", {',', "NULL"}));
  EXPECT_EQ("! line 1: the quote that opens here is not closed", read("\"a,b\nc"));
  EXPECT_EQ("1:x\n! line 2: something stands behind a closing quote", read("x\n\"a\"b"));
}

TEST(DelimitedTextTest, WhatIsWrittenIsReadAgain) {
  std::mt19937 random(7);
  const std::string letters = "ab,;\t\"\r\n| '";
  for (int i = 0; i < 3000; ++i) {
    std::string line;
    std::string wanted = "1:";
    const char delimiter = ",;\t|"[random() % 4];
    const int fields = 1 + static_cast<int>(random() % 4);
    std::vector<std::string> texts;
    for (int f = 0; f < fields; ++f) {
      std::string text;
      for (std::size_t n = random() % 6; n > 0; --n) text += letters[random() % letters.size()];
      texts.push_back(text);
      line += (f > 0 ? std::string(1, delimiter) : "") + delimitedField(text, delimiter, "");
    }
    DelimitedText source(line, {delimiter});
    FileLine found;
    const auto more = source.next(found);
    ASSERT_TRUE(more && *more) << line;
    ASSERT_EQ(texts.size(), found.cells.size()) << line;
    for (std::size_t f = 0; f < texts.size(); ++f) {
      EXPECT_EQ(CellKind::Text, found.cells[f].kind);
      EXPECT_EQ(texts[f], found.cells[f].text) << line;
    }
  }
}

TEST(DelimitedTextTest, TheSignIsFoundByTheColumnsItLeaves) {
  const auto isColumn = [](const std::string& text) { return text == "tree_id" || text == "note"; };
  EXPECT_EQ(',', delimiterOf("tree_id,note\n1,a;b;c\n", isColumn));
  EXPECT_EQ(';', delimiterOf("Corrections, as of May, all of them\ntree_id;note\n1;2,5\n", isColumn));
  EXPECT_EQ('\t', delimiterOf("tree_id\tnote\n", isColumn));
  EXPECT_EQ('|', delimiterOf("tree_id|note\n", isColumn));
  EXPECT_EQ(';', delimiterOf("id;remark\n1;x\n", isColumn));
  EXPECT_EQ(',', delimiterOf("tree_id\n7\n", isColumn));
  EXPECT_EQ(',', delimiterOf("", isColumn));
}

TEST(DelimitedTextTest, EncodingsAreTold) {
  const auto read = [](const std::string& content, const std::string& wanted = {}) {
    TextForm form{wanted, {}};
    auto text = textOfFile(content, form);
    return (text ? *text : text.error().text()) + "|" + form.encoding + (form.note.empty() ? "" : "|" + form.note);
  };
  EXPECT_EQ("a|UTF-8", read("\xEF\xBB\xBF"
                            "a"));
  EXPECT_EQ("\xC3\xA4|UTF-16LE", read(std::string("\xFF\xFE\xE4\0", 4)));
  EXPECT_EQ("\xC3\xA4|UTF-16BE", read(std::string("\xFE\xFF\0\xE4", 4)));
  EXPECT_EQ("\xC3\xA4\xE2\x82\xAC|windows-1252|it is no UTF-8 and is read as Windows-1252", read("\xE4\x80"));
  EXPECT_EQ("line 2: a NUL byte stands here; this is no text|", read(std::string("a\nb\0", 4)));
  // Put together from two files: read in either way, words of the other come out wrong.
  const std::string twoWays =
      "name\nQuai\nStra\xC3\x9F"
      "e\nStra\xDF"
      "e\n";
  EXPECT_EQ(
      "line 4: its letters are written in two ways: line 3 in UTF-8, this one not; save it in one of them, or say "
      "which "
      "encoding is to be taken for all|",
      read(twoWays));
  EXPECT_EQ(
      "name\nQuai\nStra\xC3\x83\xC5\xB8"
      "e\nStra\xC3\x9F"
      "e\n|windows-1252",
      read(twoWays, "windows-1252"));
  // Said by somebody: what has no letter there is refused, not made a question mark of.
  EXPECT_EQ("\xC4\x9F|windows-1254", read("\xF0", "windows-1254"));
  EXPECT_EQ("\xC5\x91|windows-1250", read("\xF5", "windows-1250"));
  EXPECT_EQ("line 2: it cannot be read as UTF-8|UTF-8", read("a\n\xF5", "UTF-8"));
  EXPECT_EQ("--encoding: there is no encoding called 'quill'|quill", read("a", "quill"));
  EXPECT_EQ("line 1: it cannot be read as UTF-16LE|UTF-16LE", read("\xFF\xFE\xE4"));
  // Larger than what is converted at once.
  std::string many;
  std::string wanted;
  for (int i = 0; i < 30000; ++i) {
    many += "\xE4 ";
    wanted += "\xC3\xA4 ";
  }
  EXPECT_EQ(wanted + "|ISO-8859-15", read(many, "ISO-8859-15"));
}

TEST(JsonRecordsTest, AnArrayOrALineEach) {
  const auto all = [](const char* text) {
    auto records = JsonRecords::open(text);
    return records ? allOf(**records) : "! " + records.error().text();
  };
  EXPECT_EQ("0:a|b\n1:1|-\n2:<>|x\n", all(R"([{"a": 1}, {"b": "x", "a": null}])"));
  EXPECT_EQ("0:a\n1:1.50\n3:2\n", all("{\"a\": \"1.50\"}\n\n{\"a\": 2}"));
  EXPECT_EQ("0:\n", all("[]"));
  EXPECT_THAT(all("[1]"), HasSubstr("/0"));
  EXPECT_THAT(all("{\"a\": 1}\n{\"a\": "), HasSubstr("! line 2"));
  EXPECT_THAT(all("{\"a\": 1, \"a\": 2}"), HasSubstr("line 1"));
}

TEST(SpreadsheetValuesTest, FormatsThatShowDays) {
  for (const char* code : {"yyyy-mm-dd", "d.m.yy", "[$-407]d\\. mmmm yyyy;@", "mmm", "dd/mm/yyyy"}) {
    EXPECT_EQ(ShownAs::Day, shownAs(code)) << code;
  }
  for (const char* code : {"h:mm", "[h]:mm:ss", "mm:ss.0", "hh:mm AM/PM"})
    EXPECT_EQ(ShownAs::Time, shownAs(code)) << code;
  for (const char* code : {"yyyy-mm-dd hh:mm", "d.m.yyyy h:mm:ss"}) EXPECT_EQ(ShownAs::Moment, shownAs(code)) << code;
  for (const char* code : {"General", "0.00", "#,##0 \"days\"", "0.00E+00", "[Red]0", "0\\d", "@", "0_d", ""}) {
    EXPECT_EQ(ShownAs::Number, shownAs(code)) << code;
  }
}

TEST(SpreadsheetValuesTest, EveryDayAndRandomMomentsComeBack) {
  using namespace std::chrono;
  const sys_days origin = year(1899) / 12 / 30;
  int wrong = 0;
  for (sys_days day = year(1900) / 3 / 1; day <= sys_days(year(9999) / 12 / 31); day += days(1)) {
    const year_month_day date{day};
    char text[16];
    std::snprintf(text, sizeof text, "%04d-%02u-%02u", static_cast<int>(date.year()),
                  static_cast<unsigned>(date.month()), static_cast<unsigned>(date.day()));
    wrong += momentOfSerial(static_cast<double>((day - origin).count()), ShownAs::Day, false) == text ? 0 : 1;
  }
  EXPECT_EQ(0, wrong);
  EXPECT_EQ("1900-01-01", momentOfSerial(1, ShownAs::Day, false));
  EXPECT_EQ("1900-02-28", momentOfSerial(59, ShownAs::Day, false));
  EXPECT_EQ("1904-01-01", momentOfSerial(0, ShownAs::Day, true));
  EXPECT_EQ("14:30:00", momentOfSerial(0.6041666666666666, ShownAs::Time, false));
  std::mt19937 random(3);
  for (int i = 0; i < 20000; ++i) {
    const int second = static_cast<int>(random() % 86400);
    const double serial = 45000 + second / 86400.0;
    char text[16];
    std::snprintf(text, sizeof text, "%02d:%02d:%02d", second / 3600, second / 60 % 60, second % 60);
    ASSERT_EQ(std::string("2023-03-15 ") + text, momentOfSerial(serial, ShownAs::Moment, false)) << second;
  }
}

TEST(SpreadsheetValuesTest, NumbersAreTheShortestThatReadTheSame) {
  EXPECT_EQ("0.1", plainNumber("0.10000000000000001"));
  EXPECT_EQ("12.5", plainNumber("12.5"));
  EXPECT_EQ("1000000", plainNumber("1E6"));
  EXPECT_EQ("-3", plainNumber("-3"));
  EXPECT_EQ("x", plainNumber("x"));
}

class CellValuesTest : public ::testing::Test {
 protected:
  static std::string value(TypeClass type, const std::string& text, WrittenForms forms = {},
                           CellKind kind = CellKind::Text) {
    Column column;
    column.name = "x";
    column.type = type;
    FileCell cell;
    cell.kind = kind;
    cell.text = text;
    const auto out = valueOfCell(column, cell, forms);
    return out ? canonicalText(*out) : "! " + out.error().message;
  }
};

TEST_F(CellValuesTest, DecimalsAsPeopleWriteThem) {
  const WrittenForms comma{WrittenForms::Decimal::Comma, {}};
  const WrittenForms point{WrittenForms::Decimal::Point, {}};
  EXPECT_EQ("1234.5", value(TypeClass::Decimal, "1.234,5", comma));
  EXPECT_EQ("1234567", value(TypeClass::Integer, "1.234.567", comma));
  EXPECT_EQ("-0.5", value(TypeClass::Decimal, " -,5 ", comma));
  EXPECT_EQ("1234.5", value(TypeClass::Decimal, "1,234.5", point));
  EXPECT_EQ("12.5", value(TypeClass::Real, "12,5", comma));
  EXPECT_EQ("1204", value(TypeClass::Integer, "1 204", comma));
  // What has the marks in other places may mean something else.
  EXPECT_THAT(value(TypeClass::Decimal, "12.5", comma), HasSubstr("with a comma before decimals"));
  EXPECT_THAT(value(TypeClass::Decimal, "1,5", point), HasSubstr("with a point before decimals"));
  EXPECT_THAT(value(TypeClass::Decimal, "1.23.456,5", comma), HasSubstr("! "));
  EXPECT_THAT(value(TypeClass::Decimal, "12,5"), HasSubstr("! "));
  // A spreadsheet's own numbers have no marks to be mistaken.
  EXPECT_EQ("12.5", value(TypeClass::Decimal, "12.5", comma, CellKind::Number));
}

TEST_F(CellValuesTest, DaysAsPeopleWriteThem) {
  const WrittenForms dmy{{}, WrittenForms::Days::DayFirst};
  const WrittenForms mdy{{}, WrittenForms::Days::MonthFirst};
  EXPECT_EQ("2025-04-03", value(TypeClass::Date, "3.4.2025", dmy));
  EXPECT_EQ("2025-04-03", value(TypeClass::Date, "03/04/25", dmy));
  EXPECT_EQ("2025-03-04", value(TypeClass::Date, "3/4/2025", mdy));
  EXPECT_EQ("1987-12-31", value(TypeClass::Date, "31-12-87", dmy));
  EXPECT_EQ("2025-04-03", value(TypeClass::Date, "2025-04-03", dmy));
  EXPECT_EQ("2025-04-03 14:30:00", value(TypeClass::Timestamp, "3.4.2025 14:30:00", dmy));
  EXPECT_THAT(value(TypeClass::Date, "31/12/2025", mdy), HasSubstr("! "));
  EXPECT_THAT(value(TypeClass::Date, "30.2.2025", dmy), HasSubstr("! "));
  EXPECT_THAT(value(TypeClass::Date, "03/04/2025"), HasSubstr("! "));
  EXPECT_EQ("2025-04-03", value(TypeClass::Date, "2025-04-03 00:00:00", {}, CellKind::Moment));
}

TEST_F(CellValuesTest, OtherKinds) {
  EXPECT_EQ("TRUE", value(TypeClass::Text, "1", {}, CellKind::Boolean));
  EXPECT_EQ("1", value(TypeClass::Integer, "1", {}, CellKind::Boolean));
  EXPECT_EQ("123", value(TypeClass::Text, "123", {}, CellKind::Number));
  EXPECT_EQ("AP8=", value(TypeClass::Bytes, "AP8="));
  EXPECT_THAT(value(TypeClass::Bytes, "AP8"), HasSubstr("base64"));
  EXPECT_THAT(value(TypeClass::Integer, "#N/A", {}, CellKind::Error), HasSubstr("the error #N/A"));
}

TEST(FileHeaderTest, IsFoundBelowTitlesAndSaysWhatIsOff) {
  TestDatabase db("CREATE TABLE tree (tree_id INTEGER PRIMARY KEY, \"House No\" TEXT, note TEXT)");
  const Table& tree = *db.catalogue().find({"", "tree"});
  const auto header = [&](const std::string& text, const std::vector<std::string>& match = {}) {
    DelimitedText source(text, {});
    const auto columns = matchColumns(tree, match);
    if (!columns) return "! " + columns.error().message;
    const auto found = findHeader(source, tree, *columns);
    if (!found) return "! " + found.error().text();
    std::string out = std::to_string(found->line) + ":";
    for (const Column* column : found->columns) out += " " + (column != nullptr ? column->name : "-");
    return out;
  };
  EXPECT_EQ("3: tree_id note", header("Corrections\n\ntree_id,NOTE\n1,x"));
  EXPECT_EQ("1: House No tree_id -", header("house no, Tree_ID ,remark"));
  EXPECT_EQ("2: note House No", header("tree_id\nnote,House No", {"House No", "note"}));
  EXPECT_THAT(header("a,b\n1,2"),
              HasSubstr("no line of it names the columns of tree that say which record is meant: tree_id"));
  EXPECT_THAT(header("tree_id,note,NOTE"), HasSubstr("line 1: the column note is there twice"));
  EXPECT_THAT(header("tree_id,notte"), HasSubstr("no column 'notte'; if note is meant"));
  EXPECT_EQ("1: tree_id note -", header("tree_id,note,notes"));
  EXPECT_THAT(header("tree_id", {"tag"}), HasSubstr("'tag' is no column of tree"));
}

TEST(PackageTest, WhatIsNoSpreadsheetIsSaid) {
  const auto said = [](const std::string& content) {
    const auto book = Spreadsheet::open(content);
    return book ? std::string("read") : book.error().text();
  };
  EXPECT_THAT(said("PK\x03\x04 and nothing behind it"), HasSubstr("no spreadsheet"));
  EXPECT_THAT(said("\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1"), HasSubstr("password"));
  EXPECT_THAT(said(""), HasSubstr("no spreadsheet"));
}

}  // namespace
}  // namespace iterandum::test
