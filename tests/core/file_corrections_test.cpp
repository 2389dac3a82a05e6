// What a file says differently, against an oracle: random records, random lists of corrections written in random ways,
// some lines of which name nothing, several records, or one twice, or hold what does not fit.
#include "core/files/file_corrections.h"

#include <gmock/gmock.h>

#include <charconv>
#include <cmath>
#include <map>
#include <optional>
#include <random>
#include <set>

#include "core/files/delimited_text.h"
#include "core/files/record_writer.h"
#include "core/files/table_file.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

// Named by two columns; a unique tag besides; `kind` is shared by several.
constexpr const char* kShelf = R"(
  CREATE TABLE shelf (row_no INTEGER NOT NULL, place VARCHAR(12) NOT NULL, tag VARCHAR(12) NOT NULL UNIQUE, kind INTEGER,
    price DECIMAL(12,2), note VARCHAR(40), seen DATE, PRIMARY KEY (row_no, place));
)";

struct Shelf {
  std::string tag;
  int kind = 0;
  std::optional<int> cents;
  std::optional<std::string> note;
  std::optional<int> day;  // of May 2025
  friend bool operator==(const Shelf&, const Shelf&) = default;
};
using Key = std::pair<int, std::string>;
using Shelves = std::map<Key, Shelf>;

class FileCorrectionsTest : public EngineTest {
 protected:
  int pick(int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); }
  std::string place() {
    static const std::vector<std::string> kPlaces{"north",   "North",   "south wall", "o'er",
                                                  "\"top\"", "a,b;c|d", " blank "};
    return kPlaces[static_cast<std::size_t>(pick(static_cast<int>(kPlaces.size())))];
  }
  std::optional<std::string> note() {
    static const std::vector<std::string> kNotes{"",           "old",   "Old", "=1+1",    "two\nlines",
                                                 "semi;colon", "\ttab", "0",   "no value"};
    if (pick(4) == 0) return std::nullopt;
    return kNotes[static_cast<std::size_t>(pick(static_cast<int>(kNotes.size())))];
  }
  Shelf shelf(const std::string& tag) {
    Shelf out;
    out.tag = tag;
    out.kind = pick(3);
    if (pick(4) != 0) out.cents = pick(200000) - 1000;
    out.note = note();
    if (pick(4) != 0) out.day = 1 + pick(31);
    return out;
  }
  static std::string quoted(const std::string& text) {
    std::string out = "'";
    for (const char c : text) out += c == '\'' ? "''" : std::string(1, c);
    return out + "'";
  }
  static std::string money(int cents) {
    const int size = cents < 0 ? -cents : cents;
    std::string pence = std::to_string(size % 100);
    if (pence.size() < 2) pence.insert(0, "0");
    return (cents < 0 ? "-" : "") + std::to_string(size / 100) + "." + pence;
  }
  static int cents(const std::string& text) {
    double pounds = 0;
    std::from_chars(text.data(), text.data() + text.size(), pounds);
    return static_cast<int>(std::lround(pounds * 100));
  }
  static std::string day(int d) { return std::string("2025-05-") + (d < 10 ? "0" : "") + std::to_string(d); }

  Shelves fill() {
    db.run("DELETE FROM shelf");
    Shelves out;
    for (int i = 0; i < 12; ++i) {
      const Key key{pick(3), place()};
      if (out.contains(key)) continue;
      // MariaDB takes two spellings of a place for one.
      const bool alike = std::any_of(out.begin(), out.end(), [&](const auto& other) {
        return other.first.first == key.first && (key.second == "north" || key.second == "North") &&
               (other.first.second == "north" || other.first.second == "North");
      });
      if (alike) continue;
      const Shelf one = shelf("t" + std::to_string(i));
      out[key] = one;
      db.run("INSERT INTO shelf VALUES (" + std::to_string(key.first) + ", " + quoted(key.second) + ", " +
             quoted(one.tag) + ", " + std::to_string(one.kind) + ", " + (one.cents ? money(*one.cents) : "NULL") +
             ", " + (one.note ? quoted(*one.note) : "NULL") + ", " + (one.day ? quoted(day(*one.day)) : "NULL") + ")");
    }
    return out;
  }

  [[nodiscard]] const Table& table() { return *db.catalogue().find({"", "shelf"}); }

  Result<FileCorrections> held(const std::string& text, const std::vector<std::string>& match,
                               const CorrectionOptions& options, const std::string& name = "list.csv") {
    ITERANDUM_ASSIGN(const std::unique_ptr<TableFile> file, TableFile::open({name, {}, {}, {}}, table(), text));
    ITERANDUM_ASSIGN(const std::vector<const Column*> columns, matchColumns(table(), match));
    FileHeader header;
    ITERANDUM_ASSIGN(const std::unique_ptr<TableSource> source, file->linesBehindHeader(table(), columns, header));
    Progress progress;
    return correctionsFrom(*source, header, db.session(), table(), options, progress);
  }
  Shelves apply(const FileCorrections& corrections) {
    Progress progress;
    const auto applied = applyChanges(db.session(), db.catalogue(), corrections.changes, {}, progress);
    EXPECT_TRUE(applied && applied->receipt) << (applied ? "blocked" : applied.error().text());
    return now();
  }
  Shelves now() {
    Shelves out;
    Query query;
    query.table = &table();
    query.columns = {"row_no", "place", "tag", "kind", "price", "note", "seen"};
    Progress progress;
    const Status read = db.session().select(
        query,
        [&](ValueTuple&& r) {
          Shelf one;
          one.tag = canonicalText(r[2]);
          one.kind = std::stoi(canonicalText(r[3]));
          if (!r[4].isNull()) one.cents = cents(canonicalText(r[4]));
          if (!r[5].isNull()) one.note = canonicalText(r[5]);
          if (!r[6].isNull()) one.day = std::stoi(canonicalText(r[6]).substr(8));
          out[{std::stoi(canonicalText(r[0])), canonicalText(r[1])}] = one;
          return true;
        },
        progress);
    EXPECT_TRUE(read);
    return out;
  }

  std::mt19937 random{20251127};
  TestDatabase db{kShelf, GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(FileCorrectionsTest);

// One line as it is written, and what has to become of it.
struct Line {
  std::map<std::string, std::string> fields;  // by column, as text of the file: quoted or not
  std::optional<Key> key;                     // that it names
  bool refused = false;
};

TEST_P(FileCorrectionsTest, RandomListsAreHeldAgainstTheRecordsAsAnOracleTells) {
  const int rounds = GetParam() == Engine::Sqlite ? 250 : 40;
  int changing = 0;
  int failing = 0;
  for (int round = 0; round < rounds; ++round) {
    const Shelves was = fill();
    const char delimiter = ",;\t|"[pick(4)];
    const bool comma = pick(2) == 0;
    const bool germanDays = pick(2) == 0;
    const bool leave = pick(3) == 0;
    std::vector<std::string> columns{"row_no", "place"};
    for (const char* column : {"kind", "price", "note", "seen"}) {
      if (pick(3) != 0) columns.emplace_back(column);
    }
    columns.emplace_back("remark of theirs");
    std::shuffle(columns.begin(), columns.end(), random);
    const auto field = [&](const std::string& text) {
      const bool must = delimitedField(text, delimiter, "") != text;
      return must || pick(5) == 0 ? "\"" +
                                        [&] {
                                          std::string out;
                                          for (const char c : text) out += c == '"' ? "\"\"" : std::string(1, c);
                                          return out;
                                        }() +
                                        "\""
                                  : text;
    };
    std::vector<Line> lines;
    Shelves wanted = was;
    std::map<Key, int> named;
    for (const auto& [key, one] : was) {
      for (int times = pick(12) == 0 ? 2 : pick(4) == 0 ? 0 : 1; times > 0; --times) {
        Line line;
        line.key = key;
        ++named[key];
        line.fields["row_no"] = field(std::to_string(key.first));
        line.fields["place"] = field(key.second);
        const Shelf other = pick(2) == 0 ? one : shelf(one.tag);
        line.fields["kind"] = field(std::to_string(other.kind));
        line.fields["price"] = "";
        if (other.cents) {
          std::string text = money(*other.cents);
          if (comma) std::replace(text.begin(), text.end(), '.', ',');
          line.fields["price"] = field(text);
        }
        line.fields["note"] = other.note ? field(*other.note) : "";
        line.fields["seen"] = "";
        if (other.day)
          line.fields["seen"] = field(germanDays ? std::to_string(*other.day) + ".5.2025" : day(*other.day));
        line.refused = pick(15) == 0 && std::find(columns.begin(), columns.end(), "kind") != columns.end();
        if (line.refused) line.fields["kind"] = "many";
        line.fields["remark of theirs"] = pick(2) == 0 ? "" : "x";
        lines.push_back(line);
        if (line.refused) continue;
        Shelf& to = wanted[key];
        const auto has = [&](const char* column) {
          return std::find(columns.begin(), columns.end(), column) != columns.end();
        };
        if (has("kind")) to.kind = other.kind;
        if (has("price") && (other.cents || !leave)) to.cents = other.cents;
        if (has("note") && (other.note || !leave)) to.note = other.note;
        if (has("seen") && (other.day || !leave)) to.day = other.day;
      }
    }
    for (int n = pick(3); n > 0; --n) {
      Line line;
      line.fields = {{"row_no", "9"},
                     {"place", "nowhere " + std::to_string(n)},
                     {"kind", "1"},
                     {"price", ""},
                     {"note", ""},
                     {"seen", ""},
                     {"remark of theirs", ""}};
      lines.push_back(line);
    }
    std::shuffle(lines.begin(), lines.end(), random);
    std::string text = pick(3) == 0 ? "List of the week\n\n" : "";
    const auto row = [&](const auto& take) {
      for (std::size_t c = 0; c < columns.size(); ++c)
        text += (c > 0 ? std::string(1, delimiter) : "") + take(columns[c]);
      text += pick(2) == 0 ? "\n" : "\r\n";
    };
    row([&](const std::string& c) { return pick(2) == 0 ? c : (c == "note" ? "NOTE" : c); });
    std::vector<std::uint64_t> numbers;
    for (const Line& line : lines) {
      numbers.push_back(1 + static_cast<std::uint64_t>(std::count(text.begin(), text.end(), '\n')));
      row([&](const std::string& c) { return line.fields.at(c); });
    }
    SCOPED_TRACE(text);
    CorrectionOptions options;
    options.blankLeaves = leave;
    options.forms.decimal = comma ? WrittenForms::Decimal::Comma : WrittenForms::Decimal::Point;
    options.forms.days = germanDays ? WrittenForms::Days::DayFirst : WrittenForms::Days::AsTyped;
    const auto found = held(text, {}, options);
    ASSERT_TRUE(found) << found.error().text();
    ASSERT_EQ(lines.size(), found->counts.lines);
    std::uint64_t already = 0;
    for (std::size_t i = 0; i < lines.size(); ++i) {
      const LineOutcome outcome = found->lines.of(numbers[i]);
      SCOPED_TRACE(inWords(outcome, "line"));
      if (!lines[i].key) {
        EXPECT_EQ(LineOutcome::Kind::NoRecord, outcome.kind);
        continue;
      }
      const Key& key = *lines[i].key;
      if (named[key] > 1) {
        // Both are left out: which of them is meant, nobody can tell.
        EXPECT_EQ(LineOutcome::Kind::Twice, outcome.kind);
        wanted[key] = was.at(key);
      } else if (lines[i].refused) {
        EXPECT_EQ(LineOutcome::Kind::Refused, outcome.kind);
      } else {
        EXPECT_EQ(wanted[key] == was.at(key) ? LineOutcome::Kind::AlreadySo : LineOutcome::Kind::Changes, outcome.kind);
      }
      already += outcome.kind == LineOutcome::Kind::AlreadySo ? 1 : 0;
      failing += outcome.failed() ? 1 : 0;
      changing += outcome.kind == LineOutcome::Kind::Changes ? 1 : 0;
    }
    EXPECT_EQ(already, found->counts.already);
    ASSERT_EQ(wanted, apply(*found));
    if (HasFailure()) return;
  }
  EXPECT_GT(changing, rounds);
  EXPECT_GT(failing, rounds / 2);
}

TEST_P(FileCorrectionsTest, WhatNamesSeveralAndWhatIsMissing) {
  db.run("INSERT INTO shelf (row_no, place, tag, kind) VALUES (1, 'a', 't1', 5)");
  db.run("INSERT INTO shelf (row_no, place, tag, kind) VALUES (1, 'b', 't2', 5)");
  db.run("INSERT INTO shelf (row_no, place, tag, kind) VALUES (2, 'c', 't3', 6)");
  const auto several = held("kind,note\n5,x\n6,y\n", {"kind"}, {});
  ASSERT_TRUE(several) << several.error().text();
  EXPECT_EQ(LineOutcome::Kind::Several, several->lines.of(2).kind);
  EXPECT_EQ(LineOutcome::Kind::Changes, several->lines.of(3).kind);
  CorrectionOptions all;
  all.addMissing = true;
  all.removeMissing = true;
  const auto both = held("row_no,place,tag,kind\n1,a,t1,5\n7,z,t9,1\n", {}, all);
  ASSERT_TRUE(both) << both.error().text();
  EXPECT_EQ(1U, both->counts.added);
  EXPECT_EQ(2U, both->counts.removed);
  // However many a line names: none of them is missing.
  for (const char* tag : {"t4", "t5", "t6"}) {
    db.run(std::string("INSERT INTO shelf (row_no, place, tag, kind) VALUES (5, '") + tag + "', '" + tag + "', 5)");
  }
  const auto many = held("kind,note\n5,x\n6,y\n", {"kind"}, all);
  ASSERT_TRUE(many) << many.error().text();
  EXPECT_EQ(LineOutcome::Kind::Several, many->lines.of(2).kind);
  EXPECT_EQ(0U, many->counts.removed);
  db.run("DELETE FROM shelf WHERE row_no = 5");
  // A record that lines name which cannot be staged is not missing.
  const auto named = held("row_no,place,kind\n1,a,many\n1,b,1\n1,b,2\n", {}, all);
  ASSERT_TRUE(named) << named.error().text();
  EXPECT_EQ(1U, named->counts.removed) << "only the one that no line names";
  EXPECT_EQ("", named->cannotRemove);
}

TEST_P(FileCorrectionsTest, MovedMeanwhileIsAConflictNotALoss) {
  db.run("INSERT INTO shelf (row_no, place, tag, kind, note) VALUES (1, 'a', 't1', 5, 'old')");
  const auto found = held("row_no,place,note\n1,a,new\n", {}, {});
  ASSERT_TRUE(found) << found.error().text();
  db.run("UPDATE shelf SET note = 'theirs'");
  Progress progress;
  const auto applied = applyChanges(db.session(), db.catalogue(), found->changes, {}, progress);
  ASSERT_TRUE(applied) << applied.error().text();
  ASSERT_FALSE(applied->receipt);
  EXPECT_EQ(FindingKind::CellChanged, applied->review.findings.front().kind);
  EXPECT_EQ("theirs", db.rows("SELECT note FROM shelf"));
}

// Run in locales with a comma before decimals, too (tests/in_locale).
TEST(ValuesOfASheetTest, NumbersHaveAPointInEveryLocale) {
  RecordForm form;
  form.columns.resize(2);
  form.columns[0].name = "row_no";
  form.columns[1].name = "price";
  std::string whole;
  const auto writer = makeXlsxWriter(std::move(form), [&](std::string_view piece) -> Status {
    whole += piece;
    return {};
  });
  ASSERT_TRUE(writer->begin());
  ASSERT_TRUE(writer->record({Value::real(0.25), Value::decimal("12.5")}));
  ASSERT_TRUE(writer->end());
  const auto book = Spreadsheet::open(whole);
  ASSERT_TRUE(book) << book.error().text();
  const auto rows = (*book)->sheet(0);
  ASSERT_TRUE(rows) << rows.error().text();
  FileLine line;
  ASSERT_TRUE((*rows)->next(line));
  ASSERT_TRUE((*rows)->next(line));
  EXPECT_EQ(FileCell::Kind::Number, line.cells[1].kind);
  EXPECT_EQ("0.25 12.5", line.cells[0].text + " " + line.cells[1].text);
}

// A spreadsheet whose bytes are cut off or changed anywhere is read or refused, never more.
TEST(DamagedSpreadsheetTest, IsReadOrRefused) {
  TestDatabase db("CREATE TABLE shelf (row_no INTEGER PRIMARY KEY, note TEXT)");
  RecordForm form;
  form.columns.resize(2);
  form.columns[0].name = "row_no";
  form.columns[1].name = "note";
  std::string whole;
  const auto writer = makeXlsxWriter(std::move(form), [&](std::string_view piece) -> Status {
    whole += piece;
    return {};
  });
  ASSERT_TRUE(writer->begin());
  for (int i = 0; i < 20; ++i)
    ASSERT_TRUE(writer->record({Value::integer(i), Value::text("note " + std::to_string(i))}));
  ASSERT_TRUE(writer->end());
  const Table& table = *db.catalogue().find({"", "shelf"});
  const auto linesOf = [&](const std::string& bytes) -> int {
    const auto file = TableFile::open({"a.xlsx", {}, {}, {}}, table, bytes);
    if (!file) return -1;
    FileHeader header;
    const auto columns = matchColumns(table, {});
    auto source = (*file)->linesBehindHeader(table, *columns, header);
    if (!source) return -1;
    FileLine line;
    int count = 0;
    while (true) {
      const auto more = (*source)->next(line);
      if (!more) return -1;
      if (!*more) return count;
      ++count;
    }
  };
  ASSERT_EQ(20, linesOf(whole));
  int refused = 0;
  for (std::size_t size = 0; size < whole.size(); size += 13) refused += linesOf(whole.substr(0, size)) < 0 ? 1 : 0;
  EXPECT_EQ(static_cast<int>((whole.size() + 12) / 13), refused) << "what is cut off is no list";
  std::mt19937 random(5);
  for (int i = 0; i < 1500; ++i) {
    std::string changed = whole;
    for (std::size_t n = 1 + random() % 3; n > 0; --n) changed[random() % changed.size()] = static_cast<char>(random());
    EXPECT_LE(linesOf(changed), 21);
  }
}

}  // namespace
}  // namespace iterandum::test
