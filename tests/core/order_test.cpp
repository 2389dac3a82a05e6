// The order of writes: swaps and chains of unique values, circles, self-references, restricted removals.
#include "support/test_database.h"

namespace iterandum::test {
namespace {

class OrderTest : public ::testing::Test {
 protected:
  TestDatabase db{R"sql(
    CREATE TABLE stop (id INTEGER PRIMARY KEY, seq INTEGER NOT NULL UNIQUE CHECK (seq > 0), code TEXT UNIQUE);
    INSERT INTO stop VALUES (1, 1, 'a'), (2, 2, 'b'), (3, 3, 'c');
    CREATE TABLE person (id INTEGER PRIMARY KEY, name TEXT UNIQUE, boss INTEGER REFERENCES person ON DELETE RESTRICT);
    INSERT INTO person VALUES (1, 'Ada', NULL), (2, 'Bo', 1), (3, 'Cy', 2);
    CREATE TABLE hen (id INTEGER PRIMARY KEY, egg INTEGER NOT NULL REFERENCES egg);
    CREATE TABLE egg (id INTEGER PRIMARY KEY, hen INTEGER REFERENCES hen);
  )sql"};
};

TEST_F(OrderTest, ASwapOfUniqueValuesNeedsAPassingValue) {
  EXPECT_EQ("applied", db.apply("edit stop id=1 seq:1->2\nedit stop id=2 seq:2->1"));
  EXPECT_EQ("1|2\n2|1\n3|3", db.rows("SELECT id, seq FROM stop ORDER BY id"));
}

TEST_F(OrderTest, ACircleOfThreeAndTwoKeysAtOnce) {
  EXPECT_EQ("applied", db.apply("edit stop id=1 seq:1->2 code:\"a\"->\"b\"\nedit stop id=2 seq:2->3 "
                                "code:\"b\"->\"c\"\nedit stop id=3 seq:3->1 code:\"c\"->\"a\""));
  EXPECT_EQ("1|2|b\n2|3|c\n3|1|a", db.rows("SELECT * FROM stop ORDER BY id"));
}

TEST_F(OrderTest, AChainIsWrittenFromItsEnd) {
  EXPECT_EQ("applied", db.apply("edit stop id=1 seq:1->2\nedit stop id=2 seq:2->3\nedit stop id=3 seq:3->4"));
  EXPECT_EQ("2\n3\n4", db.rows("SELECT seq FROM stop ORDER BY id"));
}

TEST_F(OrderTest, ALongShiftOfKeysWorks) {
  db.run(
      "DELETE FROM stop; WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 500) INSERT INTO "
      "stop SELECT i, i, NULL FROM n");
  std::string changes;
  for (int i = 1; i <= 500; ++i)
    changes += "edit stop id=" + std::to_string(i) + " id:" + std::to_string(i) + "->" + std::to_string(i + 1) + "\n";
  EXPECT_EQ("applied", db.apply(changes));
  EXPECT_EQ("2|501|125250", db.rows("SELECT min(id), max(id), sum(seq) FROM stop"));
}

TEST_F(OrderTest, AValueGivenUpByARemovalCanBeTakenByAnAdditionOrAnEdit) {
  EXPECT_EQ("applied",
            db.apply("add stop id=9 seq=1 code=\"z\"\nremove stop id=1 seq:1\nedit stop id=2 code:\"b\"->\"a\""));
  EXPECT_EQ("2|2|a\n3|3|c\n9|1|z", db.rows("SELECT * FROM stop ORDER BY id"));
}

TEST_F(OrderTest, ASwapThatNoPassingValueFitsIsSaid) {
  db.run(
      "CREATE TABLE side (id INTEGER PRIMARY KEY, half INTEGER NOT NULL UNIQUE CHECK (half IN (1, 2))); INSERT INTO "
      "side VALUES (1, 1), (2, 2)");
  EXPECT_THAT(db.apply("edit side id=1 half:1->2\nedit side id=2 half:2->1"), ::testing::HasSubstr("side["));
  EXPECT_EQ("1|1\n2|2", db.rows("SELECT * FROM side"));
}

TEST_F(OrderTest, SelfReferencesAreRemovedFromTheLeaves) {
  EXPECT_EQ(
      "applied",
      db.apply("remove person id=1 name:\"Ada\"\nremove person id=2 name:\"Bo\"\nremove person id=3 name:\"Cy\""));
  EXPECT_EQ("", db.rows("SELECT * FROM person"));
}

TEST_F(OrderTest, AdditionsThatPointAtEachOtherInACircle) {
  EXPECT_EQ("applied", db.apply("add hen egg={\"ref\":\"e\"} @h\nadd egg hen={\"ref\":\"h\"} @e"));
  EXPECT_EQ("1|1", db.rows("SELECT hen.id, egg.id FROM hen JOIN egg ON hen.egg = egg.id AND egg.hen = hen.id"));
}

TEST_F(OrderTest, ARecordThatPointsAtItself) {
  EXPECT_EQ("applied", db.apply("add person name=\"Di\" boss={\"ref\":\"d\"} @d"));
  EXPECT_EQ("1", db.rows("SELECT id = boss FROM person WHERE name = 'Di'"));
}

TEST_F(OrderTest, AChainOfNewRecords) {
  EXPECT_EQ("applied", db.apply("add person name=\"F\" boss={\"ref\":\"e\"}\nadd person name=\"E\" "
                                "boss={\"ref\":\"d\"} @e\nadd person name=\"D\" @d"));
  EXPECT_EQ("F|E|D", db.rows("SELECT f.name, e.name, d.name FROM person f JOIN person e ON f.boss = e.id JOIN person d "
                             "ON e.boss = d.id WHERE f.name = 'F'"));
}

TEST_F(OrderTest, RepointingHappensBeforeTheRemovalCascades) {
  db.run(
      "CREATE TABLE plot (id INTEGER PRIMARY KEY); CREATE TABLE bed (id INTEGER PRIMARY KEY, plot INTEGER REFERENCES "
      "plot ON DELETE CASCADE);"
      "INSERT INTO plot VALUES (1), (2); INSERT INTO bed VALUES (1, 1), (2, 1)");
  EXPECT_EQ("applied", db.apply("remove plot id=1\nedit bed id=1 plot:1->2"));
  EXPECT_EQ("1|2", db.rows("SELECT * FROM bed"));
}

TEST_F(OrderTest, AKeyChangeCascadesAndIsShown) {
  db.run(
      "CREATE TABLE zone (code TEXT PRIMARY KEY); CREATE TABLE lamp (id INTEGER PRIMARY KEY, zone TEXT REFERENCES zone "
      "ON UPDATE CASCADE);"
      "INSERT INTO zone VALUES ('n'); INSERT INTO lamp VALUES (1, 'n'), (2, 'n')");
  EXPECT_EQ("cascade-set 0 lamp.zone rows=2", db.effects("edit zone code=\"n\" code:\"n\"->\"north\""));
  EXPECT_EQ("applied", db.apply("edit zone code=\"n\" code:\"n\"->\"north\""));
  EXPECT_EQ("1|north\n2|north", db.rows("SELECT * FROM lamp"));
}

}  // namespace
}  // namespace iterandum::test
