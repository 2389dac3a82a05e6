// What lines of a file mean: references said by name, values as lenses show them, records named without regard to
// capitals and blanks; against an oracle over random records.
#include <gmock/gmock.h>

#include <map>
#include <random>
#include <set>

#include "core/files/file_corrections.h"
#include "core/files/table_file.h"
#include "core/value/text_forms.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

constexpr const char* kCrews = R"(
  CREATE TABLE crew (crew_id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL);
  CREATE TABLE round (tag VARCHAR(20) NOT NULL PRIMARY KEY, crew_id INTEGER REFERENCES crew (crew_id), every_s BIGINT,
    state INTEGER);
)";

class FileMeaningTest : public EngineTest {
 protected:
  int pick(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }

  Result<FileCorrections> held(const std::string& text, CorrectionOptions options = {}) {
    const Table& table = *db.catalogue().find({"", "round"});
    options.catalogue = &db.catalogue();
    ITERANDUM_ASSIGN(const std::unique_ptr<TableFile> file, TableFile::open({"list.csv", {}, {}, {}}, table, text));
    ITERANDUM_ASSIGN(const std::vector<const Column*> columns, matchColumns(table, {}));
    FileHeader header;
    ITERANDUM_ASSIGN(const std::unique_ptr<TableSource> source, file->linesBehindHeader(table, columns, header));
    Progress progress;
    return correctionsFrom(*source, header, db.session(), table, options, progress);
  }

  static std::string said(const FileCorrections& corrections) {
    std::string out;
    for (const LineOutcome& line : corrections.lines)
      out += std::to_string(line.line) + " " + inWords(line, "line") + "\n";
    return out;
  }
  static std::string staged(const FileCorrections& corrections) {
    std::string out;
    for (const auto& [index, change] : corrections.changes.inOrder()) {
      for (const CellChange& cell : change.cells) {
        out += canonicalText(change.key.empty() ? Value::text("new") : change.key[0]) + " " + cell.column + "=" +
               (cell.to.isNull() ? "-" : canonicalText(cell.to)) + "\n";
      }
    }
    return out;
  }

  TestDatabase db{kCrews, GetParam()};
  std::mt19937 random_{31};
};

// The key where one is there, else the one record of that name, exactly or but for capitals and blanks; else refused.
TEST_P(FileMeaningTest, ReferencesAreSaidByNameAsAnOracleTells) {
  const std::vector<std::string> names{"North", "north", "South crew", "7", "Old  Town", "3", "South crew", "Quay"};
  for (int round = 0; round < 60; ++round) {
    db.run("DELETE FROM round");
    db.run("DELETE FROM crew");
    std::map<int, std::string> crews;
    for (int i = 0; i < 1 + pick(6); ++i) {
      const int id = 1 + pick(9);
      if (crews.contains(id)) continue;
      crews[id] = names[static_cast<std::size_t>(pick(static_cast<int>(names.size())))];
      db.run("INSERT INTO crew VALUES (" + std::to_string(id) + ", '" + crews[id] + "')");
    }
    db.run("INSERT INTO round VALUES ('a', NULL, NULL, NULL)");
    const std::vector<std::string> words{"North", "NORTH",    " south  crew ", "South crew", "7",
                                         "3",     "old town", "Quay",          "Harbour"};
    const std::string word = words[static_cast<std::size_t>(pick(static_cast<int>(words.size())))];
    const auto loose = [](const std::string& text) { return looseText(text); };
    std::vector<int> exactly;
    std::vector<int> loosely;
    for (const auto& [id, name] : crews) {
      if (name == word) exactly.push_back(id);
      if (loose(name) == loose(word)) loosely.push_back(id);
    }
    const bool isNumber = word == "7" || word == "3";
    std::string expected = "refused";
    if (isNumber && crews.contains(std::stoi(word))) {
      expected = word;
    } else if (exactly.size() == 1) {
      expected = std::to_string(exactly[0]);
    } else if (exactly.empty() && loosely.size() == 1) {
      expected = std::to_string(loosely[0]);
    } else if (exactly.empty() && loosely.empty() && isNumber) {
      expected = word;  // a key that is not there: the review says so
    }
    const auto found = held("tag,crew_id\na,\"" + word + "\"\n");
    ASSERT_TRUE(found) << found.error().text();
    EXPECT_EQ(expected == "refused" ? "" : "a crew_id=" + expected + "\n", staged(*found))
        << "round " << round << ", '" << word << "'\n"
        << said(*found);
    EXPECT_EQ(expected == "refused" ? 1U : 0U, found->counts.failed) << said(*found);
  }
}

TEST_P(FileMeaningTest, WhatNoRecordOrSeveralAreCalledIsSaid) {
  db.run("INSERT INTO crew VALUES (1, 'North'), (2, 'Quay'), (3, 'Quay')");
  db.run("INSERT INTO round VALUES ('a', 1, 4, 1), ('b', 1, 4, 1)");
  const auto found = held("tag,crew_id\na,Harbour\nb,Quay\n");
  ASSERT_TRUE(found);
  EXPECT_EQ(
      "2 no record of crew is called 'Harbour'\n"
      "3 several records of crew are called 'Quay'; the key is wanted instead\n",
      said(*found));
}

TEST_P(FileMeaningTest, ThroughLensesWhatIsShownIsWhatIsMeant) {
  db.run("INSERT INTO round VALUES ('a', NULL, 345600, 1), ('b', NULL, 345600, 2), ('c', NULL, 60, 1)");
  Lens every;
  every.table = "round";
  every.column = "every_s";
  every.kind = LensKind::Duration;
  Lens state = every;
  state.column = "state";
  state.kind = LensKind::Labels;
  state.labels = {{"1", "open"}, {"2", "done"}};
  CorrectionOptions options;
  options.lenses = {every, state};
  const auto found = held("tag,every_s,state\na,4 d,open\nb,5 d,Open\nc,no time,closed\n", options);
  ASSERT_TRUE(found) << found.error().text();
  EXPECT_EQ("b every_s=432000\nb state=1\n", staged(*found));
  EXPECT_THAT(said(*found), ::testing::StartsWith("3 changes every_s, state\n4 "));
  EXPECT_EQ(1U, found->counts.already);
  EXPECT_EQ("is so already", inWords(found->lines.of(2), "line"));
  EXPECT_EQ(1U, found->counts.failed);
}

// Every record by a name with other capitals and blanks; two that differ in nothing else are named by none.
TEST_P(FileMeaningTest, LooselyNamedRecordsAreFoundAsAnOracleTells) {
  CorrectionOptions options;
  options.looseMatch = true;
  for (int round = 0; round < 40; ++round) {
    db.run("DELETE FROM round");
    std::map<std::string, std::string> tags;  // as it is, and loosely
    const std::vector<std::string> some{"QH 1", "qh 1", "QH  1", "QH 2", "Qh 3", "QH4"};
    for (const std::string& tag : some) {
      const bool alike = std::any_of(tags.begin(), tags.end(), [&](const auto& other) {
        return lowerCase(other.first) == lowerCase(tag);  // MariaDB takes them for one key
      });
      if (alike || pick(3) == 0) continue;
      tags[tag] = looseText(tag);
      db.run("INSERT INTO round VALUES ('" + tag + "', NULL, 1, NULL)");
    }
    const std::vector<std::string> words{" qh 1", "QH   2 ", "qH 3", "qh 4", "Qh4", "QH 1"};
    std::string text = "tag,every_s\n";
    std::string expected;
    std::set<std::string> asked;
    for (const std::string& word : words) {
      if (pick(2) == 0 || !asked.insert(looseText(word)).second) continue;
      text += "\"" + word + "\",9\n";
      std::vector<std::string> meant;
      for (const auto& [tag, plain] : tags) {
        if (plain == looseText(word)) meant.push_back(tag);
      }
      if (meant.size() == 1) expected += meant[0] + " every_s=9\n";
    }
    const auto found = held(text, options);
    ASSERT_TRUE(found) << found.error().text();
    EXPECT_EQ(expected, staged(*found)) << "round " << round << "\n" << text << said(*found);
  }
}

ITERANDUM_ON_ALL_ENGINES(FileMeaningTest);

}  // namespace
}  // namespace iterandum::test
