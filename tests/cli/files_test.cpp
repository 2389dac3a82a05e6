// Files in and out from outside: corrections from lists as other programs write them, every format that leaves, what is
// printed; house rules and history, with their exit statuses.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstdlib>

#include "cli/cli_fixture.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

// $IN has the spreadsheets; the build makes them.
class CliFilesTest : public CliRegisterTest {
 protected:
  void SetUp() override { variables["IN"] = TEST_SPREADSHEETS; }
  std::string trees(const std::string& words) {
    return applied("stage $DB tree " + words, "tree_id, tag, condition, height, note");
  }
};
ITERANDUM_ON_ALL_ENGINES(CliFilesTest);

TEST_P(CliFilesTest, OnlyCellsThatDifferAreStagedWhateverTheForm) {
  write("a.csv",
        "tree_id,tag,condition,height,note\r\n7,T7,3,12.50,old\r\n8,T8,2,9,\r\n9,T9,4,20.25,\"two\nlines\"\r\n");
  write("a.json",
        R"([{"tree_id": 7, "condition": 3}, {"note": "two\nlines", "tree_id": 9}, {"tree_id": 8, "note": null}])");
  write("a.jsonl", "{\"tree_id\": 7, \"condition\": 3}\n{\"note\": \"two\\nlines\", \"tree_id\": 9}\n");
  for (const std::string file : {"a.csv", "a.json", "a.jsonl", "$IN/plain.xlsx", "$IN/plain.ods"}) {
    ASSERT_EQ(0, run("stage $DB tree --from " + file + " -o -")) << file << err;
    EXPECT_THAT(err, HasSubstr("2 records change in 2 cells")) << file;
    EXPECT_THAT(out, HasSubstr("\"key\": {\"tree_id\": 7}, \"cells\": {\"condition\": {\"from\": 2, \"to\": 3}}"))
        << file;
    EXPECT_THAT(out, HasSubstr("\"cells\": {\"note\": {\"from\": \"\", \"to\": \"two\\nlines\"}}")) << file;
    EXPECT_THAT(out, Not(HasSubstr("\"tree_id\": 8"))) << file;
  }
  EXPECT_EQ("7|T7|3|12.5|old\n8|T8|2|9|-\n9|T9|4|20.25|two\nlines", trees("--from $IN/plain.xlsx"));
  ASSERT_EQ(0, run("stage $DB tree --from - -o - < a.csv"));
  EXPECT_THAT(out, HasSubstr("\"changes\": []"));
}

TEST_P(CliFilesTest, TheHeaderIsBelowTitlesOnTheFirstSheetThatHasOne) {
  EXPECT_EQ("7|T7|5|12.5|old\n8|T8|2|9|-\n9|T9|4|20.25|", trees("--from $IN/titled.xlsx"));
  EXPECT_EQ(4, run("stage $DB tree --from $IN/titled.xlsx --sheet 'Read me' -o changes.json"));
  EXPECT_THAT(err, HasSubstr("no line of it names the columns of tree"));
  EXPECT_EQ(2, run("stage $DB tree --from $IN/titled.xlsx --sheet Bushes -o changes.json"));
  EXPECT_THAT(err, HasSubstr("there are Read me, Trees"));
}

TEST_P(CliFilesTest, LinesThatCannotBeStagedAreNamedAndStopAllOfIt) {
  write("a.csv", "tree_id,condition,note\n7,9,x\n70,1,\n8,1,x\n8,2,x\n9,one,x\n,3,\n");
  ASSERT_EQ(3, run("stage $DB tree --from a.csv -o changes.json"));
  EXPECT_FALSE(exists("changes.json"));
  EXPECT_THAT(err, HasSubstr("line 3: no record is named by it"));
  EXPECT_THAT(err, HasSubstr("line 4: names the same record as line 5"));
  EXPECT_THAT(err, HasSubstr("line 5: names the same record as line 4"));
  EXPECT_THAT(err, HasSubstr("line 6: "));
  EXPECT_THAT(err, HasSubstr("line 7: no record is named by it"));
  ASSERT_EQ(0, run("stage $DB tree --from a.csv --leave-out-failed -o changes.json --report report.csv")) << err;
  EXPECT_THAT(read("report.csv"), HasSubstr("70,1,,no record is named by it\r\n"));
  EXPECT_THAT(read("report.csv"), HasSubstr("8,1,x,names the same record as line 5\r\n"));
  EXPECT_THAT(read("changes.json"), Not(HasSubstr("\"tree_id\": 8")));
}

TEST_P(CliFilesTest, NewAndMissingRecordsOnlyWhereAskedFor) {
  write("a.csv", "tree_id,tag,species_id,condition,height,note\n7,T7,1,2,12.5,old\n10,T10,3,,1,\"\"\n");
  ASSERT_EQ(3, run("stage $DB tree --from a.csv -o changes.json"));
  ASSERT_EQ(0, run("stage $DB tree --from a.csv --add-missing --remove-missing -o changes.json")) << err;
  EXPECT_THAT(err, HasSubstr("1 is new, 2 records missing in it go"));
  EXPECT_THAT(read("changes.json"), HasSubstr("\"condition\": {\"to\": null}"));
  EXPECT_THAT(read("changes.json"), HasSubstr("\"action\": \"remove\""));
  db.run("DELETE FROM inspection");
  db.run("DELETE FROM photo");
  EXPECT_EQ("7|T7|2|12.5|old\n10|T10|-|1|", trees("--from a.csv --add-missing --remove-missing"));
  // Whose key cannot be read may be any of them.
  write("a.csv", "tree_id,note\nseven,x\n");
  ASSERT_EQ(3, run("stage $DB tree --from a.csv --remove-missing --leave-out-failed -o changes2.json"));
  EXPECT_THAT(err, HasSubstr("which records are missing in it cannot be told"));
  EXPECT_FALSE(exists("changes2.json"));
}

TEST_P(CliFilesTest, RecordsAreNamedByOtherColumns) {
  write("a.csv", "tag,note\nT9,oak\nT8,lime\n");
  EXPECT_EQ("7|T7|2|12.5|old\n8|T8|2|9|lime\n9|T9|4|20.25|oak", trees("--from a.csv --match tag"));
  write("a.csv", "species_id;condition;note\n1;2;x\n2;4;y\n");
  ASSERT_EQ(3, run("stage $DB tree --from a.csv --match species_id,condition -o changes.json"));
  EXPECT_THAT(err, HasSubstr("line 2: several records are named by it"));
  write("b.csv", "tree_id,inspected_on,grade\n7,2025-03-02,poor\n");
  ASSERT_EQ(0, run("stage $DB inspection --from b.csv -o -")) << err;
  EXPECT_THAT(out, HasSubstr("\"grade\": {\"from\": \"sound\", \"to\": \"poor\"}"));
  EXPECT_EQ(2, run("stage $DB tree --from a.csv --match tagg -o -"));
}

TEST_P(CliFilesTest, TheOrderOfDaysIsFoundFromTheColumnOrAskedFor) {
  write("b.csv", "tree_id,inspected_on,grade\n7,2.3.2025,poor\n9,5.5.2025,sound\n7,31.12.2030,sound\n");
  EXPECT_EQ(3, run("stage $DB inspection --from b.csv -o -"));
  EXPECT_THAT(err, HasSubstr("note: inspected_on: the day comes first, as 31.12.2030 in line 4 shows"));
  EXPECT_THAT(err, HasSubstr("line 4: no record is named by it"));
  EXPECT_THAT(err, Not(HasSubstr("line 2")));
  ASSERT_EQ(0, run("stage $DB inspection --from b.csv --leave-out-failed -o -"));
  EXPECT_THAT(out, HasSubstr("\"inspected_on\": \"2025-03-02\"}, \"cells\": {\"grade\": {\"from\": \"sound\""));
  write("b.csv", "tree_id,inspected_on,grade\n7,2/3/2025,poor\n9,5/5/2025,sound\n");
  EXPECT_EQ(3, run("stage $DB inspection --from b.csv -o -"));
  EXPECT_THAT(err, HasSubstr("--dates dmy or --dates mdy"));
  EXPECT_THAT(err, HasSubstr("line 2: whether the day or the month comes first in inspected_on cannot be told"));
  ASSERT_EQ(0, run("stage $DB inspection --from b.csv --dates dmy -o -")) << err;
}

TEST_P(CliFilesTest, ValuesAsPeopleWriteThem) {
  write("a.csv", "tree_id;height;note\n7;1,5;\n8;\"1.23,45.6\";NULL\n");
  EXPECT_EQ(3, run("stage $DB tree --from a.csv --decimal comma -o changes.json"));
  EXPECT_THAT(err, HasSubstr("line 3: "));
  write("a.csv", "tree_id;height;note\n7;1,5;\n8;\"+9,00\";NULL\n");
  ASSERT_EQ(0, run("stage $DB tree --from a.csv --decimal comma --null NULL --blank leave -o -")) << err;
  EXPECT_THAT(out, HasSubstr("\"height\": {\"from\": "));
  EXPECT_THAT(out, Not(HasSubstr("\"note\"")));
  EXPECT_THAT(out, Not(HasSubstr("\"tree_id\": 8")));
  write("b.csv", "tree_id|inspected_on|grade\n7|2.3.2025|poor\n9|05.05.25|sound\n");
  ASSERT_EQ(0, run("stage $DB inspection --from b.csv --dates dmy -o -")) << err;
  EXPECT_THAT(
      out,
      HasSubstr(
          "\"inspected_on\": \"2025-05-05\"}, \"cells\": {\"grade\": {\"from\": \"unknown\", \"to\": \"sound\"}}"));
}

TEST_P(CliFilesTest, DaysOfASpreadsheetAreDays) {
  // The first differs, the second is so already, the third has a time of day, which no day has.
  ASSERT_EQ(3, run("stage $DB inspection --from $IN/days.xlsx -o changes.json"));
  EXPECT_THAT(err, HasSubstr("row 4: "));
  EXPECT_THAT(err, HasSubstr("3 rows: 1 record changes in 1 cell, 1 is so already, 1 fails"));
  ASSERT_EQ(0, run("stage $DB inspection --from $IN/days.xlsx --leave-out-failed -o -"));
  EXPECT_THAT(
      out,
      HasSubstr("\"inspected_on\": \"2025-03-02\"}, \"cells\": {\"grade\": {\"from\": \"sound\", \"to\": \"poor\"}}"));
}

TEST_P(CliFilesTest, WhatSpreadsheetsHoldBesidesValuesIsSaid) {
  ASSERT_EQ(3, run("stage $DB tree --from $IN/spoilt.xlsx -o changes.json --report report.xlsx"));
  EXPECT_THAT(err, HasSubstr("row 3: the cell of condition holds the error #N/A"));
  EXPECT_THAT(err, HasSubstr("row 4: the cell of height holds the error of a formula that is not computed"));
  // The report is a spreadsheet of its own, and can be staged from.
  ASSERT_EQ(3, run("stage $DB tree --from report.xlsx -o changes.json"));
  EXPECT_THAT(err, HasSubstr("no column 'outcome': it is left alone"));
  ASSERT_EQ(0, run("stage $DB tree --from $IN/inline.xlsx -o -")) << err;
  EXPECT_THAT(out, HasSubstr("not a formula <&> \\\"quoted\\\""));
}

TEST_P(CliFilesTest, BadFilesAreRefusedInTimeAndNamed) {
  const auto refused = [&](const std::string& file, const std::string& words) {
    EXPECT_EQ(4, run("stage $DB tree --from " + file + " -o changes.json")) << file << err;
    EXPECT_THAT(err, HasSubstr(words)) << file;
    EXPECT_FALSE(exists("changes.json"));
  };
  refused("$IN/bomb.xlsx", "unpacks to more than 400 times");
  refused("$IN/truncated.xlsx", "no spreadsheet");
  refused("$IN/other.zip", "neither XLSX nor ODS");
  refused("nothing.csv", "nothing.csv");
  write("a.csv", "");
  refused("a.csv", "no line of it names");
  write("a.csv", "tree_id,note\n7,\"x\n");
  refused("a.csv", "a.csv, line 2: the quote that opens here is not closed");
  write("a.csv", std::string("tree_id,note\n7,\0x\n", 18));
  refused("a.csv", "NUL");
  write("a.csv", "tree_id,note,note\n7,x,y\n");
  refused("a.csv", "the column note is there twice");
  write("a.json", "[{\"tree_id\": 7, \"note\": }]");
  refused("a.json", "a.json");
  write("a.csv", "tree_id,note\n7,x,y\n");
  EXPECT_EQ(3, run("stage $DB tree --from a.csv -o changes.json"));
  EXPECT_THAT(err, HasSubstr("line 2: it has 3 fields, the header has 2"));
  EXPECT_EQ(2, run("stage $DB tree --from a.csv --delimiter ,, -o changes.json"));
  EXPECT_EQ(4, run("stage $DB tree --from a.csv -o a.csv"));
  EXPECT_EQ("tree_id,note\n7,x,y\n", read("a.csv"));
}

// What leaves comes back without a difference, for every format and every kind of value.
TEST_P(CliFilesTest, WhatIsShownIsStagedWithoutADifference) {
  const bool isPg = GetParam() == Engine::PostgreSql;
  const bool isMaria = GetParam() == Engine::MariaDb;
  const std::string bytes = isPg ? "BYTEA" : "BLOB";
  db.run(
      "CREATE TABLE kinds (id INTEGER NOT NULL PRIMARY KEY, t VARCHAR(200), d DATE, m TIMESTAMP NULL, n DECIMAL(20,4), "
      "r DOUBLE PRECISION, b " +
      bytes + ", big BIGINT, yes BOOLEAN" + (isPg ? ", j JSONB, u UUID, s INTERVAL)" : ")"));
  const std::string quote = isMaria ? "x'00ff10'" : (isPg ? "'\\x00ff10'" : "x'00ff10'");
  db.run(
      "INSERT INTO kinds (id, t, d, m, n, r, b, big, yes) VALUES (1, '', '2025-03-01', '2025-03-01 14:30:00', 12.5, "
      "0.1, " +
      quote + ", 9223372036854775807, " + (isPg ? "true" : "1") + ")");
  db.run("INSERT INTO kinds (id) VALUES (2)");
  db.run(
      "INSERT INTO kinds (id, t, d, m, n, r, big, yes) VALUES (3, ' =1+1 _x000D_ \"a\",;|\t<b>&', '1899-12-31', "
      "'1999-12-31 23:59:59', -1234567890123456.7891, 0.30000000000000004, -1, " +
      std::string(isPg ? "false" : "0") + ")");
  db.run("INSERT INTO kinds (id, t, d, n, r) VALUES (4, 'two\nlines', '9999-12-31', 0.0001, 1e300)");
  if (isPg)
    db.run(
        "UPDATE kinds SET j = '{\"a\": [1, \"x\"]}', u = '00000000-0000-0000-0000-00000000000a', s = '1 mon 2 days' "
        "WHERE id = 1");
  for (const std::string format : {"csv", "tsv", "json", "jsonl", "xlsx"}) {
    ASSERT_EQ(0, run("show $DB kinds --format " + format + " -o out." + format)) << err;
    ASSERT_EQ(0, run("stage $DB kinds --from out." + format + " --remove-missing -o -")) << format << err;
    EXPECT_THAT(out, HasSubstr("\"changes\": []")) << format << out;
    EXPECT_THAT(err, HasSubstr("4 are so already")) << format;
  }
  // And all of it again, into an empty table: the same records.
  const std::string was = db.rows("SELECT * FROM kinds ORDER BY id");
  for (const std::string format : {"csv", "json", "xlsx"}) {
    db.run("DELETE FROM kinds");
    ASSERT_EQ(0, run("stage $DB kinds --from out." + format + " --add-missing -o changes.json")) << format << err;
    ASSERT_EQ(0, run("apply $DB changes.json")) << format << out << err;
    EXPECT_EQ(was, db.rows("SELECT * FROM kinds ORDER BY id")) << format;
  }
}

TEST_P(CliFilesTest, TheScriptMakesTheSameRecordsAgain) {
  ASSERT_EQ(0, run("show $DB tree --format sql -o out.sql")) << err;
  db.run("DELETE FROM inspection");
  db.run("DELETE FROM photo");
  const std::string was = db.rows("SELECT * FROM tree ORDER BY tree_id");
  db.run("DELETE FROM tree");
  EXPECT_EQ("", db.runInPlainClient(read("out.sql")));
  EXPECT_EQ(was, db.rows("SELECT * FROM tree ORDER BY tree_id"));
  EXPECT_EQ(2, run("show $DB tree --columns tag,species.name --format sql"));
}

TEST_P(CliFilesTest, DocumentsForPeople) {
  db.run("UPDATE tree SET note = 'a|b <i>' WHERE tree_id = 7");
  ASSERT_EQ(0, run("show $DB tree --where 'condition = 2' --columns tag,species.name,note --format markdown"));
  EXPECT_EQ(
      "tree where condition is 2\n\n| tag | species.name | note |\n| --- | --- | --- |\n| T7 | lime | a\\|b &lt;i> |\n"
      "| T8 | lime | |\n",
      out);
  ASSERT_EQ(0, run("show $DB tree --columns tag,height,note --format html -o out.html"));
  EXPECT_THAT(read("out.html"), HasSubstr("<tr><td>T8</td><td class=\"number\">9"));
  EXPECT_THAT(read("out.html"), HasSubstr("<td class=\"none\"></td></tr>"));
  EXPECT_THAT(read("out.html"), HasSubstr("a|b &lt;i&gt;"));
}

TEST_P(CliFilesTest, AFileIsWrittenWholeOrNotAtAll) {
  write("kept.csv", "what was there");
  EXPECT_EQ(2, run("show $DB tree --where 'conditin = 2' --format csv -o kept.csv"));
  EXPECT_EQ("what was there", read("kept.csv"));
  EXPECT_EQ(4, run("show $DB tree --format csv -o nowhere/out.csv"));
  EXPECT_EQ(4, run("show $DB tree --format xlsx -o /dev/full"));
  if (GetParam() == Engine::Sqlite) {
    EXPECT_EQ(4, run("show $DB tree --format csv -o '" + db.path() + "'"));
  }
}

TEST_P(CliFilesTest, APdfIsPrintedWithoutAScreen) {
  ASSERT_EQ(0, run("$DB tree --where 'condition = 2' --columns tag,species.name,note -o out.pdf", "", PRINT_BINARY))
      << err;
  EXPECT_EQ("", err);
  ASSERT_EQ(0, std::system(("pdftotext -layout '" + db.file("out.pdf") + "' '" + db.file("out.txt") + "'").c_str()));
  const std::string text = read("out.txt");
  EXPECT_THAT(text, HasSubstr("tree where condition is 2"));
  EXPECT_THAT(text, HasSubstr("species.name"));
  EXPECT_THAT(text, HasSubstr("T8"));
  EXPECT_THAT(text, HasSubstr("no value"));
  EXPECT_THAT(text, Not(HasSubstr("T9")));
  EXPECT_THAT(text, HasSubstr("page 1"));
  EXPECT_EQ(2, run("$DB tree", "", PRINT_BINARY));
  EXPECT_THAT(err, HasSubstr("iterandum-print: say with -o"));
  EXPECT_EQ(2, run("$DB tre -o out.pdf", "", PRINT_BINARY));
}

TEST_P(CliFilesTest, HouseRulesFromAFile) {
  write("rules.json", R"({"format": "iterandum-rules", "version": 1, "rules": [
    {"name": "heights", "table": "tree", "holds": "height < 20"},
    {"name": "never better", "table": "tree", "stops": false, "holds": "condition >= [before condition]", "message": "it only gets worse"}]})");
  ASSERT_EQ(3, run("check $DB --rules rules.json --format json")) << err;
  EXPECT_THAT(
      out,
      HasSubstr(R"({"rule": "heights", "table": "tree", "level": "blocks", "rows": 1, "keys": [{"tree_id": 9}]})"));
  EXPECT_THAT(out, Not(HasSubstr("never better")));
  write("changes.json", R"({"format": "iterandum-changes", "version": 1, "changes": [
    {"action": "edit", "table": "tree", "key": {"tree_id": 7}, "cells": {"height": {"from": "12.5", "to": "21"}, "condition": {"from": 2, "to": 1}}},
    {"action": "edit", "table": "tree", "key": {"tree_id": 9}, "cells": {"note": {"from": "", "to": "x"}}}]})");
  ASSERT_EQ(0, run("review $DB changes.json"));
  ASSERT_EQ(3, run("review $DB changes.json --rules rules.json --format json"));
  EXPECT_THAT(out, HasSubstr(R"("kind": "house-rule", "level": "blocks", "change": 0)"));
  EXPECT_THAT(
      out,
      HasSubstr(
          R"("rule": "never better", "message": "tree 7: it would break the house rule 'never better': it only gets worse")"));
  EXPECT_THAT(out, HasSubstr(R"("kind": "house-rule", "level": "note", "change": 1)"));
  ASSERT_EQ(3, run("apply $DB changes.json --rules rules.json --on-conflict mine"));
  EXPECT_EQ("12.5", db.rows("SELECT height FROM tree WHERE tree_id = 7"));
  write(
      "rules.json",
      R"({"format": "iterandum-rules", "version": 1, "rules": [{"name": "old", "table": "bush", "holds": "height < 20"}]})");
  for (const char* call : {"check $DB", "review $DB changes.json", "apply $DB changes.json"}) {
    EXPECT_EQ(4, run(std::string(call) + " --rules rules.json")) << call;
    EXPECT_THAT(err, HasSubstr("rules.json: house rule 'old': this database has no table bush"));
  }
}

TEST_P(CliFilesTest, HistoryOfARecordAndTakingBackByNumber) {
  const auto change = [&](const std::string& title, const std::string& changes) {
    write("changes.json", R"({"format": "iterandum-changes", "version": 1, "title": ")" + title + R"(", "changes": [)" +
                              changes + "]}");
    ASSERT_EQ(0, run("apply $DB changes.json")) << out << err;
  };
  ASSERT_EQ(0, run("history $DB --format json"));
  EXPECT_EQ("[]\n", out);
  change("first", R"({"action": "edit", "table": "tree", "key": {"tree_id": 8}, "cells": {"note": {"to": "one"}}})");
  change("second", R"({"action": "edit", "table": "tree", "key": {"tree_id": 8}, "cells": {"tree_id": {"to": 80}}})");
  change("third", R"({"action": "edit", "table": "tree", "key": {"tree_id": 80}, "cells": {"note": {"to": "two"}}},
                     {"action": "remove", "table": "tree", "key": {"tree_id": 7}})");
  ASSERT_EQ(0, run("history $DB tree '{\"tree_id\": 80}' --format json"));
  const auto at = [&](const char* title) { return out.find(std::string("\"title\":\"") + title); };
  EXPECT_LT(at("third"), at("second"));
  EXPECT_LT(at("second"), at("first"));
  EXPECT_THAT(out, HasSubstr(R"("before":{"tree_id":8,"tag":"T8")"));
  EXPECT_THAT(out, Not(HasSubstr(R"("tree_id":7)")));
  ASSERT_EQ(0, run("history $DB tree '{\"tree_id\": 7}' --format json"));
  EXPECT_THAT(out, HasSubstr(R"("action":"remove","table":"tree","key":{"tree_id":7},"before":{"tree_id":7)"));
  EXPECT_THAT(out, HasSubstr(R"("after":null,"receipt":3})"));
  ASSERT_EQ(0, run("history $DB --verify"));
  EXPECT_THAT(out, HasSubstr("3 receipts, each as it was kept, since 20"));
  ASSERT_EQ(0, run("history $DB"));
  EXPECT_THAT(out, HasSubstr("removed by a cascade: inspection (7, 2025-03-02)"));
  // What was last is taken back by its number; the record that went comes back with what hung on it.
  ASSERT_EQ(0, run("revert --receipt 3 $DB -o back.json")) << err;
  ASSERT_EQ(0, run("apply $DB back.json")) << out << err;
  EXPECT_EQ("7|old\n9|\n80|one", db.rows("SELECT tree_id, note FROM tree ORDER BY tree_id"));
  EXPECT_EQ("7\n7\n9", db.rows("SELECT tree_id FROM inspection ORDER BY tree_id"));
  EXPECT_EQ(2, run("revert --receipt 99 $DB -o back.json"));
  EXPECT_EQ(2, run("history $DB tree '{\"tree_id\"'"));
}

// Ctrl+C while it waits for somebody's lock. (In the foreground: else the signal is sent twice, and the second one ends
// it at once.)
TEST_P(CliFilesTest, StoppedWhileItWaitsItSaysWhatThatCameTo) {
  write("changes.json", R"({"format": "iterandum-changes", "version": 1, "changes": [{"action": "edit", "table": "tree",
                            "key": {"tree_id": 7}, "cells": {"note": {"to": "mine"}}}]})");
  db.run(GetParam() == Engine::Sqlite ? "BEGIN IMMEDIATE" : "BEGIN");
  db.run("UPDATE tree SET note = 'held' WHERE tree_id = 7");
  EXPECT_EQ(1, run("--foreground --preserve-status -s INT 2 '" CLI_BINARY "' apply $DB changes.json --lock-timeout 60",
                   "", "timeout"));
  EXPECT_THAT(err, HasSubstr("it was stopped; nothing was written"));
  db.run("COMMIT");
  EXPECT_EQ("held", db.rows("SELECT note FROM tree WHERE tree_id = 7"));
  ASSERT_EQ(0, run("history $DB --format json")) << err;
  EXPECT_EQ("[]\n", out) << "there is nothing to be found out";
}

}  // namespace
}  // namespace iterandum::test
