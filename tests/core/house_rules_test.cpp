// House rules over change sets: random ones against what two readings of the whole database tell, one before and one
// after; and what lies at the edges: triggers, cascades, keys that change, records that are new, files that are off.
#include "core/rules/house_rule.h"

#include <gmock/gmock.h>

#include <map>
#include <random>
#include <set>
#include <sstream>

#include "core/rules/rule_check.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

constexpr const char* kWorld = R"(
  CREATE TABLE species (species_id INTEGER NOT NULL PRIMARY KEY, kind INTEGER);
  CREATE TABLE tree (tree_id INTEGER NOT NULL PRIMARY KEY, species_id INTEGER, grade INTEGER, girth INTEGER,
    CONSTRAINT tree_species FOREIGN KEY (species_id) REFERENCES species (species_id) ON UPDATE CASCADE);
  CREATE TABLE look (tree_id INTEGER NOT NULL, day INTEGER NOT NULL, result INTEGER, PRIMARY KEY (tree_id, day),
    CONSTRAINT look_tree FOREIGN KEY (tree_id) REFERENCES tree (tree_id) ON DELETE CASCADE ON UPDATE CASCADE);
)";

// A rule; by hand: the records that break it, and what it reads of each of them, as lines that begin with the key.
struct Told {
  const char* name;
  const char* table;
  const char* holds;
  const char* broken;
  const char* reads;
};
constexpr Told kTold[] = {
    {"own", "tree", "girth >= 3 or grade has no value",
     "SELECT tree_id FROM tree WHERE (girth IS NULL OR girth < 3) AND grade IS NOT NULL",
     "SELECT tree_id, girth, grade FROM tree"},
    {"there", "tree", "not species.kind = 3",
     "SELECT tree_id FROM tree t JOIN species s ON s.species_id = t.species_id WHERE s.kind = 3",
     "SELECT tree_id, s.kind FROM tree t LEFT JOIN species s ON s.species_id = t.species_id"},
    {"none", "tree", "no look where (result = 5)", "SELECT DISTINCT tree_id FROM look WHERE result = 5",
     "SELECT tree_id, day FROM look WHERE result = 5 ORDER BY tree_id, day"},
    {"few", "tree", "count of look <= 2", "SELECT tree_id FROM look GROUP BY tree_id HAVING count(*) > 2",
     "SELECT tree_id, day FROM look ORDER BY tree_id, day"},
    {"both", "tree", "grade >= 2 or any look where (result >= 4)",
     "SELECT tree_id FROM tree t WHERE (grade IS NULL OR grade < 2) AND NOT EXISTS (SELECT * FROM look l WHERE "
     "l.tree_id = t.tree_id AND l.result >= 4)",
     "SELECT t.tree_id, grade, day FROM tree t LEFT JOIN look l ON l.tree_id = t.tree_id AND result >= 4 ORDER BY "
     "t.tree_id, day"},
    {"above", "species", "no tree where (grade = 1)",
     "SELECT DISTINCT species_id FROM tree WHERE grade = 1 AND species_id IS NOT NULL",
     "SELECT species_id, tree_id FROM tree WHERE grade = 1 AND species_id IS NOT NULL ORDER BY species_id, tree_id"},
    {"far", "look", "not tree.species.kind = 2",
     "SELECT l.tree_id, day FROM look l JOIN tree t ON t.tree_id = l.tree_id JOIN species s ON s.species_id = "
     "t.species_id WHERE s.kind = 2",
     "SELECT l.tree_id, day, s.kind FROM look l JOIN tree t ON t.tree_id = l.tree_id LEFT JOIN species s ON "
     "s.species_id = t.species_id"},
};

class HouseRulesTest : public EngineTest {
 protected:
  using Lines = std::map<std::string, std::string>;  // by key
  struct Seen {
    std::set<std::string> broken;
    Lines reads;
  };

  [[nodiscard]] Seen see(const Told& told) const {
    const bool twoKeys = std::string_view(told.table) == "look";
    Seen out;
    const auto each = [&](const std::string& sql, const auto& take) {
      std::istringstream lines(db.rows(sql));
      for (std::string line; std::getline(lines, line);) {
        auto bar = line.find('|');
        if (twoKeys && bar != std::string::npos) bar = line.find('|', bar + 1);
        take(line.substr(0, bar), bar == std::string::npos ? "" : line.substr(bar));
      }
    };
    each(told.broken, [&](const std::string& key, const std::string&) { out.broken.insert(key); });
    each(told.reads, [&](const std::string& key, const std::string& rest) { out.reads[key] += rest; });
    return out;
  }

  static HouseRule rule(const std::string& table, const std::string& holds, bool stops = true) {
    return {"r", table, stops, holds, {}};
  }
  // "block 3: tree 7" and "note …", by line; of a rehearsal unless it is said otherwise.
  std::string judged(const std::vector<HouseRule>& rules, const std::string& lines, bool rehearse = true) {
    auto read = readRules(rules, contextNow(db.catalogue()));
    if (!read) return read.error().text();
    ReviewOptions options;
    options.rehearse = rehearse;
    options.withScript = false;
    options.rules = &*read;
    Progress progress;
    auto review = reviewChanges(db.session(), db.catalogue(), TestDatabase::changes(lines), options, progress);
    if (!review) return review.error().text();
    std::set<std::string> out;
    for (const Finding& f : review->findings) {
      if (f.kind == FindingKind::Unguarded || f.kind == FindingKind::AlreadySo) continue;
      out.insert(std::string(f.blocks ? "block " : "note ") + std::to_string(f.change) + ": " +
                 (f.kind == FindingKind::HouseRule ? f.rule : findingName(f.kind)) + " " +
                 recordInWords(f.table, f.key));
    }
    std::string text;
    for (const std::string& line : out) text += (text.empty() ? "" : "\n") + line;
    return text.empty() && review->ready ? "ready" : text;
  }

  TestDatabase db{kWorld, GetParam()};
};
ITERANDUM_ON_ALL_ENGINES(HouseRulesTest);

// What a random change set touches, for the oracle: records by table and key.
struct RandomChanges {
  std::string lines;
  std::set<std::string> touched;  // "tree 7"
  std::set<std::string> gone;
};

RandomChanges randomChanges(std::mt19937& random, const std::set<std::pair<int, int>>& looks) {
  RandomChanges out;
  const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
  const auto text = [](int n) { return std::to_string(n); };
  std::set<int> gone;
  for (int t = 1; t <= 8; ++t) {
    if (pick(9) == 0) {
      out.lines += "remove tree tree_id=" + text(t) + "\n";
      gone.insert(t);
    } else if (pick(3) == 0) {
      const char* column[] = {"species_id", "grade", "girth"};
      const int c = pick(3);
      out.lines += "edit tree tree_id=" + text(t) + " " + column[c] + "->" +
                   (pick(5) == 0 ? "null" : text(c == 0 ? 1 + pick(3) : pick(5))) + "\n";
      out.touched.insert("tree " + text(t));
    }
  }
  for (int s = 1; s <= 3; ++s) {
    if (pick(4) != 0) continue;
    out.lines += "edit species species_id=" + text(s) + " kind->" + text(1 + pick(3)) + "\n";
    out.touched.insert("species " + text(s));
  }
  for (const auto& [t, day] : looks) {
    if (pick(3) != 0 || gone.contains(t)) continue;
    const std::string key = "tree_id=" + text(t) + " day=" + text(day);
    if (pick(3) == 0) {
      out.lines += "remove look " + key + "\n";
    } else {
      out.lines += "edit look " + key + " result->" + text(1 + pick(5)) + "\n";
      out.touched.insert("look " + text(t) + "|" + text(day));
    }
  }
  for (int n = pick(3); n > 0; --n) {
    const int t = pick(2) == 0 ? 20 + n : 1 + pick(8);
    if (t > 20) {
      out.lines +=
          "add tree tree_id=" + text(t) + " species_id=" + text(1 + pick(3)) + " grade=" + text(pick(5)) + "\n";
      out.touched.insert("tree " + text(t));
    }
    if (gone.contains(t)) continue;
    out.lines += "add look tree_id=" + text(t) + " day=" + text(50 + n) + " result=" + text(1 + pick(5)) + "\n";
    out.touched.insert("look " + text(t) + "|" + text(50 + n));
  }
  return out;
}

TEST_P(HouseRulesTest, RandomChangeSetsAreJudgedAsTwoReadingsTell) {
  std::mt19937 random(20251127);
  const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
  const auto text = [](int n) { return std::to_string(n); };
  const int rounds = GetParam() == Engine::Sqlite ? 150 : 25;
  int blocks = 0;
  int notes = 0;
  for (int round = 0; round < rounds; ++round) {
    for (const char* table : {"look", "tree", "species"}) db.run(std::string("DELETE FROM ") + table);
    for (int s = 1; s <= 3; ++s) db.run("INSERT INTO species VALUES (" + text(s) + ", " + text(1 + pick(3)) + ")");
    std::set<std::pair<int, int>> looks;
    for (int t = 1; t <= 8; ++t) {
      db.run("INSERT INTO tree VALUES (" + text(t) + ", " + text(1 + pick(3)) + ", " +
             (pick(5) == 0 ? "NULL" : text(pick(5))) + ", " + text(pick(6)) + ")");
      for (int l = pick(4); l > 0; --l) looks.emplace(t, l);
    }
    for (const auto& [t, day] : looks)
      db.run("INSERT INTO look VALUES (" + text(t) + ", " + text(day) + ", " + text(1 + pick(5)) + ")");
    const RandomChanges changes = randomChanges(random, looks);
    if (changes.lines.empty()) continue;
    SCOPED_TRACE(changes.lines);
    std::vector<std::string> said;
    std::vector<Seen> before;
    for (const Told& told : kTold) {
      said.push_back(judged({rule(told.table, told.holds)}, changes.lines));
      before.push_back(see(told));
    }
    ASSERT_EQ("applied", db.apply(changes.lines).substr(0, 7));
    for (std::size_t i = 0; i < std::size(kTold); ++i) {
      const Told& told = kTold[i];
      Seen after = see(told);
      std::set<std::string> wanted;
      for (const std::string& key : after.broken) {
        const bool same = before[i].broken.contains(key) && before[i].reads[key] == after.reads[key];
        const bool inFile = changes.touched.contains(std::string(told.table) + " " + key);
        if (same && !inFile) continue;
        std::string words = key;
        if (const auto bar = words.find('|'); bar != std::string::npos) words = "(" + words.replace(bar, 1, ", ") + ")";
        wanted.insert((same ? "note " : "block ") + std::string(told.table) + " " + words);
        ++(same ? notes : blocks);
      }
      std::set<std::string> found;
      std::istringstream lines(said[i]);
      for (std::string line; std::getline(lines, line);) {
        if (line == "ready") continue;
        const auto space = line.find(' ');
        std::string record = line.substr(line.find(": r ") + 4);
        found.insert(line.substr(0, space + 1) + record);
      }
      // A new record has no key yet.
      std::set<std::string> wantedAsSaid;
      for (const std::string& w : wanted) {
        const bool isNew = w.find("tree 2") != std::string::npos && w.size() > std::string("block tree 2").size();
        const bool newLook = w.find(", 5") != std::string::npos;
        wantedAsSaid.insert(isNew || newLook ? w.substr(0, w.find(' ')) + " a new record of " + told.table : w);
      }
      EXPECT_EQ(wantedAsSaid, found) << told.name;
    }
    if (HasFailure()) return;
  }
  EXPECT_GT(blocks, rounds);
  EXPECT_GT(notes, rounds / 5);
}

TEST_P(HouseRulesTest, WhatARecordHeldBeforeIsKnown) {
  db.run("INSERT INTO species VALUES (1, 1); INSERT INTO species VALUES (2, 2)");
  db.run("INSERT INTO tree VALUES (7, 1, 2, 50); INSERT INTO tree VALUES (8, 1, NULL, 50)");
  const HouseRule worse = rule("tree", "grade >= [before grade] or [before grade] no value");
  EXPECT_EQ("block 0: r tree 7", judged({worse}, "edit tree tree_id=7 grade:2->1"));
  EXPECT_EQ("ready", judged({worse}, "edit tree tree_id=7 grade:2->3"));
  EXPECT_EQ("ready", judged({worse}, "edit tree tree_id=8 grade:null->1\nadd tree tree_id=9 grade=1"));
  EXPECT_EQ("block 0: r tree 7", judged({worse}, "edit tree tree_id=7 grade:2->1", false));
  // Under another key it is the same record still.
  EXPECT_EQ("block 0: r tree 7", judged({worse}, "edit tree tree_id=7 tree_id:7->70 grade:2->1"));
  EXPECT_EQ("ready", judged({worse}, "edit tree tree_id=7 tree_id:7->70 grade:2->4"));
  // Named from the rule's own record, or from the one that the column is of.
  for (const char* holds :
       {"species.kind = [before species.kind] or [before species.kind] no value", "species.kind = [before kind]"}) {
    EXPECT_EQ("block 0: r tree 7", judged({rule("tree", holds)}, "edit tree tree_id=7 species_id:1->2")) << holds;
    EXPECT_EQ("ready", judged({rule("tree", holds)}, "edit tree tree_id=7 girth:50->51")) << holds;
  }
}

TEST_P(HouseRulesTest, RecordsOutsideTheFileAreFindingsOfTheChangeThatDidIt) {
  db.run("INSERT INTO species VALUES (1, 1); INSERT INTO species VALUES (2, 2)");
  db.run(
      "INSERT INTO tree VALUES (7, 1, 2, 50); INSERT INTO tree VALUES (8, 1, 3, 50); INSERT INTO look VALUES (8, 1, "
      "5)");
  EXPECT_EQ("block 1: r tree 7\nblock 1: r tree 8", judged({rule("tree", "species.kind is 1 or 2")},
                                                           "edit species species_id=2 kind:2->1\n"
                                                           "edit species species_id=1 kind:1->4"));
  EXPECT_EQ("block 0: r tree 7",
            judged({rule("tree", "no look where (result = 5)")}, "add look tree_id=7 day=3 result=5"));
  // One that is moved here.
  EXPECT_EQ("block 0: r tree 7", judged({rule("tree", "count of look < 1")}, "edit look tree_id=8 day=1 tree_id:8->7"));
  // A record that the file makes, and what points at it.
  EXPECT_EQ("block 0: r a new record of tree",
            judged({rule("tree", "no look")}, "add tree tree_id=9\nadd look tree_id=9 day=1"));
  // What a removal takes along counts no more.
  EXPECT_EQ("block 0: r species 1", judged({rule("species", "any tree where (grade = 3)")}, "remove tree tree_id=8"));
  EXPECT_EQ("note 0: r tree 8", judged({rule("tree", "no look")}, "edit tree tree_id=8 girth:50->51"));
  EXPECT_EQ("note 0: r tree 8", judged({rule("tree", "grade = 1", false)}, "edit tree tree_id=8 grade:3->4"));
}

TEST_P(HouseRulesTest, TwoRulesAndAnotherFindingAreAllTold) {
  db.run("INSERT INTO tree VALUES (7, NULL, 2, 50); INSERT INTO tree VALUES (8, NULL, 2, 50)");
  std::vector<HouseRule> rules{{"a", "tree", true, "girth > 10", {}}, {"b", "tree", true, "grade <= [girth]", {}}};
  EXPECT_EQ("block 0: a tree 7\nblock 0: b tree 7\nblock 1: a tree 8\nblock 1: cell-changed tree 8",
            judged(rules, "edit tree tree_id=7 girth:50->1\nedit tree tree_id=8 girth:51->9"));
  EXPECT_EQ("block 0: a tree 7\nblock 0: b tree 7\nblock 1: a tree 8\nblock 1: cell-changed tree 8",
            judged(rules, "edit tree tree_id=7 girth:50->1\nedit tree tree_id=8 girth:51->9", false));
}

TEST_P(HouseRulesTest, ApplyHoldsThem) {
  db.run("INSERT INTO tree VALUES (7, NULL, 2, 50)");
  const std::string was = db.dump();
  const auto rules = readRules({rule("tree", "girth > 10")}, contextNow(db.catalogue()));
  ASSERT_TRUE(rules) << rules.error().text();
  ApplyOptions options;
  options.rules = &*rules;
  for (const OnConflict how : {OnConflict::Stop, OnConflict::Mine, OnConflict::Theirs}) {
    options.onConflict = how;
    Progress progress;
    const auto refused = applyChanges(db.session(), db.catalogue(),
                                      TestDatabase::changes("edit tree tree_id=7 girth:50->1"), options, progress);
    ASSERT_TRUE(refused) << refused.error().text();
    EXPECT_FALSE(refused->receipt);
    EXPECT_EQ(was, db.dump());
  }
  Progress progress;
  const auto done = applyChanges(db.session(), db.catalogue(),
                                 TestDatabase::changes("edit tree tree_id=7 girth:50->11"), options, progress);
  ASSERT_TRUE(done) << done.error().text();
  EXPECT_TRUE(done->receipt);
}

TEST_P(HouseRulesTest, WhatATriggerDoesElsewhereCounts) {
  db.run(
      "INSERT INTO tree VALUES (7, NULL, 2, 50); INSERT INTO tree VALUES (8, NULL, 2, 50); INSERT INTO species VALUES "
      "(1, 1)");
  const std::string body = "UPDATE tree SET girth = 1 WHERE tree_id = 8";
  if (GetParam() == Engine::PostgreSql) {
    db.run("CREATE FUNCTION shrink() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN " + body + "; RETURN NULL; END $$");
    db.run("CREATE TRIGGER shrinks AFTER UPDATE ON species FOR EACH ROW EXECUTE FUNCTION shrink()");
  } else {
    db.run("CREATE TRIGGER shrinks AFTER UPDATE ON species FOR EACH ROW " +
           std::string(GetParam() == Engine::Sqlite ? "BEGIN " + body + "; END" : body));
  }
  db.forget();
  EXPECT_EQ("block 1: r tree 8", judged({rule("tree", "girth > 10")},
                                        "edit tree tree_id=7 grade:2->3\nedit species species_id=1 kind:1->2"));
}

// A table that points at itself, named by two columns, with keys that change places and records that lose what they
// point at.
TEST_P(HouseRulesTest, RecordsThatPointAtTheirOwnTable) {
  db.run(
      "CREATE TABLE branch (tree INTEGER NOT NULL, no INTEGER NOT NULL, up_no INTEGER, size INTEGER, PRIMARY KEY "
      "(tree, no), "
      "CONSTRAINT branch_up FOREIGN KEY (tree, up_no) REFERENCES branch (tree, no))");
  db.forget();
  db.run("INSERT INTO branch VALUES (1, 1, NULL, 50)");
  db.run("INSERT INTO branch VALUES (1, 2, 1, 30)");
  db.run("INSERT INTO branch VALUES (1, 3, 2, 10)");
  const HouseRule thinner = rule("branch", "up_no no value or branch_up.size > 20");
  EXPECT_EQ("ready", judged({thinner}, "edit branch tree=1 no=2 size:30->25"));
  EXPECT_EQ("block 0: r branch (1, 3)", judged({thinner}, "edit branch tree=1 no=2 size:30->15"));
  EXPECT_EQ("block 0: r branch (1, 2)", judged({thinner}, "edit branch tree=1 no=1 size:50->15"));
  // The one that it points at is another one then.
  EXPECT_EQ("block 0: r a new record of branch", judged({thinner}, "add branch tree=1 no=4 up_no=3 size=1"));
  EXPECT_EQ("ready", judged({thinner}, "add branch tree=1 no=4 up_no=2 size=1"));
  EXPECT_EQ("block 1: r branch (1, 3)",
            judged({thinner}, "add branch tree=1 no=4 size=5\nedit branch tree=1 no=3 up_no:2->4"));
  const HouseRule ends = rule("branch", "size > 20 or no branch");
  EXPECT_EQ("block 0: r branch (1, 3)", judged({ends}, "add branch tree=1 no=4 up_no=3 size=1")
                                            .substr(0, std::string("block 0: r branch (1, 3)").size()));
}

TEST_P(HouseRulesTest, KeysThatChangePlacesKeepTheirOwnBefore) {
  db.run("INSERT INTO species VALUES (1, 1)");
  db.run("INSERT INTO species VALUES (2, 5)");
  const HouseRule grows = rule("species", "kind >= [before kind]");
  // 1 becomes 2 and 2 becomes 1: each is held against what it was itself.
  EXPECT_EQ("ready",
            judged({grows}, "edit species species_id=1 species_id:1->2\nedit species species_id=2 species_id:2->1"));
  EXPECT_EQ("block 1: r species 2", judged({grows},
                                           "edit species species_id=1 species_id:1->2 kind:1->6\n"
                                           "edit species species_id=2 species_id:2->1 kind:5->4"));
  // A key that is given up and taken by a new record: the new one held nothing before.
  const std::string replaced = "remove species species_id=2\nadd species species_id=2 kind=1";
  EXPECT_EQ("block 1: r a new record of species", judged({grows}, replaced));
  EXPECT_EQ("ready", judged({rule("species", "kind >= [before kind] or [before kind] no value")}, replaced));
  db.run("INSERT INTO tree VALUES (7, 2, 3, 50)");
  // The reference follows its key: nothing that the rule reads is another one.
  EXPECT_EQ("ready",
            judged({rule("tree", "species.kind = [before kind]", true)}, "edit species species_id=1 species_id:1->9"));
}

TEST_P(HouseRulesTest, TheWholeTableIsChecked) {
  for (int t = 1; t <= 30; ++t) {
    db.run("INSERT INTO tree VALUES (" + std::to_string(t) + ", NULL, 2, " + std::to_string(t % 3 == 0 ? 5 : 50) + ")");
  }
  const auto rules = readRules({rule("tree", "girth > 10 or grade < [before grade]")}, contextNow(db.catalogue()));
  ASSERT_TRUE(rules) << rules.error().text();
  Progress progress;
  const auto broken = recordsBreaking(db.session(), rules->front(), 4, progress);
  ASSERT_TRUE(broken) << broken.error().text();
  EXPECT_EQ(10U, broken->rows);
  ASSERT_EQ(4U, broken->keys.size());
  EXPECT_EQ("3, 6", tupleInWords({broken->keys[0][0], broken->keys[1][0]}));
}

TEST_P(HouseRulesTest, WhatCannotBeReadIsNamed) {
  EXPECT_THAT(judged({rule("tre", "girth > 1")}, ""),
              HasSubstr("house rule 'r': this database has no table tre; the closest name is tree"));
  EXPECT_THAT(judged({rule("tree", "girt > 1")}, ""),
              HasSubstr("house rule 'r', holds, position 1: 'girt' is no column of tree"));
  EXPECT_THAT(judged({rule("tree", "no look where (result > [before result])")}, ""),
              HasSubstr("known of the record that the rule is about only"));
  const auto condition =
      parseCondition(*db.catalogue().find({"", "tree"}), "[before girth] > 1", contextNow(db.catalogue()));
  ASSERT_FALSE(condition);
  EXPECT_THAT(condition.error().message, HasSubstr("known to house rules only"));
}

TEST(HouseRuleFileTest, ReadsWhatItWrites) {
  const std::vector<HouseRule> rules{{"a \"quoted\" name", "tree", true, "girth > 1", "too thin"},
                                     {"b", "s.t", false, "x no value", {}}};
  const auto read = rulesFromJson(rulesToJson(rules));
  ASSERT_TRUE(read) << read.error().text();
  EXPECT_EQ(rules, *read);
}

TEST(HouseRuleFileTest, NamesThePlaceOfAMistake) {
  const auto said = [](const std::string& rules) {
    const auto read = rulesFromJson(R"({"format": "iterandum-rules", "version": 1, "rules": [)" + rules + "]}");
    return read ? std::string("read") : read.error().text();
  };
  EXPECT_EQ("read", said(R"({"name": "a", "table": "t", "holds": "x > 1"})"));
  EXPECT_EQ("/rules/0/holds: is missing", said(R"({"name": "a", "table": "t"})"));
  EXPECT_EQ("/rules/0/stops: true or false is wanted here",
            said(R"({"name": "a", "table": "t", "holds": "x", "stops": 1})"));
  EXPECT_THAT(said(R"({"name": "a", "table": "t", "holds": "x", "hold": ""})"), HasSubstr("/rules/0/hold"));
  EXPECT_THAT(said(R"({"name": "a", "table": "t", "holds": "x"}, {"name": "a", "table": "t", "holds": "x"})"),
              HasSubstr("/rules/1/name: 'a' is there twice"));
  EXPECT_THAT(rulesFromJson(R"({"format": "iterandum-rules", "version": 2, "rules": []})").error().text(),
              HasSubstr("/version"));
  EXPECT_FALSE(rulesFromJson("[]"));
}

}  // namespace
}  // namespace iterandum::test
