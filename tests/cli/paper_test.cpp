// On paper: records as tables in groups, cards and labels, as print forms say; what would change, as a page to be
// signed.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>

#include "cli/cli_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

class CliPaperTest : public CliRegisterTest {
 protected:
  // What the pages say, blanks made single; pages are parted by form feeds.
  std::string printed(const std::string& form, const std::string& words = "tree --columns tag,species_id,note") {
    write("form.json", R"({"format": "iterandum-print-form", "version": 1)" + form + "}");
    if (const int status = run("$DB " + words + " --form form.json -o out.pdf", "", PRINT_BINARY); status != 0)
      return std::to_string(status) + ": " + err;
    const std::string call = "pdftotext -layout '" + db.file("out.pdf") + "' '" + db.file("out.txt") + "'";
    if (std::system(call.c_str()) != 0) return "no text";
    std::string text;
    for (const char c : read("out.txt")) {
      if (c == ' ' && (text.empty() || text.back() == ' ')) continue;
      text += c;
    }
    return text;
  }
};
ITERANDUM_ON_ALL_ENGINES(CliPaperTest);

TEST_P(CliPaperTest, GroupsHaveHeadingsCountsAndTheirOwnOrder) {
  const std::string text = printed(R"(, "group_by": "condition", "title": "For the meeting")",
                                   "tree --columns tag,species_id --sort tag:desc");
  EXPECT_THAT(text, HasSubstr("For the meeting"));
  // By the condition, which is not printed for itself; inside a group as it was asked for.
  const std::vector<std::string> order{"2", "T8", "T7", "2 records", "4", "T9", "1 record"};
  std::size_t at = text.find("species_id");
  ASSERT_NE(std::string::npos, at) << text;
  for (const std::string& word : order) {
    at = text.find(word, at);
    ASSERT_NE(std::string::npos, at) << word << " in\n" << text;
  }
  EXPECT_THAT(text, HasSubstr("T8 lime")) << "references by name";
  EXPECT_THAT(printed(R"(, "as_stored": true)"), HasSubstr("T7 1 old"));
}

TEST_P(CliPaperTest, RecordsAreShownWithNamesWhereItIsAskedFor) {
  ASSERT_EQ(0, run("show $DB tree --columns tag,species_id --format csv --as-shown")) << err;
  EXPECT_EQ("tag,species_id\r\nT7,lime\r\nT8,lime\r\nT9,oak\r\n", out);
  ASSERT_EQ(0, run("show $DB tree --columns tag,species_id --format csv"));
  EXPECT_EQ("tag,species_id\r\nT7,1\r\nT8,1\r\nT9,2\r\n", out);
  EXPECT_EQ(2, run("show $DB tree --format sql --as-shown"));
}

TEST_P(CliPaperTest, CardsAndLabels) {
  const std::string cards = printed(R"(, "kind": "cards", "card_a_page": true)");
  EXPECT_EQ(3, std::count(cards.begin(), cards.end(), '\f')) << cards;
  EXPECT_THAT(cards, HasSubstr("tag T7"));
  EXPECT_THAT(cards, HasSubstr("species_id lime"));
  EXPECT_THAT(cards, HasSubstr("page 3"));
  const std::string flowing = printed(R"(, "kind": "cards")");
  EXPECT_EQ(1, std::count(flowing.begin(), flowing.end(), '\f')) << flowing;
  const std::string labels = printed(R"(, "kind": "labels", "across": 1, "down": 2)");
  EXPECT_EQ(2, std::count(labels.begin(), labels.end(), '\f')) << "two labels a page";
  EXPECT_THAT(labels, Not(HasSubstr("no value")));
  EXPECT_THAT(labels, Not(HasSubstr("page")));
}

// Where names are wider than their columns they go on in the next line between their parts.
TEST_P(CliPaperTest, NamesAreNotBrokenInsideAPart) {
  constexpr int kColumns = 12;
  std::string columns;
  std::string values;
  for (int i = 0; i < kColumns; ++i) {
    columns += ", watering_remark" + std::to_string(i) + "_by_district VARCHAR(90)";
    values += ", '" + std::string(80, 'x') + "'";
  }
  db.run("CREATE TABLE wide (id INTEGER PRIMARY KEY" + columns + "); INSERT INTO wide VALUES (1" + values + ")");
  const std::string text = printed("", "wide");
  for (const char* part : {"watering_", "district"}) {
    int found = 0;
    for (std::size_t at = text.find(part); at != std::string::npos; at = text.find(part, at + 1)) ++found;
    EXPECT_EQ(kColumns, found) << part << " in\n" << text;
  }
}

TEST_P(CliPaperTest, FormsThatAreNoneAreRefusedWithTheirPlace) {
  EXPECT_EQ("4: iterandum-print: form.json, /kind: one of table, cards, labels is wanted, not 'cord'\n",
            printed(R"(, "kind": "cord")"));
  EXPECT_THAT(printed(R"(, "points": 400)"), HasSubstr("/points: a whole number from 5 to 24 is wanted"));
  EXPECT_THAT(printed(R"(, "colour": "red")"), HasSubstr("4: "));
  EXPECT_THAT(printed(R"(, "group_by": "colour")"), HasSubstr("2: "));
  EXPECT_FALSE(exists("out.pdf"));
}

TEST_P(CliPaperTest, WhatWouldChangeIsAPageThatNeedsNothingElse) {
  write("changes.json", R"({"format": "iterandum-changes", "version": 1, "title": "After <b>the storm</b>", "changes": [
    {"action": "edit", "table": "tree", "key": {"tree_id": 7}, "cells": {"condition": {"from": 2, "to": 3}, "species_id": {"from": 1, "to": 2}}},
    {"action": "edit", "table": "tree", "key": {"tree_id": 8}, "cells": {"condition": {"from": 2, "to": 3}}},
    {"action": "remove", "table": "tree", "key": {"tree_id": 9}}]})");
  ASSERT_EQ(0, run("review $DB changes.json --format html")) << err;
  EXPECT_THAT(out, HasSubstr("<h1>After &lt;b&gt;the storm&lt;/b&gt;</h1>")) << "texts are texts";
  EXPECT_THAT(out, HasSubstr("tree: condition from 2 to 3 in 2 records"));
  EXPECT_THAT(out, HasSubstr("<td>7 <b>T7</b></td>")) << "records by name beside their keys";
  EXPECT_THAT(out, HasSubstr("<td>1 <b>lime</b></td><td>2 <b>oak</b></td>")) << "and what they point at";
  EXPECT_THAT(out, HasSubstr("inspection: records removed along: 1"));
  EXPECT_THAT(out, HasSubstr("Nothing stands in the way"));
  EXPECT_THAT(out, HasSubstr("Looked through by"));
  EXPECT_THAT(out, Not(HasSubstr("http")));
  db.run("UPDATE tree SET condition = 5 WHERE tree_id = 8");
  EXPECT_EQ(3, run("review $DB changes.json --format html"));
  EXPECT_THAT(out, HasSubstr("1 thing stands in its way."));
}

}  // namespace
}  // namespace iterandum::test
