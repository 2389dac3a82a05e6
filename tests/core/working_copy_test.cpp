// Working copies: handed out, changed by somebody with a spreadsheet program (here: the sheets read, changed and
// written anew), brought back; against an oracle that knows what was changed.
#include "core/files/working_copy.h"

#include <gmock/gmock.h>

#include <map>
#include <random>

#include "core/files/returned_copy.h"
#include "core/files/spreadsheet.h"
#include "core/files/xlsx_book.h"
#include "core/scope/scope.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

// Two kinds are called alike; a key of two columns; a reference, a list of allowed values, a day, a decimal.
constexpr const char* kShelves = R"(
  CREATE TABLE kind (kind_id INTEGER PRIMARY KEY, name VARCHAR(20));
  INSERT INTO kind VALUES (1, 'oak'), (2, 'Elm'), (3, 'oak'), (4, NULL), (5, '=lime'), (6, '7');
  CREATE TABLE shelf (row_no INTEGER NOT NULL, place VARCHAR(12) NOT NULL, kind_id INTEGER REFERENCES kind (kind_id),
    price DECIMAL(12,2), note VARCHAR(40), seen DATE, grade INTEGER CHECK (grade IN (0, 1, 2)),
    PRIMARY KEY (row_no, place));
)";

// A file taken apart: its sheets by name, each with its rows.
struct Opened {
  std::vector<std::string> names;
  std::map<std::string, std::vector<FileLine>> sheets;
};

class WorkingCopyTest : public EngineTest {
 protected:
  int pick(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }

  void fill(int records) {
    db.run("DELETE FROM shelf");
    static const std::vector<std::string> kNotes{"NULL", "''", "'old'", "'=1+1'", "'two\nlines'", "'0042'", "'NULL'"};
    for (int i = 0; i < records; ++i) {
      const std::string kind = pick(5) == 0 ? "NULL" : std::to_string(1 + pick(6));
      const std::string price =
          pick(4) == 0 ? "NULL" : std::to_string(pick(3000)) + "." + std::to_string(10 + pick(90));
      const std::string day = pick(4) == 0 ? "NULL" : "'2025-05-" + std::to_string(10 + pick(20)) + "'";
      db.run("INSERT INTO shelf VALUES (" + std::to_string(i) + ", 'p" + std::to_string(i % 3) + "', " + kind + ", " +
             price + ", " + kNotes[static_cast<std::size_t>(pick(7))] + ", " + day + ", " +
             (pick(4) == 0 ? "NULL" : std::to_string(pick(3))) + ")");
    }
  }

  Result<std::string> handOut(const WorkingCopyOptions& options = {}, const std::string& where = {}) {
    Scope scope;
    scope.table = "shelf";
    scope.columns = {"note", "kind_id", "price", "seen", "grade", "kind_id.name"};
    if (!where.empty()) scope.filters.push_back({{}, where});
    std::vector<ScopeProblem> problems;
    ITERANDUM_ASSIGN(const ReadScope read, readScope(scope, contextNow(db.catalogue()), problems));
    if (!problems.empty()) return fail(problems.front().error);
    std::string out;
    Progress progress;
    ITERANDUM_TRY(writeWorkingCopy(
        db.session(), db.catalogue(), read, options,
        [&](std::string_view piece) {
          out += piece;
          return Status();
        },
        progress));
    return out;
  }

  Result<ReturnedCopy> back(const std::string& content, const std::string& name = "anna.xlsx") {
    Progress progress;
    return readWorkingCopy(content, name, db.catalogue(), progress);
  }

  static Opened open(const std::string& content) {
    Opened out;
    const auto book = Spreadsheet::open(content);
    EXPECT_TRUE(book);
    out.names = (*book)->sheets();
    for (std::size_t i = 0; i < out.names.size(); ++i) {
      const auto source = (*book)->sheet(i);
      EXPECT_TRUE(source);
      FileLine line;
      while (*(*source)->next(line)) out.sheets[out.names[i]].push_back(line);
    }
    return out;
  }

  // As another program would save it: without looks, protection and choices.
  static std::string saved(const Opened& opened) {
    std::string out;
    auto book = XlsxBook::begin("");
    EXPECT_TRUE(book);
    for (const std::string& name : opened.names) {
      const auto sheet = (*book)->addSheet(name);
      std::uint32_t row = 0;
      // One that holds nothing has no rows.
      if (!opened.sheets.contains(name)) continue;
      for (const FileLine& line : opened.sheets.at(name)) {
        for (std::size_t c = 0; c < line.cells.size(); ++c)
          EXPECT_TRUE(put(**sheet, row, static_cast<std::uint16_t>(c), line.cells[c]));
        ++row;
      }
    }
    EXPECT_TRUE((*book)->finish([&](std::string_view piece) {
      out += piece;
      return Status();
    }));
    return out;
  }

  static Status put(XlsxSheet& sheet, std::uint32_t row, std::uint16_t column, const FileCell& cell) {
    Column days;
    days.type = TypeClass::Timestamp;
    switch (cell.kind) {
      case FileCell::Kind::Text:
        return sheet.text(row, column, cell.text);
      case FileCell::Kind::Number:
        return sheet.value(row, column, Column{}, Value::decimal(cell.text));
      case FileCell::Kind::Moment:
        return sheet.value(row, column, days, Value::text(cell.text));
      default:
        return {};
    }
  }

  static FileCell text(const std::string& said) {
    FileCell out;
    out.kind = FileCell::Kind::Text;
    out.text = said;
    return out;
  }
  static FileCell number(const std::string& said) {
    FileCell out = text(said);
    out.kind = FileCell::Kind::Number;
    return out;
  }
  static FileCell none() {
    FileCell out;
    out.kind = FileCell::Kind::None;
    return out;
  }

  // Where a column stands, and the row of a record.
  static std::size_t columnAt(const Opened& opened, const std::string& heading) {
    const auto& cells = opened.sheets.at("shelf")[2].cells;
    for (std::size_t c = 0; c < cells.size(); ++c) {
      if (cells[c].text == heading) return c;
    }
    ADD_FAILURE() << heading;
    return 0;
  }
  static FileCell& cell(Opened& opened, const std::string& rowNo, const std::string& heading) {
    const std::size_t at = columnAt(opened, heading);
    const std::size_t key = columnAt(opened, "row_no");
    for (FileLine& line : opened.sheets["shelf"]) {
      if (line.number < 4 || line.cells[key].text != rowNo) continue;
      line.cells.resize(std::max(line.cells.size(), at + 1));
      return line.cells[at];
    }
    static FileCell nowhere;
    ADD_FAILURE() << rowNo;
    return nowhere;
  }

  std::string applied(const ChangeList& changes) {
    Progress progress;
    const auto done = applyChanges(db.session(), db.catalogue(), changes, {}, progress);
    if (!done) return done.error().text();
    return done->receipt ? "applied" : findingsText(done->review);
  }

  TestDatabase db{kShelves, GetParam()};
  std::mt19937 random_{20251128};
};

std::string changesText(const ChangeList& changes) {
  std::string out;
  for (const auto& [index, change] : changes.inOrder()) {
    for (const CellChange& cell : change.cells) {
      const auto said = [](const Value& v) { return v.isNull() ? "-" : canonicalText(v); };
      out += canonicalText(change.key[0]) + " " + cell.column + " " + said(cell.from) + ">" + said(cell.to) + "\n";
    }
  }
  return out;
}

TEST_P(WorkingCopyTest, UntouchedNothingIsDifferentAndRandomCorrectionsComeBackExactly) {
  for (int round = 0; round < 25; ++round) {
    fill(1 + pick(30));
    const auto content = handOut();
    ASSERT_TRUE(content) << content.error().text();
    const auto untouched = back(*content);
    ASSERT_TRUE(untouched) << untouched.error().text();
    ASSERT_EQ("", changesText(bringTogether({*untouched}, {}).changes)) << "round " << round;
    Opened opened = open(*content);
    ASSERT_EQ("", changesText(bringTogether({*back(saved(opened))}, {}).changes)) << "saved by another program";

    // What each cell held, as the database says it.
    const auto held = [&](const std::string& rowNo, const std::string& column) {
      std::string out = db.rows("SELECT " + column + " FROM shelf WHERE row_no = " + rowNo);
      return out;
    };
    struct Way {
      const char* column;
      FileCell cell;
      const char* stored;  // as rows() says it
    };
    const std::vector<Way> ways{{"kind_id", text("Elm"), "2"},
                                {"kind_id", text("oak (3)"), "3"},
                                {"kind_id", text(" elm "), "2"},
                                {"kind_id", text("4"), "4"},
                                {"kind_id", number("7"), "6"},
                                {"kind_id", text("=lime"), "5"},
                                {"kind_id", none(), "-"},
                                {"price", number("12.5"), "12.5"},
                                {"price", text("1 204.25"), "1204.25"},
                                {"price", none(), "-"},
                                {"note", text("new"), "new"},
                                {"note", none(), "-"},
                                {"note", text(""), ""},
                                {"note", number("42"), "42"},
                                {"seen", text("2024-02-29"), "2024-02-29"},
                                {"grade", number("2"), "2"},
                                {"grade", none(), "-"}};
    std::map<std::pair<std::string, std::string>, std::string> expected;
    const int records = static_cast<int>(opened.sheets["shelf"].size()) - 3;
    for (int i = 0; i < 1 + pick(12); ++i) {
      const Way& way = ways[static_cast<std::size_t>(pick(static_cast<int>(ways.size())))];
      const std::string rowNo = std::to_string(pick(records));
      cell(opened, rowNo, way.column) = way.cell;
      expected[{rowNo, way.column}] = way.stored;
    }
    // Rows in another order, as after sorting.
    auto& rows = opened.sheets["shelf"];
    std::shuffle(rows.begin() + 3, rows.end(), random_);
    const auto changed = back(saved(opened));
    ASSERT_TRUE(changed) << changed.error().text();
    const BroughtTogether all = bringTogether({*changed}, {});
    std::size_t different = 0;
    for (const auto& [place, stored] : expected) different += held(place.first, place.second) == stored ? 0 : 1;
    EXPECT_EQ(different, all.counts.cells) << "round " << round << "\n" << changesText(all.changes);
    EXPECT_EQ(0U, all.counts.failed);
    const std::string before = db.dump();
    ASSERT_EQ(all.changes.empty() ? "" : "applied", all.changes.empty() ? "" : applied(all.changes))
        << changesText(all.changes);
    for (const auto& [place, stored] : expected) {
      EXPECT_EQ(stored, held(place.first, place.second)) << place.first << " " << place.second;
    }
    EXPECT_TRUE(!all.changes.empty() || before == db.dump());
  }
}

TEST_P(WorkingCopyTest, ChangedInTheDatabaseMeanwhileIsAConflict) {
  db.run("INSERT INTO shelf VALUES (1, 'a', 1, 2.5, 'old', NULL, 1)");
  Opened opened = open(*handOut());
  cell(opened, "1", "note") = text("mine");
  db.run("UPDATE shelf SET note = 'theirs', kind_id = 2");
  const auto copy = back(saved(opened));
  ASSERT_TRUE(copy);
  const BroughtTogether all = bringTogether({*copy}, {});
  EXPECT_EQ("1 note old>mine\n", changesText(all.changes)) << "only what was changed, from what was seen";
  EXPECT_EQ("cell-changed 0 shelf[1,a].note from=old to=mine now=theirs", applied(all.changes));
  EXPECT_EQ("theirs", db.rows("SELECT note FROM shelf"));
}

TEST_P(WorkingCopyTest, SeveralPeoplesCopiesAndWhereTheyDisagree) {
  db.run("INSERT INTO shelf VALUES (1, 'a', 1, 2.5, 'old', NULL, 1), (2, 'b', 1, 2.5, 'old', NULL, 1)");
  const std::string content = *handOut();
  Opened anna = open(content);
  cell(anna, "1", "note") = text("anna's");
  cell(anna, "2", "kind_id") = text("Elm");
  cell(anna, "2", "price") = number("3");
  Opened bram = open(content);
  cell(bram, "1", "note") = text("bram's");
  cell(bram, "2", "kind_id") = text("Elm");
  cell(bram, "2", "grade") = number("0");
  const std::vector<ReturnedCopy> copies{*back(saved(anna), "anna.xlsx"), *back(saved(bram), "bram.xlsx")};
  const BroughtTogether open = bringTogether(copies, {});
  EXPECT_THAT(changesText(open.changes),
              ::testing::AllOf(::testing::HasSubstr("2 kind_id 1>2\n"), ::testing::HasSubstr("2 price 2.5"),
                               ::testing::HasSubstr("2 grade 1>0\n"), ::testing::Not(::testing::HasSubstr("note"))));
  ASSERT_EQ(1U, open.disagreements.size());
  EXPECT_FALSE(open.disagreements[0].settled);
  EXPECT_EQ("note of shelf (1, a) ('old'): 'anna's' in anna.xlsx, 'bram's' in bram.xlsx",
            inWords(open.disagreements[0], copies));
  const BroughtTogether brams = bringTogether(copies, 1);
  EXPECT_TRUE(brams.disagreements[0].settled);
  EXPECT_THAT(changesText(brams.changes), ::testing::HasSubstr("1 note old>bram's\n"));
  EXPECT_EQ("applied", applied(brams.changes));
}

TEST_P(WorkingCopyTest, WhatPeopleDoToTheFileIsSaid) {
  db.run(
      "INSERT INTO shelf VALUES (1, 'a', 1, 2.5, 'old', NULL, 1), (2, 'b', 2, 1, 'old', NULL, 1), "
      "(3, 'c', 2, 1, 'old', NULL, 1), (4, 'd', 2, 1, 'old', NULL, 1)");
  Opened opened = open(*handOut());
  auto& rows = opened.sheets["shelf"];
  const std::size_t key = columnAt(opened, "row_no");
  cell(opened, "1", "kind_id") = text("Ash");  // of no list
  cell(opened, "2", "row_no") = number("22");  // a key that was not handed out
  cell(opened, "3", "grade") = number("7");    // refused by a rule
  cell(opened, "4", "note") = text("twice");
  rows.push_back(rows.back());  // a row copied and pasted
  ASSERT_EQ("4", rows.back().cells[key].text);
  rows.back().number += 1;
  rows[2].cells.push_back(text("remarks"));  // a column of their own
  const auto copy = back(saved(opened));
  ASSERT_TRUE(copy) << copy.error().text();
  EXPECT_THAT(copy->leftAlone, ::testing::ElementsAre("remarks"));
  std::string said;
  for (const LineOutcome& row : copy->rows) said += std::to_string(row.line) + " " + inWords(row, "row") + "\n";
  EXPECT_EQ(
      "4 nothing that kind_id could be chosen from is called 'Ash'; take one of its list\n"
      "5 no record that was handed out has this key; keys are not to be changed\n"
      "6 one of 0, 1, 2 is wanted in grade, not '7'\n"
      "7 names the same record as row 8\n"
      "8 names the same record as row 7\n",
      said);
  EXPECT_TRUE(bringTogether({*copy}, {}).changes.empty());
}

TEST_P(WorkingCopyTest, FilesThatAreNoneOrWereTamperedWithAreRefused) {
  db.run("INSERT INTO shelf VALUES (1, 'a', 1, 2.5, 'old', NULL, 1)");
  const std::string content = *handOut();
  EXPECT_TRUE(isWorkingCopy(content));
  EXPECT_FALSE(isWorkingCopy("row_no,place\n1,a\n"));
  EXPECT_EQ(ErrorKind::InvalidFile, back("row_no,place\n1,a\n").error().kind);

  const auto refused = [&](const std::function<void(Opened&)>& tamper) {
    Opened opened = open(content);
    tamper(opened);
    const auto copy = back(saved(opened));
    return copy ? "taken" : copy.error().text();
  };
  const std::string hidden = kCopySheet;
  EXPECT_THAT(refused([&](Opened& o) { o.sheets[hidden][0].cells[0] = text("{"); }),
              ::testing::StartsWith("anna.xlsx: what the working copy keeps out of sight is not as it was handed out"));
  EXPECT_THAT(refused([&](Opened& o) { o.sheets[hidden].back().cells.pop_back(); }),
              ::testing::HasSubstr("is too short"));
  EXPECT_THAT(refused([&](Opened& o) { o.sheets[hidden].push_back(o.sheets[hidden].back()); }),
              ::testing::HasSubstr("a key is there twice"));
  EXPECT_THAT(refused([&](Opened& o) { o.names.erase(std::find(o.names.begin(), o.names.end(), kCopyLists)); }),
              ::testing::HasSubstr("its sheet 'iterandum lists' is missing"));
  EXPECT_THAT(refused([&](Opened& o) { o.sheets["shelf"][2].cells[0] = text("number"); }),
              ::testing::HasSubstr("put the heads back"));
  EXPECT_THAT(refused([&](Opened& o) {
                std::string& head = o.sheets[hidden][0].cells[0].text;
                head.replace(head.find("\"version\":1"), 11, "\"version\":2");
              }),
              ::testing::HasSubstr("newer Iterandum"));
  db.run("ALTER TABLE shelf DROP COLUMN note");
  db.forget();
  EXPECT_THAT(back(content).error().text(), ::testing::HasSubstr("has a column note, which shelf has not any more"));
}

// A byte changed anywhere, or an end cut off: refused, or nothing else than what the sheets say.
TEST_P(WorkingCopyTest, DamagedFilesAreReadOrRefused) {
  fill(20);
  const std::string content = *handOut();
  for (int i = 0; i < 150; ++i) {
    std::string damaged = content;
    if (pick(4) == 0) {
      damaged.resize(static_cast<std::size_t>(pick(static_cast<int>(content.size()))));
    } else {
      damaged[static_cast<std::size_t>(pick(static_cast<int>(content.size())))] ^= static_cast<char>(1 << pick(8));
    }
    const auto copy = back(damaged);
    EXPECT_EQ("", copy ? changesText(bringTogether({*copy}, {}).changes) : "") << "damage " << i;
  }
}

TEST_P(WorkingCopyTest, WhatCannotBeHandedOutIsSaid) {
  WorkingCopyOptions options;
  options.open = {"row_no"};
  EXPECT_EQ("'row_no' cannot be opened for changes: it says which record it is", handOut(options).error().text());
  options.open = {"colour"};
  EXPECT_EQ("'colour' cannot be opened for changes: it is no column of shelf", handOut(options).error().text());
  options.open = {"note"};
  db.run("INSERT INTO shelf VALUES (1, 'a', 1, 2.5, 'old', NULL, 1)");
  Opened opened = open(*handOut(options));
  cell(opened, "1", "note") = text("new");
  cell(opened, "1", "price") = number("9");  // protected in the file: somebody took that off
  EXPECT_EQ("1 note old>new\n", changesText(bringTogether({*back(saved(opened))}, {}).changes));
  db.run("UPDATE shelf SET note = '" + std::string(39, 'x') + "'");
  EXPECT_TRUE(handOut(options));
}

TEST_P(WorkingCopyTest, WhatIsMaskedLeavesOnlyWhereItIsAskedFor) {
  db.run("INSERT INTO shelf VALUES (1, 'a', 1, 2.5, 'secret', NULL, 1)");
  WorkingCopyOptions options;
  Lens mask;
  mask.table = "shelf";
  mask.column = "note";
  options.lenses = {mask};
  const std::string content = *handOut(options);
  for (const auto& [name, rows] : open(content).sheets) {
    for (const FileLine& line : rows) {
      for (const FileCell& cell : line.cells) EXPECT_EQ(std::string::npos, cell.text.find("secret")) << name;
    }
  }
  options.open = {"note"};
  Opened opened = open(*handOut(options));
  EXPECT_EQ("secret", cell(opened, "1", "note").text);
}

TEST_P(WorkingCopyTest, ATableCalledAsASheetOutOfSight) {
  db.run("CREATE TABLE iterandum (id INTEGER PRIMARY KEY, note VARCHAR(10))");
  db.run("INSERT INTO iterandum VALUES (1, 'old')");
  db.forget();
  Scope scope;
  scope.table = "iterandum";
  std::vector<ScopeProblem> problems;
  const auto read = readScope(scope, contextNow(db.catalogue()), problems);
  std::string content;
  Progress progress;
  ASSERT_TRUE(writeWorkingCopy(
      db.session(), db.catalogue(), *read, {},
      [&](std::string_view piece) {
        content += piece;
        return Status();
      },
      progress));
  const auto copy = back(content);
  ASSERT_TRUE(copy) << copy.error().text();
  EXPECT_EQ(1U, copy->rows.size());
}

ITERANDUM_ON_ALL_ENGINES(WorkingCopyTest);

}  // namespace
}  // namespace iterandum::test
