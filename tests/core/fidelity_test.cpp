// Every value read, written down in a receipt, and written again from it is the same, on every type of every engine.
#include "core/apply/receipt.h"
#include "core/apply/script.h"
#include "core/catalogue/column_rules.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

struct TypeCase {
  const char* type;
  std::vector<const char*> literals;
};

const std::vector<TypeCase>& typesOf(Engine engine) {
  static const std::vector<TypeCase> kSqlite = {
      {"INTEGER", {"-9223372036854775808", "9223372036854775807", "'tall'", "x'00ff'", "1.5"}},
      {"REAL", {"0.1", "1e308", "-0.0", "9e999", "5e-324", "3"}},
      {"TEXT", {"''", "' a '", "'it''s \"q\" \\ ;--'", "char(10, 13, 9)", "'ü🌳'", "cast(x'ff41' as text)"}},
      {"BLOB", {"x''", "x'0001fe'", "'text'", "12"}},
      {"DECIMAL(9,2)", {"12.50", "-0.01", "'abc'"}},
      {"", {"1", "1.0", "'1'", "x'31'"}}};
  static const std::vector<TypeCase> kPostgreSql = {
      {"smallint", {"-32768", "32767"}},
      {"bigint", {"-9223372036854775808", "9223372036854775807"}},
      {"real", {"0.1", "3.4028235e38", "1e-45", "'NaN'", "'-Infinity'", "16777217"}},
      {"double precision", {"0.1", "5e-324", "'Infinity'", "1.7976931348623157e308"}},
      {"numeric", {"0.10", "123456789012345678901234567890.000000001", "'NaN'", "-1"}},
      {"numeric(8,3)", {"12345.678", "-0.001"}},
      {"boolean", {"true", "false"}},
      {"text", {"''", "' a '", "'it''s \"q\" \\ ;--'", "E'\\n\\r\\t'", "'ü🌳'", "'NULL'", "'{a,b}'"}},
      {"varchar(12)", {"'abc'", "'  '"}},
      {"char(6)", {"'ab'", "''"}},
      {"bytea", {"''", "'\\x0001fe5c'"}},
      {"date", {"'2024-02-29'", "'infinity'", "'0044-03-15 BC'"}},
      {"time", {"'23:59:59.999999'", "'24:00:00'"}},
      {"timetz", {"'12:00:00+05:30'"}},
      {"timestamp", {"'2024-02-29 12:34:56.789012'", "'-infinity'"}},
      {"timestamptz", {"'2024-02-29 12:34:56.789012+02'", "'1900-01-01 00:00:00+00'"}},
      {"interval", {"'1 year 2 mons -3 days 04:05:06.7'", "'-1 day'", "'0'"}},
      {"uuid", {"'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11'"}},
      {"inet", {"'192.168.0.1/24'", "'::1'"}},
      {"json", {"'{\"b\": 1,  \"a\": [1.10, null]}'"}},
      {"jsonb", {"'{\"b\": 1, \"a\": [1.10, null]}'"}},
      {"xml", {"'<a b=\"c\">d</a>'"}},
      {"int[]", {"'{1,NULL,3}'", "'{{1,2},{3,4}}'", "'{}'"}},
      {"text[]", {"ARRAY['a,b', 'c\"d', NULL, 'NULL', '']"}},
      {"int4range", {"'[1,5)'", "'empty'"}},
      {"bit(5)", {"B'10101'"}},
      {"bit varying", {"B'1'", "B''"}},
      {"point", {"'(1.5,-2)'"}},
      {"box", {"'(2,2),(0,0)'"}},
      {"money", {"'-12.34'"}},
      {"oid", {"4294967295"}},
      {"mood", {"'glad'"}},
      {"height_cm", {"'187'"}},
      {"pair", {"ROW(1, 'a \"b\"')"}},
      {"tsvector", {"'a:1 b:2'"}},
      {"macaddr", {"'08:00:2b:01:02:03'"}}};
  static const std::vector<TypeCase> kMariaDb = {
      {"tinyint(1)", {"-128", "127"}},
      {"int(5) zerofill", {"42"}},
      {"bigint", {"-9223372036854775808", "9223372036854775807"}},
      {"bigint unsigned", {"18446744073709551615", "0"}},
      {"float", {"0.1", "3.40282e38", "16777216", "1.17549e-38"}},
      {"double", {"0.1", "5e-324", "1.7976931348623157e308", "-0e0"}},
      {"decimal(40,10)", {"123456789012345678901234567890.0000000001", "-1"}},
      {"bit(3)", {"b'101'"}},
      {"bit(64)", {"18446744073709551615"}},
      {"year", {"2155", "1901", "0"}},
      {"date", {"'2024-02-29'", "'0000-00-00'", "'2024-00-00'"}},
      {"datetime(6)", {"'2024-02-29 12:34:56.789012'", "'0000-00-00 00:00:00'"}},
      {"timestamp(6) null", {"'2024-02-29 12:34:56.789012'", "'1970-01-01 00:00:01'"}},
      {"time(3)", {"'-838:59:59.000'", "'838:59:59'", "'00:00:00.123'"}},
      {"char(6)", {"'ab'", "''"}},
      {"varchar(30) character set latin1", {"'ü é'", "' a '"}},
      {"varchar(30) collate utf8mb4_bin", {"'ü🌳'", "'it''s \\\\ \"q\" ;--'", "'\\n\\r\\t'", "'NULL'", "''"}},
      {"longtext", {"'a\\0b'", "' '"}},
      {"varbinary(9)", {"x'00ff5c27'", "''"}},
      {"binary(3)", {"x'01'"}},
      {"blob", {"x'0001fe'"}},
      {"enum('a','b''c','')", {"'b''c'", "''"}},
      {"set('x','y','z')", {"'x,z'", "''"}},
      {"json", {"'{\"b\": 1,  \"a\": [1.10, null]}'"}},
      {"uuid", {"'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11'"}},
      {"inet6", {"'::1'", "'2001:db8::ff00:42:8329'"}},
      {"point", {"POINT(1.5, -2)"}}};
  return engine == Engine::Sqlite ? kSqlite : engine == Engine::PostgreSql ? kPostgreSql : kMariaDb;
}

class FidelityTest : public EngineTest {
 protected:
  FidelityTest() {
    if (GetParam() == Engine::PostgreSql) {
      db.run(
          "CREATE TYPE mood AS ENUM ('glad', 'sad'); CREATE DOMAIN height_cm AS numeric(5,1) CHECK (VALUE > 0); CREATE "
          "TYPE pair AS (n int, t text)");
    }
    if (GetParam() == Engine::MariaDb) db.run("SET sql_mode = ''");
    int number = 0;
    for (const TypeCase& c : typesOf(GetParam())) {
      const std::string table = "t" + std::to_string(number++);
      tables.push_back(table);
      db.run("CREATE TABLE " + table + " (id integer PRIMARY KEY, v " + c.type + ")");
      int id = 0;
      for (const char* literal : c.literals) {
        db.run("INSERT INTO " + table + " VALUES (" + std::to_string(++id) + ", " + literal + ")");
      }
      db.run("INSERT INTO " + table + " VALUES (" + std::to_string(++id) + ", NULL)");
    }
  }
  // All records of all tables, as their removal.
  ChangeList removals() {
    ChangeList list;
    Progress progress;
    for (const std::string& name : tables) {
      Query query;
      query.table = db.catalogue().find({"", name});
      query.columns = query.table->recordColumns();
      const auto status = db.session().select(
          query,
          [&](ValueTuple&& row) {
            Change change;
            change.action = Action::Remove;
            change.table = query.table->name;
            change.keyColumns = {"id"};
            change.key = {row[0]};
            change.cells.push_back({"v", true, row[1], Value()});
            list.add(std::move(change));
            return true;
          },
          progress);
      EXPECT_TRUE(status.has_value()) << (status ? "" : status.error().message);
    }
    return list;
  }
  std::string applied(const ChangeList& changes, Receipt* receipt = nullptr) {
    Progress progress;
    auto result = applyChanges(db.session(), db.catalogue(), changes, {}, progress);
    if (!result) return result.error().message;
    if (!result->receipt) return findingsText(result->review) + "\n" + result->review.findings.front().message;
    if (receipt != nullptr) *receipt = *result->receipt;
    return "applied";
  }
  TestDatabase db{"", GetParam()};
  std::vector<std::string> tables;
};
ITERANDUM_ON_ALL_ENGINES(FidelityTest);

TEST_P(FidelityTest, WhatARemovalTookComesBackTheSameFromItsReceiptAsJson) {
  const std::string before = db.dump();
  Receipt receipt;
  ASSERT_EQ("applied", applied(removals(), &receipt));
  EXPECT_EQ("0", db.rows("SELECT count(*) FROM t0"));
  const auto read = readReceiptJson(receiptJson(receipt));
  ASSERT_TRUE(read.has_value()) << read.error().text();
  const Reversal back = revertReceipt(*read);
  const auto again = readChangeFile(writeChangeFile(back.changes));
  ASSERT_TRUE(again.has_value()) << again.error().text();
  EXPECT_EQ("applied", applied(*again));
  EXPECT_EQ(before, db.dump());
}

TEST_P(FidelityTest, TheScriptSaysEveryValueSoThatThePlainClientComesToTheSameEnd) {
  const auto scriptOf = [&](const ChangeList& changes) {
    Progress progress;
    const auto review = reviewChanges(db.session(), db.catalogue(), changes, {}, progress);
    return review ? reviewScript(*review) : "error: " + review.error().text();
  };
  const std::string before = db.dump();
  const ChangeList all = removals();
  const std::string removing = scriptOf(all);
  Receipt receipt;
  ASSERT_EQ("applied", applied(all, &receipt));
  const std::string adding = scriptOf(revertReceipt(receipt).changes);
  const std::string empty = db.dump();
  EXPECT_EQ("", db.runInPlainClient(adding));
  EXPECT_EQ(before, db.dump());
  EXPECT_EQ("", db.runInPlainClient(removing));
  EXPECT_EQ(empty, db.dump());
}

TEST_P(FidelityTest, AValueWrittenOverAnotherIsTheSameValue) {
  const ChangeList all = removals();
  ChangeList edits;
  // Each record takes the value of the one before it in its table.
  std::map<TableName, ValueTuple> expected;
  for (const ChangeBlock& block : all.blocks()) {
    const Column& column = *db.catalogue().find(block.table)->column("v");
    for (std::size_t r = 0; r < block.rows(); ++r) {
      Change change = block.change(r);
      const Value own = change.cells[0].from;
      const Value other = r == 0 ? own : block.change(r - 1).cells[0].from;
      // A declared type is held to even where SQLite would not: what is of another type is not put elsewhere.
      const bool keeps = column.storesOffType && isOffType(column, other);
      expected[block.table].push_back(keeps ? own : other);
      change.action = Action::Edit;
      change.cells[0].to = other;
      if (!keeps && !sameValue(own, other)) edits.add(std::move(change));
    }
  }
  ASSERT_EQ("applied", applied(edits));
  const ChangeList after = removals();
  for (const ChangeBlock& block : after.blocks()) {
    for (std::size_t r = 0; r < block.rows(); ++r) {
      const Value now = block.change(r).cells[0].from;
      EXPECT_TRUE(sameValue(expected[block.table][r], now))
          << displayName(block.table) << " " << typesOf(GetParam())[std::stoul(block.table.name.substr(1))].type << ": "
          << canonicalText(expected[block.table][r]) << " became " << canonicalText(now);
    }
  }
}

// How somebody may write a value, and how the database has it.
struct Spelling {
  const char* type;
  const char* given;
  const char* kept;
};

std::vector<Spelling> spellingsOf(Engine engine) {
  if (engine == Engine::Sqlite) return {{"DATETIME", "2024-02-29T12:00:00", "2024-02-29T12:00:00"}};
  if (engine == Engine::MariaDb) {
    return {{"datetime", "2024-02-29T12:00:00", "2024-02-29 12:00:00"},
            {"datetime(3)", "2024-02-29 12:00:00.1", "2024-02-29 12:00:00.100"},
            {"datetime", "2024-02-29 12:00:00.000", "2024-02-29 12:00:00"},
            {"timestamp null", "2024-02-29", "2024-02-29 00:00:00"},
            {"time", "8:05", "08:05:00"},
            {"time(1)", "-300:15:00", "-300:15:00.0"},
            {"uuid", "A0EEBC99-9C0B-4EF8-BB6D-6BB9BD380A11", "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11"},
            {"inet6", "2001:DB8:0:0:0:0:0:1", "2001:db8::1"},
            {"set('x','y','z')", "Z,x,z", "x,z"},
            {"year", "97", "1997"},
            {"json", R"({\"b\":1})", R"({"b":1})"}};
  }
  return {{"jsonb", R"({\"b\":1,\"a\":[1.10,null]})", R"({"a": [1.10, null], "b": 1})"},
          {"json", R"({\"b\":1})", R"({"b":1})"},
          {"uuid", "A0EEBC99-9C0B-4EF8-BB6D-6BB9BD380A11", "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11"},
          {"timestamptz", "2024-02-29T14:00:00+02:00", "2024-02-29 12:00:00+00"},
          {"timestamptz", "2024-02-29 12:00:00.500Z", "2024-02-29 12:00:00.5+00"},
          {"timestamp", "2024-02-29T12:00:00", "2024-02-29 12:00:00"},
          {"time", "12:00", "12:00:00"},
          {"interval", "1 day 02:00", "P1DT2H"},
          {"int[]", "{ 1, 2 }", "{1,2}"},
          {"int4range", "[1,4]", "[1,5)"},
          {"inet", "10.0.0.1/32", "10.0.0.1"},
          {"money", "12.5", "$12.50"},
          {"point", "1, 2", "(1,2)"},
          {"bit(8)", "165", "165"},
          {"tsvector", "b a", "'a' 'b'"}};
}

TEST_P(FidelityTest, AnotherSpellingOfAValueIsTheSameValue) {
  for (const Spelling& spelling : spellingsOf(GetParam())) {
    SCOPED_TRACE(spelling.type);
    db.run("DROP TABLE IF EXISTS spelled; CREATE TABLE spelled (id integer PRIMARY KEY, v " +
           std::string(spelling.type) + "); INSERT INTO spelled VALUES (1, NULL), (2, NULL)");
    db.forget();
    std::string given = spelling.given;
    for (std::size_t at = given.find(' '); at != std::string::npos; at = given.find(' '))
      given.replace(at, 1, "\\u0020");
    const std::string change = "edit spelled id=1 v:null->\"" + given + "\"";
    EXPECT_EQ("", db.effects(change));
    EXPECT_EQ("applied", db.apply(change));
    EXPECT_THAT(db.review(change), ::testing::HasSubstr("already-so"));
    // What it was may be said in that spelling too.
    EXPECT_EQ("applied", db.apply("edit spelled id=1 v:\"" + given + "\"->null"));
    EXPECT_EQ("applied", db.apply(change));
    const Query query{db.catalogue().find({"", "spelled"}), {"v"}, {}, {}, 1};
    Progress progress;
    std::string kept;
    ASSERT_TRUE(db.session().select(
        query,
        [&](ValueTuple&& row) {
          kept = canonicalText(row[0]);
          return true;
        },
        progress));
    EXPECT_EQ(spelling.kept, kept);
  }
}

TEST_P(FidelityTest, WhatIsNoSuchValueIsRefusedAndHidesNoOther) {
  const std::string type = GetParam() == Engine::MariaDb ? "datetime" : GetParam() == Engine::Sqlite ? "DATE" : "jsonb";
  const std::string good = type == "jsonb" ? R"({\"b\":1})" : "2024-02-29";
  db.run("CREATE TABLE spelled (id integer PRIMARY KEY, v " + type +
         "); INSERT INTO spelled VALUES (1, NULL), (2, NULL), (3, NULL)");
  const std::string said =
      db.review("edit spelled id=1 v:null->\"" + good + "\"\nedit spelled id=2 v:null->\"{\\\"b\\\":\"\n" +
                "edit spelled id=3 v:null->\"" + good + "\"");
  EXPECT_THAT(said, ::testing::StartsWith("value-refused 1 spelled[2].v"));
  EXPECT_EQ(std::string::npos, said.find('\n')) << said;
}

TEST(FidelityOnPostgreSqlTest, TheSessionsOwnSettingsDoNotMatter) {
  const std::vector<Engine> engines = enginesAtHand();
  if (std::find(engines.begin(), engines.end(), Engine::PostgreSql) == engines.end()) GTEST_SKIP() << "no server";
  TestDatabase db(
      "CREATE TABLE t (id int PRIMARY KEY, at timestamptz, d date, f real, b bytea, i interval, x text);"
      "INSERT INTO t VALUES (1, '2024-02-29 12:00+00', '2024-03-04', 0.1, '\\x00ff', '1 day', 'a\\b');"
      "DO $$ BEGIN EXECUTE format('ALTER DATABASE %I SET datestyle = ''German, DMY''', current_database());"
      "EXECUTE format('ALTER DATABASE %I SET timezone = ''Asia/Tokyo''', current_database());"
      "EXECUTE format('ALTER DATABASE %I SET extra_float_digits = -5', current_database());"
      "EXECUTE format('ALTER DATABASE %I SET bytea_output = ''escape''', current_database());"
      "EXECUTE format('ALTER DATABASE %I SET intervalstyle = ''sql_standard''', current_database());"
      "EXECUTE format('ALTER DATABASE %I SET client_encoding = ''LATIN1''', current_database()); END $$",
      Engine::PostgreSql);
  EXPECT_EQ("applied", db.apply("edit t id=1 at:\"2024-02-29\\u002012:00:00+00\"->\"2024-02-29\\u002013:00:00+00\" "
                                "d:\"2024-03-04\"->\"2024-03-05\" f:0.1->0.2 b:{\"base64\":\"AP8=\"}->null "
                                "i:\"P1D\"->\"P2D\" x:\"a\\\\b\"->\"c\""));
  EXPECT_EQ("6",
            db.rows("SELECT (at = '2024-02-29 13:00+00')::int + (d = date '2024-03-05')::int + (f = 0.2::real)::int "
                    "+ (b IS NULL)::int + (i = interval '2 days')::int + (x = 'c')::int FROM t"));
}

}  // namespace
}  // namespace iterandum::test
