// In which order the days of a file are written, against an oracle: random days, written in a random order and with
// random signs between them.
#include "core/files/days_found.h"

#include <gtest/gtest.h>

#include <random>
#include <sstream>

#include "core/files/file_corrections.h"
#include "core/files/table_file.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using Days = WrittenForms::Days;

class DaysFoundTest : public EngineTest {
 protected:
  [[nodiscard]] const Table& table() { return *db.catalogue().find({"", "visit"}); }
  // The lines held against the records, each line named by its number.
  FileCorrections held(const std::string& text, CorrectionOptions options = {}) {
    auto file = TableFile::open({"list.csv", {}, {}, {}}, table(), text);
    const auto columns = matchColumns(table(), {"id"});
    FileHeader header;
    auto source = (*file)->linesBehindHeader(table(), *columns, header);
    EXPECT_TRUE(source) << source.error().text();
    options.again = [&]() -> Result<std::unique_ptr<TableSource>> {
      FileHeader again;
      return (*file)->linesBehindHeader(table(), *columns, again);
    };
    Progress progress;
    auto out = correctionsFrom(**source, header, db.session(), table(), options, progress);
    EXPECT_TRUE(out) << out.error().text();
    return std::move(*out);
  }
  int pick(int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); }

  std::mt19937 random{15};
  TestDatabase db{"CREATE TABLE visit (id INTEGER NOT NULL PRIMARY KEY, seen DATE, noted TIMESTAMP NULL);", GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(DaysFoundTest);

TEST_P(DaysFoundTest, OneDayAfterTheTwelfthTellsItForAllOfThem) {
  db.run("DELETE FROM visit");
  for (int i = 1; i <= 5; ++i) db.run("INSERT INTO visit VALUES (" + std::to_string(i) + ", NULL, NULL)");
  int open = 0;
  for (int round = 0; round < 40; ++round) {
    const bool dayFirst = pick(2) == 0;
    const std::string sign(1, "./-"[pick(3)]);
    std::ostringstream text("id,seen\n", std::ios::ate);
    std::vector<std::string> wanted;
    bool told = false;
    for (int i = 1; i <= 5; ++i) {
      const int day = 1 + pick(pick(2) == 0 ? 12 : 28);
      const int month = 1 + pick(12);
      told = told || day > 12;
      text << i << ',' << (dayFirst ? day : month) << sign << (dayFirst ? month : day) << sign << "2025\n";
      const auto two = [](int n) { return (n < 10 ? "0" : "") + std::to_string(n); };
      wanted.push_back("2025-" + two(month) + "-" + two(day));
    }
    const FileCorrections found = held(text.str());
    ASSERT_EQ(1U, found.days.size()) << text.str();
    if (!told) {
      ++open;
      EXPECT_EQ(Days::AsTyped, found.days[0].order) << text.str();
      EXPECT_EQ(5U, found.counts.failed) << "nothing is guessed";
      CorrectionOptions said;
      said.forms.days = dayFirst ? Days::DayFirst : Days::MonthFirst;
      EXPECT_EQ(5U, held(text.str(), said).counts.changing);
      continue;
    }
    EXPECT_EQ(dayFirst ? Days::DayFirst : Days::MonthFirst, found.days[0].order) << text.str();
    ASSERT_EQ(5U, found.counts.changing) << text.str();
    std::size_t at = 0;
    for (const auto& [index, change] : found.changes.inOrder()) {
      EXPECT_EQ(wanted[at++], canonicalText(change.cells[0].to)) << text.str();
    }
  }
  EXPECT_GT(open, 0);
}

TEST_P(DaysFoundTest, EachColumnHasAnOrderOfItsOwn) {
  db.run("DELETE FROM visit");
  for (int i = 1; i <= 4; ++i) db.run("INSERT INTO visit VALUES (" + std::to_string(i) + ", NULL, NULL)");
  const FileCorrections found = held(
      "id,seen,noted\n1,3/4/2025,5/6/2025 10:00\n2,31/4/2025,\n3,30/4/2025,6/25/2025 11:30\n4,4/5/2025,2025-07-01 "
      "08:00\n");
  ASSERT_EQ(2U, found.days.size());
  EXPECT_EQ("seen: the day comes first, as 30/4/2025 in line 4 shows", inWords(found.days[0], "line"));
  EXPECT_EQ("noted: the month comes first, as 6/25/2025 11:30 in line 4 shows", inWords(found.days[1], "line"));
  EXPECT_EQ(LineOutcome::Kind::Changes, found.lines.of(2).kind);
  EXPECT_EQ(LineOutcome::Kind::Refused, found.lines.of(3).kind) << "there is no such day";
  EXPECT_EQ(LineOutcome::Kind::Changes, found.lines.of(4).kind);
  EXPECT_EQ(LineOutcome::Kind::Changes, found.lines.of(5).kind);
  const auto first = found.changes.inOrder()[0].second;
  EXPECT_EQ("2025-04-03", canonicalText(first.cells[0].to));
  EXPECT_EQ("2025-05-06 10:00", canonicalText(first.cells[1].to).substr(0, 16));
}

// One line that another hand wrote must not turn all the others round.
TEST_P(DaysFoundTest, WhereLinesContradictEachOtherNothingIsTakenForGranted) {
  db.run("DELETE FROM visit");
  for (int i = 1; i <= 3; ++i) db.run("INSERT INTO visit VALUES (" + std::to_string(i) + ", NULL, NULL)");
  const FileCorrections found = held("id,seen\n1,13/4/2025\n2,3/4/2025\n3,4/30/2025\n");
  ASSERT_EQ(1U, found.days.size());
  EXPECT_EQ(
      "seen: the day comes first in some and the month in others, as 13/4/2025 in line 2 and 4/30/2025 in line 4 show",
      inWords(found.days[0], "line"));
  EXPECT_EQ(3U, found.counts.failed);
  CorrectionOptions said;
  said.forms.days = Days::MonthFirst;
  EXPECT_EQ(2U, held("id,seen\n1,13/4/2025\n2,3/4/2025\n3,4/30/2025\n", said).counts.changing);
}

// Seconds that a program wrote, or left out for being noughts, are no correction.
TEST_P(DaysFoundTest, AMomentIsTheSameHoweverItIsSpelled) {
  db.run("DELETE FROM visit");
  db.run("INSERT INTO visit VALUES (1, '2025-05-06', '2025-05-06 10:00'), (2, '2025-05-06', '2025-05-06 10:00:00')");
  EXPECT_EQ(0U, held("id,noted\n1,2025-05-06 10:00:00\n2,2025-05-06 10:00\n").counts.changing);
  EXPECT_EQ(0U, held("id,seen,noted\n1,6.5.2025,6.5.2025 10:00:00\n2,06/05/25,2025-05-06T10:00:00.0\n3,13.5.2025,\n")
                    .counts.changing);
  EXPECT_EQ(2U, held("id,noted\n1,2025-05-06 10:00:01\n2,2025-05-06 10:01\n").counts.changing);
}

TEST_P(DaysFoundTest, WhereAllDaysHaveTheYearFirstNothingIsAsked) {
  db.run("DELETE FROM visit");
  db.run("INSERT INTO visit VALUES (1, NULL, NULL)");
  const FileCorrections found = held("id,seen,noted\n1,2025-04-03,2025-05-06 10:00:00\n");
  EXPECT_TRUE(found.days.empty());
  EXPECT_EQ(1U, found.counts.changing);
}

}  // namespace
}  // namespace iterandum::test
