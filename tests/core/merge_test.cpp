// Merging against a model: random places with all that points at them, over composite keys and themselves; merged,
// applied, compared, and taken back, on every engine.
#include "core/acts/merge_records.h"

#include <gmock/gmock.h>

#include <map>
#include <random>
#include <set>

#include "support/kept_receipt.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

// A visit is named by its place; shots hold on to a visit by both columns, which are never empty.
constexpr const char* kPlaces = R"(
  CREATE TABLE place (place_id INTEGER PRIMARY KEY, code VARCHAR(10) NOT NULL UNIQUE, name VARCHAR(20), twin_id INTEGER,
    CONSTRAINT place_twin FOREIGN KEY (twin_id) REFERENCES place (place_id));
  CREATE TABLE visit (place_id INTEGER NOT NULL, day INTEGER NOT NULL, note VARCHAR(20), PRIMARY KEY (place_id, day),
    CONSTRAINT visit_place FOREIGN KEY (place_id) REFERENCES place (place_id));
  CREATE TABLE shot (shot_id INTEGER PRIMARY KEY, place_id INTEGER NOT NULL, day INTEGER NOT NULL,
    CONSTRAINT shot_visit FOREIGN KEY (place_id, day) REFERENCES visit (place_id, day));
  CREATE TABLE way (way_id INTEGER PRIMARY KEY, from_id INTEGER NOT NULL, to_id INTEGER,
    CONSTRAINT way_from FOREIGN KEY (from_id) REFERENCES place (place_id),
    CONSTRAINT way_to FOREIGN KEY (to_id) REFERENCES place (place_id));
  CREATE TABLE bill (bill_id INTEGER PRIMARY KEY, code VARCHAR(10),
    CONSTRAINT bill_place FOREIGN KEY (code) REFERENCES place (code) ON UPDATE CASCADE);
)";

class MergeTest : public EngineTest {
 protected:
  struct World {
    std::map<int, int> twins;  // 0: none
    std::set<std::pair<int, int>> visits;
    std::map<int, std::pair<int, int>> shots;
    std::map<int, std::pair<int, int>> ways;
    std::map<int, int> bills;  // by the place whose code it is
  };

  World fill(std::mt19937& random) {
    World w;
    const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    const int places = 3 + pick(4);
    const auto text = [](int n) { return std::to_string(n); };
    for (int p = 1; p <= places; ++p) {
      db.run("INSERT INTO place VALUES (" + text(p) + ", 'c" + text(p) + "', 'p', NULL)");
      w.twins[p] = 0;
    }
    for (int p = 1; p <= places; ++p) {
      if (pick(2) == 0) w.twins[p] = 1 + pick(places);
      if (w.twins[p] != 0) db.run("UPDATE place SET twin_id = " + text(w.twins[p]) + " WHERE place_id = " + text(p));
    }
    for (int i = 0; i < 8; ++i) w.visits.emplace(1 + pick(places), 1 + pick(3));
    const std::vector<std::pair<int, int>> visits(w.visits.begin(), w.visits.end());
    for (const auto& [p, d] : visits) db.run("INSERT INTO visit VALUES (" + text(p) + ", " + text(d) + ", 'n')");
    for (int s = 1; s <= 6; ++s) {
      w.shots[s] = visits[static_cast<std::size_t>(pick(static_cast<int>(visits.size())))];
      db.run("INSERT INTO shot VALUES (" + text(s) + ", " + text(w.shots[s].first) + ", " + text(w.shots[s].second) +
             ")");
    }
    for (int i = 1; i <= 6; ++i) {
      w.ways[i] = {1 + pick(places), pick(places + 1)};
      db.run("INSERT INTO way VALUES (" + text(i) + ", " + text(w.ways[i].first) + ", " +
             (w.ways[i].second == 0 ? "NULL" : text(w.ways[i].second)) + ")");
      w.bills[i] = 1 + pick(places);
      db.run("INSERT INTO bill VALUES (" + text(i) + ", 'c" + text(w.bills[i]) + "')");
    }
    return w;
  }

  [[nodiscard]] std::string shown() const {
    return db.rows("SELECT place_id, code, twin_id FROM place ORDER BY 1") + "\n--\n" +
           db.rows("SELECT place_id, day FROM visit ORDER BY 1, 2") + "\n--\n" +
           db.rows("SELECT shot_id, place_id, day FROM shot ORDER BY 1") + "\n--\n" +
           db.rows("SELECT way_id, from_id, to_id FROM way ORDER BY 1") + "\n--\n" +
           db.rows("SELECT bill_id, code FROM bill ORDER BY 1");
  }

  // What has to be there once those that go are the others.
  static std::string modelled(const World& w, const std::map<int, int>& gone) {
    const auto of = [&](int p) { return gone.contains(p) ? gone.at(p) : p; };
    const auto text = [](int n) { return n == 0 ? std::string("-") : std::to_string(n); };
    std::string out;
    const auto line = [&](const std::string& one) { out += (out.empty() || out.ends_with("--\n") ? "" : "\n") + one; };
    for (const auto& [p, twin] : w.twins) {
      if (gone.contains(p)) continue;
      const bool nowhere = gone.contains(twin) && gone.at(twin) == p;
      line(text(p) + "|c" + text(p) + "|" + text(nowhere ? 0 : of(twin)));
    }
    out += "\n--\n";
    std::set<std::pair<int, int>> visits;
    for (const auto& [p, d] : w.visits) visits.emplace(of(p), d);
    for (const auto& [p, d] : visits) line(text(p) + "|" + text(d));
    out += "\n--\n";
    for (const auto& [s, visit] : w.shots) line(text(s) + "|" + text(of(visit.first)) + "|" + text(visit.second));
    out += "\n--\n";
    for (const auto& [i, ends] : w.ways) line(text(i) + "|" + text(of(ends.first)) + "|" + text(of(ends.second)));
    out += "\n--\n";
    for (const auto& [i, p] : w.bills) line(text(i) + "|c" + text(of(p)));
    return out;
  }

  Result<MergePlan> plan(int keep, const std::set<int>& gone, bool dropDoubles) {
    MergeWish wish;
    wish.table = db.catalogue().find({"", "place"});
    wish.keep = {Value::integer(keep)};
    for (const int p : gone) wish.drop.push_back({Value::integer(p)});
    wish.dropDoubles = dropDoubles;
    Progress progress;
    return planMerge(db.session(), db.catalogue(), wish, progress);
  }

  std::string apply(const ChangeList& changes) { return applyKeeping(db, changes, receipt_); }

  TestDatabase db{kPlaces, GetParam()};
  Receipt receipt_;
};
ITERANDUM_ON_ALL_ENGINES(MergeTest);

TEST_P(MergeTest, RandomPlacesBecomeOneAndAreTakenBack) {
  std::mt19937 random(31);
  int withDoubles = 0;
  for (int round = 0; round < (GetParam() == Engine::Sqlite ? 120 : 40); ++round) {
    for (const char* table : {"bill", "way", "shot", "visit"}) db.run(std::string("DELETE FROM ") + table);
    db.run("UPDATE place SET twin_id = NULL");
    db.run("DELETE FROM place");
    const World w = fill(random);
    const int places = static_cast<int>(w.twins.size());
    const int keep = 1 + static_cast<int>(random() % static_cast<unsigned>(places));
    std::set<int> gone;
    std::map<int, int> into;
    while (gone.empty()) {
      for (int p = 1; p <= places; ++p) {
        if (p != keep && random() % 3 == 0) gone.insert(p);
      }
    }
    for (const int p : gone) into[p] = keep;
    // Whether some visit is there twice, the model knows as well.
    std::set<std::pair<int, int>> once;
    bool twice = false;
    for (const auto& [p, d] : w.visits) twice = !once.emplace(gone.contains(p) ? keep : p, d).second || twice;
    withDoubles += twice ? 1 : 0;
    const auto strict = plan(keep, gone, false);
    ASSERT_TRUE(strict.has_value()) << strict.error().text();
    ASSERT_EQ(twice, !strict->doubles.empty());
    const auto made = plan(keep, gone, true);
    ASSERT_TRUE(made.has_value()) << made.error().text();
    const std::string before = shown();
    ASSERT_EQ("applied", apply(made->changes)) << before << "\nkeep " << keep << "\n" << writeChangeFile(made->changes);
    ASSERT_EQ(modelled(w, into), shown()) << before;
    ASSERT_EQ("applied", apply(revertReceipt(receipt_).changes));
    ASSERT_EQ(before, shown());
  }
  EXPECT_GT(withDoubles, 5);
}

// Several things at once, which point at one another.
TEST_P(MergeTest, SeveralAtOnceComeToWhatTheModelSays) {
  std::mt19937 random(77);
  int across = 0;
  for (int round = 0; round < (GetParam() == Engine::Sqlite ? 120 : 40); ++round) {
    for (const char* table : {"bill", "way", "shot", "visit"}) db.run(std::string("DELETE FROM ") + table);
    db.run("UPDATE place SET twin_id = NULL");
    db.run("DELETE FROM place");
    const World w = fill(random);
    // Each goes into one of those that stay.
    std::map<int, int> into;
    std::map<int, std::set<int>> groups;
    for (const auto& [p, twin] : w.twins) {
      if (p > 2 && random() % 4 != 0) into[p] = 1 + static_cast<int>(random() % 2);
    }
    for (const auto& [p, to] : into) groups[to].insert(p);
    for (const auto& [p, twin] : w.twins) {
      across += into.contains(p) && into.contains(twin) && into.at(p) != into.at(twin) ? 1 : 0;
    }
    std::vector<MergeWish> wishes;
    for (const auto& [keep, gone] : groups) {
      MergeWish& wish = wishes.emplace_back();
      wish.table = db.catalogue().find({"", "place"});
      wish.keep = {Value::integer(keep)};
      for (const int p : gone) wish.drop.push_back({Value::integer(p)});
      wish.dropDoubles = true;
    }
    Progress progress;
    const auto made = planMerges(db.session(), db.catalogue(), wishes, progress);
    ASSERT_TRUE(made.has_value()) << made.error().text();
    const std::string before = shown();
    ASSERT_EQ("applied", apply(made->changes)) << before << "\n" << writeChangeFile(made->changes);
    ASSERT_EQ(modelled(w, into), shown()) << before;
    ASSERT_EQ("applied", apply(revertReceipt(receipt_).changes));
    ASSERT_EQ(before, shown());
  }
  EXPECT_GT(across, 1);
}

TEST_P(MergeTest, NoRecordIsPartOfTwo) {
  db.run("INSERT INTO place VALUES (1, 'A', 'a', NULL), (2, 'B', 'b', NULL), (3, 'C', 'c', NULL)");
  const auto said = [&](const std::vector<std::vector<int>>& merges) {
    std::vector<MergeWish> wishes;
    for (const std::vector<int>& merge : merges) {
      MergeWish& wish = wishes.emplace_back();
      wish.table = db.catalogue().find({"", "place"});
      wish.keep = {Value::integer(merge[0])};
      wish.drop = {{Value::integer(merge[1])}};
    }
    Progress progress;
    const auto made = planMerges(db.session(), db.catalogue(), wishes, progress);
    return made ? std::string("merged") : made.error().message;
  };
  EXPECT_EQ("place place_id=2 is named twice", said({{1, 2}, {2, 3}}));
  EXPECT_EQ("place place_id=1 is named twice", said({{1, 2}, {3, 1}}));
  EXPECT_EQ("place place_id=3 is named twice", said({{1, 3}, {2, 3}}));
}

// A reference that somebody only stated is followed like a declared one.
TEST_P(MergeTest, StatedReferencesAreFollowed) {
  db.run("CREATE TABLE memo (memo_id INTEGER PRIMARY KEY, place_no INTEGER, text VARCHAR(10))");
  db.run("INSERT INTO place VALUES (1, 'A', 'a', NULL), (2, 'B', 'b', NULL), (3, 'C', 'c', NULL)");
  db.run("INSERT INTO memo VALUES (1, 2, 'x'), (2, 1, 'y'), (3, 3, 'z'), (4, NULL, 'n'), (5, 2, 'w')");
  db.forget();
  const Catalogue catalogue = db.catalogue().withReferences({{{"", "memo"}, "place_no", {"", "place"}, "place_id"}});
  MergeWish wish;
  wish.table = catalogue.find({"", "place"});
  wish.keep = {Value::integer(1)};
  wish.drop = {{Value::integer(2)}, {Value::integer(3)}};
  Progress progress;
  const auto made = planMerge(db.session(), catalogue, wish, progress);
  ASSERT_TRUE(made.has_value()) << made.error().text();
  EXPECT_EQ(3U, made->repointed);
  EXPECT_EQ(2U, made->removed);
  EXPECT_EQ("applied", apply(made->changes));
  EXPECT_EQ("1|1\n2|1\n3|1\n4|-\n5|1", db.rows("SELECT memo_id, place_no FROM memo ORDER BY 1"));
  EXPECT_EQ("1", db.rows("SELECT place_id FROM place"));
  db.run("DROP TABLE memo");
}

// The kept record points at a dropped one, and has to point somewhere.
TEST_P(MergeTest, APointerThatMustHaveAValueIsSaid) {
  db.run(
      "CREATE TABLE post (post_id INTEGER PRIMARY KEY, next_id INTEGER NOT NULL, CONSTRAINT post_next FOREIGN KEY "
      "(next_id) REFERENCES post (post_id))");
  db.run("INSERT INTO post VALUES (1, 1)");
  db.run("INSERT INTO post VALUES (2, 1)");
  db.run("UPDATE post SET next_id = 2 WHERE post_id = 1");
  db.forget();
  MergeWish wish;
  wish.table = db.catalogue().find({"", "post"});
  wish.keep = {Value::integer(1)};
  wish.drop = {{Value::integer(2)}};
  Progress progress;
  const auto made = planMerge(db.session(), db.catalogue(), wish, progress);
  EXPECT_THAT(made ? "merged" : made.error().message, HasSubstr("next_id must have a value"));
}

// What somebody writes between the plan and the apply is found, and nothing is written over.
TEST_P(MergeTest, WhatChangesMeanwhileStandsAgainstIt) {
  db.run("INSERT INTO place VALUES (1, 'A', 'a', NULL), (2, 'B', 'b', NULL)");
  db.run("INSERT INTO way VALUES (1, 2, NULL), (2, 2, 1)");
  const auto made = plan(1, {2}, false);
  ASSERT_TRUE(made.has_value()) << made.error().text();
  db.run("UPDATE way SET from_id = 1 WHERE way_id = 1");
  db.run("UPDATE place SET name = 'other' WHERE place_id = 2");
  EXPECT_THAT(apply(made->changes), HasSubstr("cell-changed"));
  db.run("UPDATE place SET name = 'b' WHERE place_id = 2");
  db.run("INSERT INTO way VALUES (3, 2, NULL)");
  EXPECT_THAT(apply(made->changes), HasSubstr("still-referenced"));
  EXPECT_EQ("1\n2", db.rows("SELECT place_id FROM place ORDER BY 1"));
}

TEST_P(MergeTest, ValuesAreTakenAndWhatIsOffIsRefused) {
  db.run("INSERT INTO place VALUES (1, 'A', 'Old Quay', NULL), (2, 'B', 'Old quay', 1), (3, 'C', NULL, 2)");
  db.run("INSERT INTO bill VALUES (1, 'A'), (2, 'C')");
  MergeWish wish;
  wish.table = db.catalogue().find({"", "place"});
  wish.keep = {Value::integer(1)};
  wish.drop = {{Value::integer(2)}};
  wish.take = {{"code", {Value::integer(2)}}, {"name", {Value::integer(2)}}, {"twin_id", {Value::integer(2)}}};
  Progress progress;
  const auto made = planMerge(db.session(), db.catalogue(), wish, progress);
  ASSERT_TRUE(made.has_value()) << made.error().text();
  EXPECT_EQ("applied", apply(made->changes));
  EXPECT_EQ("1|B|Old quay|1\n3|C|-|1", db.rows("SELECT place_id, code, name, twin_id FROM place ORDER BY 1"));
  EXPECT_EQ("1|B\n2|C", db.rows("SELECT bill_id, code FROM bill ORDER BY 1"));

  const auto refused = [&](const std::string& what) {
    const auto off = planMerge(db.session(), db.catalogue(), wish, progress);
    EXPECT_THAT(off ? "merged" : off.error().text(), HasSubstr(what));
  };
  refused("there is no record place place_id=2");
  wish.drop = {{Value::integer(1)}};
  refused("cannot go as well");
  wish.drop = {{Value::integer(3)}, {Value::integer(3)}};
  refused("named twice");
  wish.drop.pop_back();
  wish.take = {{"place_id", {Value::integer(3)}}};
  refused("is the key");
  wish.take = {{"name", {Value::integer(7)}}};
  refused("none of the records");
}

}  // namespace
}  // namespace iterandum::test
