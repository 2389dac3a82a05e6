// Scopes held against a database: borrowed columns, orders, records named one by one, and the file of a saved scope.
#include "core/scope/scope.h"

#include "core/scope/column_path.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class ScopeTest : public EngineTest {
 protected:
  // The records of a scope, one a line, or what cannot be read of it.
  std::string show(const Scope& scope, const ConditionContext& given = {}) {
    ConditionContext context = given;
    context.catalogue = &db.catalogue();
    std::vector<ScopeProblem> problems;
    const auto read = readScope(scope, context, problems);
    if (!read) return read.error().text();
    if (!problems.empty()) return problems.front().error.text();
    Query query;
    query.table = read->table;
    query.where = read->where();
    query.order = read->order;
    for (const ColumnPath& path : read->columns) {
      if (path.isBorrowed()) {
        query.borrowed.push_back(path);
      } else {
        query.columns.push_back(path.column);
      }
    }
    std::vector<ValueTuple> rows;
    Progress progress;
    const Status status = db.session().select(
        query,
        [&](ValueTuple&& row) {
          rows.push_back(std::move(row));
          return true;
        },
        progress);
    return status ? rowsText(rows) : status.error().text();
  }
  TestDatabase db{smallRegister(GetParam()), GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(ScopeTest);

TEST_P(ScopeTest, ColumnsAreBorrowedOverSeveralSteps) {
  EXPECT_EQ("T7|lime|1\nT8|lime|1\nT9|oak|2", show({"tree", {}, {}, {"tag", "species.name", "species.species_id"}}));
  db.run("UPDATE photo SET tree_id = NULL WHERE photo_id = 2");
  EXPECT_EQ("1|T7|lime\n2|-|-", show({"photo", {}, {}, {"photo_id", "tree.tag", "tree.species.name"}}));
  EXPECT_EQ("7|2025-03-02|T7\n7|2026-03-02|T7\n9|2025-05-05|T9",
            show({"inspection", {}, {}, {"tree_id", "inspected_on", "tree.tag"}}));
}

TEST_P(ScopeTest, BorrowedColumnsDecideTheOrderThoughTheyAreNotShown) {
  EXPECT_EQ("T9\nT8\nT7", show({"tree", {}, {{"species.name", true}, {"tag", true}}, {"tag"}}));
  EXPECT_EQ("T7\nT8\nT9", show({"tree", {}, {{"species_id.name"}, {"height", true}}, {"tag"}}));
  db.run("UPDATE photo SET tree_id = NULL WHERE photo_id = 2");
  EXPECT_EQ("2\n1", show({"photo", {}, {{"tree.species.name"}}, {"photo_id"}})) << "what is not there comes first";
  EXPECT_EQ("1\n2", show({"photo", {}, {{"tree.species.name", true}}, {"photo_id"}}));
}

TEST_P(ScopeTest, BorrowedColumnsHaveFiltersOfTheirOwn) {
  EXPECT_EQ("T7\nT8", show({"tree", {{"species.name", "LIM"}}, {}, {"tag"}}));
  EXPECT_EQ("T7\nT9", show({"tree", {{"species.name", "lime or oak"}, {"", "any inspection"}}, {}, {"tag"}}));
  EXPECT_EQ("1", show({"photo", {{"tree.species.species_id", "< 2"}}, {}, {"photo_id"}}));
}

TEST_P(ScopeTest, PartsAreFoundInNumbersAndDaysToo) {
  EXPECT_EQ("T9", show({"tree", {{"", "height contains 0.2"}}, {}, {"tag"}}));
  EXPECT_EQ("T7\nT8\nT9",
            show({"tree", {{"", "tree_id contains 7 or tree_id starts 8 or tree_id ends 9"}}, {}, {"tag"}}));
  EXPECT_EQ("7|2026-03-02",
            show({"inspection", {{"", "inspected_on contains '2026-0'"}}, {}, {"tree_id", "inspected_on"}}));
}

TEST_P(ScopeTest, NumbersInTextsGoByTheirSizeWhenAsked) {
  db.run("UPDATE tree SET note = 'Plot 10b' WHERE tree_id = 7; UPDATE tree SET note = 'plot 9' WHERE tree_id = 8");
  db.run("UPDATE tree SET note = 'plot 0009c' WHERE tree_id = 9");
  EXPECT_EQ("T8\nT9\nT7", show({"tree", {}, {{"note", false, true}}, {"tag"}}));
  EXPECT_EQ("T7\nT9\nT8", show({"tree", {}, {{"note", true, true}}, {"tag"}}));
}

TEST_P(ScopeTest, WhatIsStagedCanBeAskedFor) {
  ConditionContext context;
  std::string asked;
  context.staged = [&](const Table& table, const std::string& column, KnownOf what) {
    asked += displayName(table.name) + "." + column + (what == KnownOf::Finding ? "!" : "") +
             (what == KnownOf::Applied ? "+" : "") + " ";
    auto list = std::make_shared<KeyList>();
    list->keys.resize(table.writeKeyColumns().size());
    if (table.name.name == "tree") {
      for (const int key : {7, 9, 12}) list->keys[0].push(Value::integer(key));
    } else if (table.name.name == "inspection") {
      list->keys[0].push(Value::integer(7));
      list->keys[1].push(Value::text("2026-03-02"));
    }
    return list;
  };
  EXPECT_EQ("T7\nT9", show({"tree", {{"", "record is staged"}}, {}, {"tag"}}, context));
  EXPECT_EQ("T8", show({"tree", {{"", "record is not staged"}}, {}, {"tag"}}, context));
  EXPECT_EQ("T9", show({"tree", {{"condition", "is staged and 4"}}, {}, {"tag"}}, context));
  EXPECT_EQ("T8", show({"tree", {{"note", "has no finding"}}, {}, {"tag"}}, context));
  EXPECT_EQ("7|2026-03-02", show({"inspection", {{"", "record is staged"}}, {}, {"tree_id", "inspected_on"}}, context));
  EXPECT_EQ("T7", show({"tree", {{"", "any inspection where (record is staged)"}}, {}, {"tag"}}, context));
  EXPECT_EQ("", show({"tree", {{"species.name", "is staged"}}, {}, {"tag"}}, context)) << "no species is";
  EXPECT_EQ("tree. tree. tree.condition tree.note! inspection. inspection. species.name ", asked);
  asked.clear();
  EXPECT_EQ("T8", show({"tree", {{"", "record was not just applied"}}, {}, {"tag"}}, context));
  EXPECT_EQ("tree.+ ", asked);
  EXPECT_THAT(show({"tree", {{"", "record is staged"}}, {}, {}}), HasSubstr("nothing is staged here"));
}

// Of a table, the records of one column's values that a list of keys leaves.
std::string amongThese(TestDatabase& db, const char* table, const std::vector<ValueTuple>& keys, const char* column) {
  ConditionContext context{&db.catalogue(), {}, [&](const Table& t, const std::string&, KnownOf) {
                             auto list = std::make_shared<KeyList>();
                             list->keys.resize(t.writeKeyColumns().size());
                             for (const ValueTuple& key : keys) {
                               for (std::size_t k = 0; k < key.size(); ++k) list->keys[k].push(key[k]);
                             }
                             return list;
                           }};
  Query query;
  query.table = db.catalogue().find({"", table});
  query.columns = {column};
  query.where = *parseCondition(*query.table, "record is staged", context);
  std::vector<ValueTuple> rows;
  Progress progress;
  const Status status = db.session().select(
      query,
      [&](ValueTuple&& row) {
        rows.push_back(std::move(row));
        return true;
      },
      progress);
  return status ? rowsText(rows) : status.error().text();
}

TEST_P(ScopeTest, KeysOfEveryKindNameTheirRecords) {
  db.run("CREATE TABLE place (name VARCHAR(40) NOT NULL PRIMARY KEY, n INTEGER)");
  db.run("INSERT INTO place VALUES ('O''Brien''s', 1), ('a\"b', 2), ('Äther', 3), ('', 4), ('10', 5)");
  const auto text = [](const char* s) { return ValueTuple{Value::text(s)}; };
  EXPECT_EQ("1\n2\n3\n4\n5", [&] {
    std::string rows = amongThese(
        db, "place", {text("O'Brien's"), text("a\"b"), text("Äther"), text(""), text("10"), text("nowhere")}, "n");
    std::vector<std::string> lines;
    for (std::size_t at = 0; at < rows.size(); at += 2) lines.push_back(rows.substr(at, 1));
    std::sort(lines.begin(), lines.end());
    std::string sorted;
    for (const std::string& line : lines) sorted += (sorted.empty() ? "" : "\n") + line;
    return sorted;
  }());
  EXPECT_EQ("", amongThese(db, "place", {}, "n"));
}

TEST_P(ScopeTest, TwentyThousandKeysAreNoBurden) {
  std::vector<ValueTuple> keys;
  for (int i = 9; i < 20009; ++i) keys.push_back({Value::integer(i)});
  EXPECT_EQ("T9", amongThese(db, "tree", keys, "tag"));
}

TEST_P(ScopeTest, WhatCannotBeReadIsNamed) {
  EXPECT_EQ("there is no table shrub", show({"shrub", {}, {}, {}}).substr(0, 23));
  EXPECT_THAT(show({"tree", {{"colour", "red"}}, {}, {}}), HasSubstr("'colour' is no column of tree; it has tree_id"));
  EXPECT_THAT(show({"tree", {}, {{"species.x"}}, {}}), HasSubstr("'x' is no column of species; it has species_id"));
  EXPECT_THAT(show({"tree", {}, {}, {"photo.caption"}}), HasSubstr("'photo' is no reference of tree"));
}

TEST(ScopeFileTest, ComesBackAsItWas) {
  const Scope scope{
      "\"odd table\"", {{"a.b", ">= 3"}, {"", "x = 'q\"'"}}, {{"a", true}, {"b", false, true}}, {"a", "c.d"}};
  const auto read = scopeFromJson(scopeToJson("Näme", scope));
  ASSERT_TRUE(read.has_value()) << read.error().text();
  EXPECT_EQ("Näme", read->first);
  EXPECT_EQ(scope, read->second);
}

TEST(ScopeFileTest, MistakesAreNamedByTheirPlace) {
  const auto error = [](const std::string& rest) {
    const auto read = scopeFromJson("{\"format\": \"iterandum-scope\", \"version\": 1" + rest + "}");
    return read ? "read" : read.error().text();
  };
  EXPECT_EQ("/table: the table is missing", error(""));
  EXPECT_EQ("/colour: this name is not known here; known are format, version, name, table, where, sort, columns",
            error(", \"table\": \"t\", \"colour\": 1"));
  EXPECT_EQ("/where/1/condition: a string is wanted here",
            error(", \"table\": \"t\", \"where\": [{\"condition\": \"\"}, {\"condition\": 5}]"));
  EXPECT_EQ("/sort/0/descending: true or false is wanted here",
            error(", \"table\": \"t\", \"sort\": [{\"column\": \"a\", \"descending\": \"yes\"}]"));
  EXPECT_EQ("/columns/0: the name of a column is wanted here", error(", \"table\": \"t\", \"columns\": [[]]"));
  EXPECT_FALSE(scopeFromJson("[]").has_value());
}

}  // namespace
}  // namespace iterandum::test
