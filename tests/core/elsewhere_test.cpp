// What the database writes besides, in other tables and other records: told by a rehearsal, held against what really
// becomes of it when the same change set is applied.
#include <cstdlib>
#include <set>

#include "core/apply/apply.h"
#include "support/random_world.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using Lines = std::multiset<std::string>;

std::string lineOf(const TableName& table, const std::vector<std::string>& columns, const ValueTuple& record) {
  std::map<std::string, std::string> cells;
  for (std::size_t c = 0; c < columns.size(); ++c) cells[columns[c]] = valueInWords(record[c]);
  std::string out = table.name;
  for (const auto& [column, value] : cells) {
    if (column != "rowid") out += " " + column + "=" + value;
  }
  return out;
}

Lines minus(const Lines& a, const Lines& b) {
  Lines out;
  std::set_difference(a.begin(), a.end(), b.begin(), b.end(), std::inserter(out, out.end()));
  return out;
}

std::string textOf(const Lines& lines) {
  std::string out;
  for (const std::string& line : lines) out += line + "\n";
  return out;
}

// Befores and afters.
struct Difference {
  Lines before;
  Lines after;
};

class ElsewhereTest : public EngineTest {
 protected:
  // Does `body` for each record of the table, after that is `event` ("UPDATE"); "#" in the body is NEW or OLD.
  void trigger(const std::string& table, const std::string& event, std::string body) {
    const std::string row = event == "DELETE" ? "OLD" : "NEW";
    for (std::size_t at = 0; (at = body.find('#', at)) != std::string::npos;) body.replace(at, 1, row);
    const std::string name = "does_" + std::to_string(++triggers);
    const std::string head = "CREATE TRIGGER " + name + " AFTER " + event + " ON " + table + " FOR EACH ROW ";
    if (GetParam() == Engine::PostgreSql) {
      db.run("CREATE FUNCTION f_" + name + "() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN " + body +
             "; RETURN NULL; END $$");
      db.run(head + "EXECUTE FUNCTION f_" + name + "()");
    } else {
      db.run(head + (GetParam() == Engine::Sqlite ? "BEGIN " + body + "; END" : body));
    }
    db.forget();
  }

  [[nodiscard]] Lines allRecords() {
    Lines out;
    Progress progress;
    for (const Table& table : db.catalogue().tables()) {
      if (table.kind != TableKind::Table) continue;
      Query all;
      all.table = &table;
      all.columns = table.recordColumns();
      const Status read = db.session().select(
          all,
          [&](ValueTuple&& record) {
            out.insert(lineOf(table.name, all.columns, record));
            return true;
          },
          progress);
      EXPECT_TRUE(read) << read.error().text();
    }
    return out;
  }

  static Difference toldBy(const Review& review) {
    Difference out;
    for (const WrittenElsewhere& table : review.elsewhere) {
      EXPECT_EQ("", table.untold);
      for (const WrittenElsewhere::Record& record : table.records) {
        if (!record.before.empty()) out.before.insert(lineOf(table.table, table.columns, record.before));
        if (!record.after.empty()) out.after.insert(lineOf(table.table, table.columns, record.after));
      }
    }
    return out;
  }

  static Difference saidBy(const Receipt& receipt) {
    Difference out;
    for (const ReceiptBlock& block : receipt.blocks) {
      for (std::size_t r = 0; r < block.rows(); ++r) {
        if (block.outcomes[r] != Outcome::Applied) continue;
        const auto line = [&](const std::vector<ValueColumn>& columns) {
          ValueTuple record;
          for (const ValueColumn& column : columns) record.push_back(column.at(r));
          return lineOf(block.table, block.columns, record);
        };
        if (!block.before.empty()) out.before.insert(line(block.before));
        if (!block.after.empty()) out.after.insert(line(block.after));
      }
    }
    return out;
  }

  [[nodiscard]] Result<Review> rehearsed(const ChangeList& list) {
    Progress progress;
    return reviewChanges(db.session(), db.catalogue(), list, {}, progress);
  }

  // "log: 1 added 0 changed 0 removed by does_1 on tree" for each table.
  [[nodiscard]] std::string elsewhere(const std::string& lines) {
    const auto review = rehearsed(TestDatabase::changes(lines));
    if (!review) return review.error().text();
    std::string out = review->ready ? "" : findingsText(*review);
    for (const WrittenElsewhere& e : review->elsewhere) {
      out += displayName(e.table) + ": " + std::to_string(e.added) + " added " + std::to_string(e.changed) +
             " changed " + std::to_string(e.removed) + " removed";
      for (const std::string& by : e.by) out += " by " + by;
      out += (e.untold.empty() ? "" : " (" + e.untold + ")") + std::string("\n");
    }
    return out;
  }

  TestDatabase db{{}, GetParam()};
  int triggers = 0;
};
ITERANDUM_ON_ALL_ENGINES(ElsewhereTest);

// Random schemas, random triggers on them, random change sets: what the rehearsal tells of is what applying then writes
// besides what its receipt has.
TEST_P(ElsewhereTest, WhatTheRehearsalTellsIsWhatApplyingWritesBesides) {
  const char* wish = std::getenv("ITERANDUM_RANDOM_ROUNDS");
  const unsigned schemas =
      wish != nullptr ? static_cast<unsigned>(std::atoi(wish)) / 8 : (GetParam() == Engine::Sqlite ? 25U : 4U);
  unsigned told = 0;
  unsigned judged = 0;
  for (unsigned seed = 1; seed <= schemas && !HasFailure(); ++seed) {
    SCOPED_TRACE("seed " + std::to_string(seed));
    RandomWorld random(seed, GetParam());
    std::mt19937 pick(seed);
    const World world = random.world();
    db.empty();
    db.run(sqlOf(world, GetParam()));
    db.run("CREATE TABLE noted (what VARCHAR(20), about INTEGER)");
    db.run("CREATE TABLE counted (what VARCHAR(20) PRIMARY KEY, n INTEGER)");
    db.run("CREATE TABLE waiting (waiting_id INTEGER PRIMARY KEY, about INTEGER)");
    for (int i = 0; i < 12; ++i) {
      db.run("INSERT INTO waiting VALUES (" + std::to_string(i) + ", " + std::to_string(i) + ")");
    }
    for (std::size_t t = 0; t < world.tables.size(); ++t) {
      const std::string& name = world.tables[t].name;
      db.run("INSERT INTO counted VALUES ('" + name + "', 0)");
      for (const char* event : {"UPDATE", "INSERT", "DELETE"}) {
        switch (pick() % 6) {
          case 0:
            trigger(name, event, "INSERT INTO noted VALUES ('" + name + "', #.id)");
            break;
          case 1:
            trigger(name, event, "UPDATE counted SET n = n + 1 WHERE what = '" + name + "'");
            break;
          case 2:
            // There, only the number of records is known that are not there any more.
            if (GetParam() == Engine::PostgreSql) break;
            trigger(name, event, "DELETE FROM waiting WHERE about = #.id");
            break;
          case 3:  // other records of a later table: no circles
            if (t + 1 < world.tables.size()) {
              trigger(name, event, "UPDATE " + world.tables[t + 1].name + " SET v = 77 WHERE id <= 2");
            }
            break;
          default:
            break;
        }
      }
    }
    for (int round = 0; round < 8 && !HasFailure(); ++round) {
      const World now = worldIn(db, world);
      const std::string lines = linesOf(now, random.changes(now));
      SCOPED_TRACE(lines);
      const ChangeList list = TestDatabase::changes(lines);
      const Lines before = allRecords();
      const auto review = rehearsed(list);
      ASSERT_TRUE(review) << review.error().text();
      ASSERT_EQ(before, allRecords()) << "a review writes nothing";
      if (!review->ready) continue;
      Progress progress;
      const auto applied = applyChanges(db.session(), db.catalogue(), list, {}, progress);
      ASSERT_TRUE(applied && applied->receipt) << (applied ? findingsText(applied->review) : applied.error().text());
      const Lines after = allRecords();
      const Difference own = saidBy(*applied->receipt);
      const Difference tells = toldBy(*review);
      ASSERT_EQ(textOf(minus(minus(before, after), own.before)), textOf(tells.before));
      ASSERT_EQ(textOf(minus(minus(after, before), own.after)), textOf(tells.after));
      ++judged;
      told += tells.before.empty() && tells.after.empty() ? 0 : 1;
    }
  }
  std::cout << told << " of " << judged << " wrote something besides\n";
  EXPECT_GT(told, judged / 4);
}

TEST_P(ElsewhereTest, CascadesAndOwnRecordsAreNoNews) {
  db.run(
      "CREATE TABLE tree (tree_id INTEGER PRIMARY KEY, girth INTEGER, seen INTEGER);"
      "CREATE TABLE photo (photo_id INTEGER PRIMARY KEY, tree_id INTEGER, FOREIGN KEY (tree_id) REFERENCES tree "
      "(tree_id) ON DELETE CASCADE);"
      "INSERT INTO tree VALUES (1, 10, 0); INSERT INTO tree VALUES (2, 20, 0); INSERT INTO photo VALUES (5, 1)");
  db.forget();
  EXPECT_EQ("", elsewhere("remove tree tree_id=1\nedit tree tree_id=2 girth:20->21\nadd tree tree_id=3 girth=1"));
  db.run("CREATE TABLE log (log_id INTEGER PRIMARY KEY, girth INTEGER)");
  db.run("INSERT INTO log VALUES (1, NULL)");
  trigger("tree", "UPDATE", "UPDATE log SET girth = #.girth WHERE log_id = 1");
  EXPECT_EQ("log: 0 added 1 changed 0 removed by does_1 on tree\n",
            elsewhere("remove tree tree_id=1\nedit tree tree_id=2 girth:20->21\nadd tree tree_id=3 girth=1"));
  // Of a record that the change set names, but has nothing to write to.
  EXPECT_EQ("log: 0 added 1 changed 0 removed by does_1 on tree\n",
            elsewhere("edit tree tree_id=2 girth:20->21\nedit log log_id=1 girth:null->null"));
  // On which table a trigger is says nothing of what it writes.
  trigger("log", "UPDATE", "DELETE FROM photo WHERE photo_id = 77");
  EXPECT_EQ("log: 0 added 1 changed 0 removed by does_1 on tree\n", elsewhere("edit tree tree_id=2 girth:20->21"));
  // The same value again is no change.
  db.run("UPDATE log SET girth = 21");
  EXPECT_EQ("", elsewhere("edit tree tree_id=2 girth:20->21"));
}

TEST_P(ElsewhereTest, ManyRecordsAreCountedAndTheFirstOnesShown) {
  db.run("CREATE TABLE tree (tree_id INTEGER PRIMARY KEY, girth INTEGER)");
  db.run("CREATE TABLE log (log_id INTEGER PRIMARY KEY, n INTEGER)");
  db.run("INSERT INTO tree VALUES (1, 10)");
  for (int i = 0; i < 5; ++i) {
    db.run(
        "INSERT INTO log SELECT " + std::to_string(i * 100) +
        " + a.n * 10 + b.n, 0 FROM (SELECT 0 AS n UNION SELECT "
        "1 UNION SELECT 2 UNION SELECT 3 UNION SELECT 4 UNION SELECT 5 UNION SELECT 6 UNION SELECT 7 UNION SELECT 8 "
        "UNION SELECT 9) a, (SELECT 0 AS n UNION SELECT 1 UNION SELECT 2 UNION SELECT 3 UNION SELECT 4 UNION SELECT 5 "
        "UNION SELECT 6 UNION SELECT 7 UNION SELECT 8 UNION SELECT 9) b");
  }
  trigger("tree", "UPDATE", "UPDATE log SET n = #.girth");
  const auto review = rehearsed(TestDatabase::changes("edit tree tree_id=1 girth:10->11"));
  ASSERT_TRUE(review) << review.error().text();
  ASSERT_EQ(1U, review->elsewhere.size());
  EXPECT_EQ(500U, review->elsewhere[0].changed);
  EXPECT_EQ(200U, review->elsewhere[0].records.size());
  EXPECT_NE(std::string::npos,
            reviewText(*review).find("> elsewhere: 500 records of log changed, as it seems by does_1 "
                                     "on tree\n"));
}

TEST_P(ElsewhereTest, WhatCannotBeToldIsSaid) {
  if (GetParam() == Engine::Sqlite) GTEST_SKIP() << "all is told there";
  db.run("CREATE TABLE tree (tree_id INTEGER PRIMARY KEY, girth INTEGER)");
  db.run("CREATE TABLE log (log_id INTEGER PRIMARY KEY, n INTEGER)");
  db.run("INSERT INTO tree VALUES (1, 10)");
  if (GetParam() == Engine::PostgreSql) {
    // What is removed elsewhere leaves no record behind to be found by.
    db.run("INSERT INTO log VALUES (1, 1), (2, 2), (3, 3)");
    trigger("tree", "UPDATE", "DELETE FROM log WHERE n > 1");
    EXPECT_EQ("log: 0 added 0 changed 2 removed by does_1 on tree\n", elsewhere("edit tree tree_id=1 girth:10->11"));
    return;
  }
  db.run("INSERT INTO log SELECT seq, 0 FROM seq_1_to_20001");
  trigger("tree", "UPDATE", "UPDATE log SET n = 1 WHERE log_id = 1");
  EXPECT_EQ(
      "log: 0 added 0 changed 0 removed by does_1 on tree (this engine does not tell what its triggers write, and the "
      "table is too large to be read with and without it)\n",
      elsewhere("edit tree tree_id=1 girth:10->11"));
}

TEST_P(ElsewhereTest, TablesOfEveryKind) {
  if (GetParam() == Engine::MariaDb) GTEST_SKIP() << "tables are read whole there";
  db.run("CREATE TABLE tree (tree_id INTEGER PRIMARY KEY, girth INTEGER); INSERT INTO tree VALUES (1, 10)");
  if (GetParam() == Engine::Sqlite) {
    db.run(
        "CREATE TABLE counted (kind TEXT, year INTEGER, twice INTEGER AS (n * 2) VIRTUAL, n INTEGER, PRIMARY KEY "
        "(year, "
        "kind)) WITHOUT ROWID; INSERT INTO counted (kind, year, n) VALUES ('girth', 2025, 1), ('girth', 2026, 1)");
    trigger("tree", "UPDATE", "UPDATE counted SET n = n + 1 WHERE year = 2026");
    EXPECT_EQ("counted: 0 added 1 changed 0 removed by does_1 on tree\n",
              elsewhere("edit tree tree_id=1 girth:10->11"));
    // A row id that a column of this name hides.
    db.run("CREATE TABLE odd (rowid TEXT, _rowid_ TEXT, oid TEXT)");
    trigger("tree", "INSERT", "INSERT INTO odd VALUES ('a', 'b', 'c')");
    EXPECT_EQ("odd: 0 added 0 changed 0 removed by does_2 on tree (its records have no names)\n",
              elsewhere("add tree tree_id=2 girth=1"));
    return;
  }
  db.run(
      "CREATE SCHEMA audit; CREATE TABLE audit.log (at integer, what text) PARTITION BY RANGE (at);"
      "CREATE TABLE audit.log_low PARTITION OF audit.log FOR VALUES FROM (0) TO (100);"
      "CREATE TABLE audit.log_high PARTITION OF audit.log FOR VALUES FROM (100) TO (1000)");
  trigger("tree", "UPDATE", "INSERT INTO audit.log VALUES (#.girth, 'girth')");
  EXPECT_EQ("audit.log: 1 added 0 changed 0 removed by does_1 on tree\n",
            elsewhere("edit tree tree_id=1 girth:10->11"));
  // What was tried, refused and undone left nothing.
  db.run("INSERT INTO tree VALUES (2, 20); ALTER TABLE tree ADD CHECK (girth < 500)");
  db.forget();
  const auto review =
      rehearsed(TestDatabase::changes("edit tree tree_id=1 girth:10->900\nedit tree tree_id=2 girth:20->900"));
  ASSERT_TRUE(review);
  EXPECT_FALSE(review->ready);
  EXPECT_TRUE(review->elsewhere.empty());
}

}  // namespace
}  // namespace iterandum::test
