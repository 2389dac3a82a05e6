// Values on their way out as people read them: against an oracle that looks each name up by itself.
#include "core/files/shown_values.h"

#include <gmock/gmock.h>

#include <map>
#include <random>

#include "core/files/print_form.h"
#include "core/files/shown_records.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

class ShownValuesTest : public EngineTest {
 protected:
  TestDatabase db{R"(
    CREATE TABLE crew (crew_id INTEGER PRIMARY KEY, name VARCHAR(20));
    CREATE TABLE round (round_id INTEGER PRIMARY KEY, crew_id INTEGER, every_s INTEGER, state INTEGER,
      FOREIGN KEY (crew_id) REFERENCES crew (crew_id));
  )",
                  GetParam()};
};

TEST_P(ShownValuesTest, NamesAndLensesAsAnOracleTellsAndNothingElse) {
  std::mt19937 random(9);
  std::map<int, std::string> crews;
  for (int i = 1; i <= 9; ++i) {
    crews[i] = i % 4 == 0 ? "" : "crew " + std::to_string(i % 3);
    db.run("INSERT INTO crew VALUES (" + std::to_string(i) + ", " + (i == 4 ? "NULL" : "'" + crews[i] + "'") + ")");
  }
  std::vector<std::string> expected;
  for (int i = 0; i < 60; ++i) {
    const int crew = static_cast<int>(random() % 10);
    const int every = static_cast<int>(random() % 4) * 3600;
    const int state = static_cast<int>(random() % 3);
    db.run("INSERT INTO round VALUES (" + std::to_string(i) + ", " + (crew == 0 ? "NULL" : std::to_string(crew)) +
           ", " + std::to_string(every) + ", " + std::to_string(state) + ")");
    // One without a name, or with an empty one, is called by its key; a code without a label is shown as it is.
    const std::string name = crew == 0 ? "-" : (crew % 4 == 0 ? std::to_string(crew) : crews[crew]);
    const std::string shown = every == 0 ? "0 s" : std::to_string(every / 3600) + " h";
    expected.push_back(std::to_string(i) + "|" + name + "|" + shown + "|" +
                       (state == 1 ? "open" : (state == 2 ? "done" : "0")));
  }
  Lens every;
  every.table = "round";
  every.column = "every_s";
  every.kind = LensKind::Duration;
  Lens state = every;
  state.column = "state";
  state.kind = LensKind::Labels;
  state.labels = {{"1", "open"}, {"2", "done"}};
  Scope scope;
  scope.table = "round";
  scope.order = {{"round_id"}};
  std::vector<ScopeProblem> problems;
  const auto read = readScope(scope, contextNow(db.catalogue()), problems);
  ASSERT_TRUE(read);
  Progress progress;
  auto shown = shownRecords(*read, db.session(), "csv");
  ASSERT_TRUE(shown);
  auto values = ShownValues::read(*read, db.catalogue(), {}, {every, state}, db.session(), progress);
  ASSERT_TRUE(values) << values.error().text();
  shown->showAs(std::move(*values));
  std::vector<std::string> lines;
  std::string text;
  const auto writer = makeRecordWriter("csv", shown->form, [&](std::string_view piece) {
    text += piece;
    return Status();
  });
  shown->form.noValue = "-";
  ASSERT_TRUE(writeRecords(db.session(), *shown, *writer, progress));
  std::size_t at = text.find("\r\n") + 2;
  while (at < text.size()) {
    const std::size_t end = text.find("\r\n", at);
    std::string line = text.substr(at, end - at);
    std::string plain;
    for (const char c : line) plain += c == ',' ? '|' : c;
    // An empty field is no value.
    const std::size_t none = plain.find("||");
    if (none != std::string::npos) plain.insert(none + 1, "-");
    lines.push_back(plain);
    at = end + 2;
  }
  EXPECT_THAT(lines, ::testing::ElementsAreArray(expected));
}

ITERANDUM_ON_ALL_ENGINES(ShownValuesTest);

TEST(PrintFormTest, ComesBackAsItWas) {
  std::mt19937 random(4);
  for (int i = 0; i < 200; ++i) {
    PrintForm form;
    form.name = i % 3 == 0 ? "" : "form " + std::to_string(i);
    form.kind = static_cast<PrintForm::Kind>(random() % 3);
    form.turned = static_cast<PrintForm::Turned>(random() % 3);
    form.title = i % 2 == 0 ? "" : "a \"title\"\n";
    form.points = kFewestPoints + static_cast<int>(random() % (kMostPoints - kFewestPoints + 1));
    form.groupBy = i % 2 == 0 ? "" : "\"odd.name\"";
    form.cardAPage = random() % 2 == 0;
    form.asStored = random() % 2 == 0;
    form.across = 1 + static_cast<int>(random() % kMostLabels);
    form.down = 1 + static_cast<int>(random() % kMostLabels);
    const auto back = printFormFromJson(printFormToJson(form));
    ASSERT_TRUE(back) << back.error().text();
    EXPECT_EQ(form, *back) << printFormToJson(form);
  }
}

}  // namespace
}  // namespace iterandum::test
