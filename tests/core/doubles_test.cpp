// Doubles against a naive grouping of what lies in memory, over random records, on every engine; removed, merged,
// applied and taken back.
#include "core/acts/doubles.h"

#include <gmock/gmock.h>

#include <map>
#include <random>
#include <set>

#include "core/scope/condition_text.h"
#include "core/value/text_forms.h"
#include "support/kept_receipt.h"

namespace iterandum::test {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using Compared = DoublesQuestion::Compared;

constexpr const char* kSchema = R"(
  CREATE TABLE lamp (lamp_id INTEGER PRIMARY KEY, street VARCHAR(40), watts INTEGER, mast VARCHAR(20), note VARCHAR(20));
  CREATE TABLE visit (visit_id INTEGER PRIMARY KEY, lamp_id INTEGER,
    CONSTRAINT visit_lamp FOREIGN KEY (lamp_id) REFERENCES lamp (lamp_id));
)";

struct Lamp {
  int id = 0;
  std::optional<std::string> street, mast, note;
  std::optional<int> watts;
};

std::string quoted(const std::optional<std::string>& text) { return text ? "'" + *text + "'" : "NULL"; }

class DoublesTest : public EngineTest {
 protected:
  // Spellings of few things, so that many are alike: which of them each is, nearly seen, is the model's to know.
  static constexpr std::array<std::pair<const char*, int>, 8> kStreets{{{"Harbour Steps", 1},
                                                                        {"harbour  steps", 1},
                                                                        {"Harbor Steps", 1},
                                                                        {"HARBOUR STEPS ", 1},
                                                                        {"Lime Walk", 2},
                                                                        {"Lime-Walk", 2},
                                                                        {"Mill 12 Row", 3},
                                                                        {"Mill 13 Row", 4}}};

  std::vector<Lamp> fill(std::mt19937& random) {
    db.run("DELETE FROM visit");
    db.run("DELETE FROM lamp");
    const auto pick = [&](std::size_t n) { return static_cast<std::size_t>(random() % n); };
    std::vector<Lamp> out;
    for (int id = 1; id <= 40; ++id) {
      Lamp lamp{id, {}, {}, {}, {}};
      if (pick(6) != 0) lamp.street = kStreets[pick(kStreets.size())].first;
      if (pick(4) != 0) lamp.watts = static_cast<int>(pick(3)) * 20;
      if (pick(3) == 0) lamp.mast = pick(2) == 0 ? "" : "wood";
      if (pick(3) == 0) lamp.note = "n";
      db.run("INSERT INTO lamp VALUES (" + std::to_string(id) + ", " + quoted(lamp.street) + ", " +
             (lamp.watts ? std::to_string(*lamp.watts) : "NULL") + ", " + quoted(lamp.mast) + ", " + quoted(lamp.note) +
             ")");
      out.push_back(std::move(lamp));
    }
    return out;
  }

  static std::string streetForm(const std::string& street, Compared compared) {
    if (compared == Compared::Exactly) return street;
    if (compared == Compared::Loosely) return looseText(street);
    for (const auto& [text, which] : kStreets) {
      if (street == text) return std::to_string(which);
    }
    return street;
  }

  // "1,4,7 2,9": which are alike, by their keys in the order of the keys.
  static std::string modelled(const std::vector<Lamp>& lamps, const std::set<std::string>& columns, Compared compared) {
    std::map<std::string, std::vector<int>> groups;
    for (const Lamp& lamp : lamps) {
      std::string form;
      bool says = false;
      const auto take = [&](const char* column, const std::optional<std::string>& text) {
        if (!columns.contains(column)) return;
        form += text ? "[" + *text + "]" : "-";
        says = says || (text && !text->empty());
      };
      take("street", lamp.street ? std::optional(streetForm(*lamp.street, compared)) : std::nullopt);
      take("watts", lamp.watts ? std::optional(std::to_string(*lamp.watts)) : std::nullopt);
      take("mast", lamp.mast);
      if (says) groups[form].push_back(lamp.id);
    }
    std::map<int, std::string> out;
    for (const auto& [form, ids] : groups) {
      std::string& line = out[ids.front()];
      for (const int id : ids) line += (line.empty() ? "" : ",") + std::to_string(id);
      if (ids.size() < 2) out.erase(ids.front());
    }
    std::string text;
    for (const auto& [first, line] : out) text += (text.empty() ? "" : " ") + line;
    return text;
  }

  static std::string shown(const FoundDoubles& found) {
    std::string out;
    for (const DoubleGroup& group : found.groups) {
      out += out.empty() ? "" : " ";
      for (std::size_t r = 0; r < group.size(); ++r) out += (r > 0 ? "," : "") + canonicalText(group[r].key[0]);
    }
    return out;
  }

  DoublesQuestion question(const std::set<std::string>& columns, Compared compared) {
    DoublesQuestion out;
    out.which.table = db.catalogue().find({"", "lamp"});
    out.which.order = {{"lamp_id"}};
    out.columns.assign(columns.begin(), columns.end());
    out.compared = compared;
    return out;
  }

  std::string apply(const ChangeList& changes) { return applyKeeping(db, changes, receipt_); }

  TestDatabase db{kSchema, GetParam()};
  Receipt receipt_;
  Progress progress_;
};
ITERANDUM_ON_ALL_ENGINES(DoublesTest);

TEST_P(DoublesTest, AreWhatANaiveGroupingSaysAndGoAndComeBack) {
  std::mt19937 random(5);
  const std::vector<std::set<std::string>> choices{
      {"street"}, {"street", "watts"}, {"mast"}, {"street", "watts", "mast"}};
  int groups = 0;
  for (int round = 0; round < (GetParam() == Engine::Sqlite ? 60 : 15); ++round) {
    std::vector<Lamp> lamps = fill(random);
    const std::set<std::string>& columns = choices[random() % choices.size()];
    const auto compared = static_cast<Compared>(random() % 3);
    DoublesQuestion asked = question(columns, compared);
    // What is staged counts as if it were there.
    std::vector<Lamp> staged = lamps;
    if (random() % 2 == 0) {
      auto over = std::make_shared<StagedOver>();
      for (int i = 0; i < 5; ++i) {
        Lamp& lamp = staged[random() % staged.size()];
        lamp.street = kStreets[random() % kStreets.size()].first;
        over->cells[{Value::integer(lamp.id)}] = {{"street", Value::text(*lamp.street)}};
      }
      const int removed = 1 + static_cast<int>(random() % 40);
      over->removed.insert({Value::integer(removed)});
      std::erase_if(staged, [&](const Lamp& lamp) { return lamp.id == removed; });
      asked.staged = over;
    }
    const auto found = findDoubles(db.session(), asked, progress_);
    ASSERT_TRUE(found.has_value()) << found.error().text();
    ASSERT_EQ(modelled(staged, columns, compared), shown(*found)) << round;
    EXPECT_EQ(staged.size(), found->looked);
    groups += static_cast<int>(found->groups.size());

    DoublesDecision decision;
    std::set<int> gone;
    for (const DoubleGroup& group : found->groups) {
      const std::size_t keep = random() % group.size();
      const bool leave = random() % 4 == 0;
      decision.push_back(leave ? std::nullopt : std::optional(keep));
      for (std::size_t r = 0; r < group.size(); ++r) {
        if (!leave && r != keep) gone.insert(static_cast<int>(group[r].key[0].asInteger()));
      }
    }
    const auto changes = withoutDoubles(db.session(), asked, *found, decision, progress_);
    ASSERT_TRUE(changes.has_value()) << changes.error().text();
    const std::string before = db.dump();
    ASSERT_EQ("applied", apply(*changes));
    std::string left;
    for (const Lamp& lamp : lamps) {
      if (!gone.contains(lamp.id)) left += (left.empty() ? "" : "\n") + std::to_string(lamp.id);
    }
    ASSERT_EQ(left, db.rows("SELECT lamp_id FROM lamp ORDER BY 1"));
    if (gone.empty()) continue;
    ASSERT_EQ("applied", apply(revertReceipt(receipt_).changes));
    ASSERT_EQ(before, db.dump());
  }
  EXPECT_GT(groups, 40);
}

TEST_P(DoublesTest, FirstLastAndFullestAreWhatTheySay) {
  db.run(
      "INSERT INTO lamp VALUES (1, 'A', NULL, NULL, 'n'), (2, 'A', 20, 'wood', NULL), (3, 'A', 20, '', 'n'), (4, 'A', "
      "NULL, 'wood', 'n')");
  DoublesQuestion asked = question({"street"}, Compared::Exactly);
  EXPECT_THAT(findDoubles(db.session(), asked, progress_)->differ, ElementsAre(ElementsAre("watts", "mast", "note")));
  const auto kept = [&](Keep keep) {
    const auto found = findDoubles(db.session(), asked, progress_);
    const DoubleGroup& group = found->groups.at(0);
    return canonicalText(group[keptOf(group, keep)].key[0]);
  };
  EXPECT_EQ("1", kept(Keep::First));
  EXPECT_EQ("4", kept(Keep::Last));
  // 2, 3 and 4 hold as much; an empty text says nothing.
  EXPECT_EQ("2", kept(Keep::Fullest));
  db.run("UPDATE lamp SET watts = 40 WHERE lamp_id = 4");
  EXPECT_EQ("4", kept(Keep::Fullest));
  asked.which.order = {{"lamp_id", true}};
  EXPECT_EQ("4", kept(Keep::First));
  EXPECT_EQ("1", kept(Keep::Last));
}

// One that is not what it was: nothing goes, not even of another group; least of all the one that stays.
TEST_P(DoublesTest, WhatChangesMeanwhileStopsAll) {
  db.run(
      "INSERT INTO lamp VALUES (1, 'A', 1, NULL, NULL), (2, 'A', 1, NULL, NULL), (3, 'B', 1, NULL, NULL), (4, 'B', 1, "
      "NULL, NULL)");
  const DoublesQuestion asked = question({"street"}, Compared::Exactly);
  const auto found = findDoubles(db.session(), asked, progress_);
  ASSERT_EQ("1,2 3,4", shown(*found));
  const DoublesDecision decision{0, 0};
  db.run("DELETE FROM lamp WHERE lamp_id = 1");
  const auto gone = withoutDoubles(db.session(), asked, *found, decision, progress_);
  ASSERT_FALSE(gone.has_value());
  EXPECT_EQ("lamp 1 was changed or removed meanwhile; look for doubles again", gone.error().message);
  db.run("INSERT INTO lamp VALUES (1, 'C', 1, NULL, NULL)");
  EXPECT_FALSE(withoutDoubles(db.session(), asked, *found, decision, progress_).has_value());
  EXPECT_FALSE(mergedDoubles(db.session(), db.catalogue(), asked, *found, decision, false, progress_).has_value());
  // A group that is left alone is nobody's business.
  EXPECT_TRUE(withoutDoubles(db.session(), asked, *found, {std::nullopt, 0}, progress_).has_value());
}

TEST_P(DoublesTest, WhatPointsAtTheOthersPointsAtTheOneThatStays) {
  db.run(
      "INSERT INTO lamp VALUES (1, 'A', 1, NULL, NULL), (2, 'A', 1, NULL, NULL), (3, 'B', 1, NULL, NULL), (4, 'B', 1, "
      "NULL, NULL)");
  db.run("INSERT INTO visit VALUES (1, 1), (2, 2), (3, 3), (4, 4), (5, 2), (6, NULL)");
  const DoublesQuestion asked = question({"street"}, Compared::Exactly);
  const auto found = findDoubles(db.session(), asked, progress_);
  const auto plain = withoutDoubles(db.session(), asked, *found, {0, 1}, progress_);
  EXPECT_THAT(apply(*plain), HasSubstr("still-referenced"));
  const auto plan = mergedDoubles(db.session(), db.catalogue(), asked, *found, {0, 1}, false, progress_);
  ASSERT_TRUE(plan.has_value()) << plan.error().text();
  EXPECT_EQ(3U, plan->repointed);
  ASSERT_EQ("applied", apply(plan->changes));
  EXPECT_EQ("1|1\n2|1\n3|4\n4|4\n5|1\n6|-", db.rows("SELECT visit_id, lamp_id FROM visit ORDER BY 1"));
  EXPECT_EQ("1\n4", db.rows("SELECT lamp_id FROM lamp ORDER BY 1"));
}

// A log without a key: on SQLite the row id tells its lines apart; elsewhere lines that are the same in every column
// can be named by nothing.
TEST_P(DoublesTest, ALogWithoutAKey) {
  db.run("CREATE TABLE import_log (line VARCHAR(20), at INTEGER)");
  db.run("INSERT INTO import_log VALUES ('a', 1), ('a', 1), ('b', 2), ('a', 1), ('c', 3), ('c', 4)");
  db.forget();
  DoublesQuestion asked;
  asked.which.table = db.catalogue().find({"", "import_log"});
  asked.columns = {"line", "at"};
  const auto found = findDoubles(db.session(), asked, progress_);
  ASSERT_TRUE(found.has_value()) << found.error().text();
  if (GetParam() == Engine::Sqlite) {
    ASSERT_EQ(1U, found->groups.size());
    EXPECT_EQ(0U, found->unnamed);
    ASSERT_EQ("applied", apply(*withoutDoubles(db.session(), asked, *found, {0}, progress_)));
    EXPECT_EQ("a|1\nb|2\nc|3\nc|4", db.rows("SELECT line, at FROM import_log ORDER BY 1, 2"));
  } else {
    EXPECT_EQ(0U, found->groups.size());
    EXPECT_EQ(3U, found->unnamed);
  }
  asked.columns = {"line"};
  const auto other = findDoubles(db.session(), asked, progress_);
  ASSERT_TRUE(other.has_value());
  EXPECT_EQ(1U, other->groups.size());
  EXPECT_EQ("c", std::string(other->groups[0][0].values[0].asString()));
  db.run("DROP TABLE import_log");
}

TEST_P(DoublesTest, BadQuestionsAndStopping) {
  db.run("INSERT INTO lamp VALUES (1, 'A', 1, NULL, NULL), (2, 'A', 1, NULL, NULL)");
  DoublesQuestion asked = question({"nowhere"}, Compared::Exactly);
  EXPECT_EQ("'nowhere' is no column of lamp", findDoubles(db.session(), asked, progress_).error().message);
  asked.columns.clear();
  EXPECT_EQ("no column says in what they are alike", findDoubles(db.session(), asked, progress_).error().message);
  asked = question({"street"}, Compared::Exactly);
  Progress stopped;
  stopped.cancel();
  EXPECT_EQ(ErrorKind::Cancelled, findDoubles(db.session(), asked, stopped).error().kind);
}

}  // namespace
}  // namespace iterandum::test
