// What can be done about a finding, and a change file that comes from elsewhere.
#include "core/review/ways_out.h"

#include "core/acts/adopt_changes.h"
#include "core/changes/change_set.h"
#include "core/changes/gesture_from_list.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

class WaysOutTest : public EngineTest {
 protected:
  // Of every finding that blocks: its kind, the record, and the ways.
  std::string ways(TestDatabase& db, const std::string& lines) {
    Progress progress;
    const ChangeList list = TestDatabase::changes(lines);
    const auto review = reviewChanges(db.session(), db.catalogue(), list, {}, progress);
    if (!review) return review.error().text();
    std::string out;
    static const std::map<WayOut, std::string> kNames{
        {WayOut::KeepMine, "mine"},        {WayOut::TakeTheirs, "theirs"},
        {WayOut::Correct, "correct"},      {WayOut::NoValue, "none"},
        {WayOut::AddParent, "add"},        {WayOut::ShowHolder, "holder"},
        {WayOut::ShowReferring, "show"},   {WayOut::LetGo, "let-go"},
        {WayOut::Repoint, "repoint"},      {WayOut::RemoveReferring, "remove-too"},
        {WayOut::PutBack, "back"},         {WayOut::AddAgain, "add-again"},
        {WayOut::MergeWithHolder, "merge"}};
    const auto changes = list.inOrder();
    for (const Finding& f : review->findings) {
      if (!f.blocks) continue;
      if (!out.empty()) out += "\n";
      out += std::string(findingName(f.kind)) + ":";
      for (const WayOut way : waysOut(f, changes[f.change].second, db.catalogue())) out += " " + kNames.at(way);
    }
    return out;
  }
};
ITERANDUM_ON_ALL_ENGINES(WaysOutTest);

TEST_P(WaysOutTest, EachFindingHasWhatHelps) {
  TestDatabase db(smallRegister(GetParam()), GetParam());
  db.run("UPDATE tree SET condition = 4 WHERE tree_id = 7");
  EXPECT_EQ("cell-changed: mine theirs correct back", ways(db, "edit tree tree_id=7 condition:2->3"));
  EXPECT_EQ("parent-missing: correct add back", ways(db, "edit tree tree_id=7 species_id:1->99")) << "it must point";
  EXPECT_EQ("parent-missing: correct none add back", ways(db, "edit photo photo_id=1 tree_id:7->99"));
  EXPECT_EQ("duplicate: correct holder merge back", ways(db, "edit tree tree_id=7 tag:\"T7\"->\"T8\""));
  EXPECT_EQ("duplicate: correct holder back", ways(db, "edit tree tree_id=7 tag:\"T7\"->\"T8\" condition:4->1"))
      << "there is more to it";
  EXPECT_EQ("duplicate: correct holder back", ways(db, "add tree tag=\"T8\" species_id=1"));
  EXPECT_EQ("value-refused: correct back", ways(db, "edit tree tree_id=8 condition:2->9"));
  EXPECT_EQ("still-referenced: show repoint remove-too back", ways(db, "remove species species_id=2 name:\"oak\""));
  db.run("UPDATE photo SET caption = 'crown and root' WHERE photo_id = 1");
  EXPECT_EQ("cell-changed: mine back", ways(db, "remove photo photo_id=1 caption:\"crown\""));
  EXPECT_EQ("record-gone: add-again back", ways(db, "edit tree tree_id=70 condition:2->3"));
  EXPECT_EQ("record-gone: back", ways(db, "remove tree tree_id=70 tag:\"T70\"")) << "it is as it was to be";
  EXPECT_EQ("value-refused: correct back", ways(db, "add tree tag=\"T99\" species_id=1 condition=9"));
}

TEST_P(WaysOutTest, ThosePointingMayLetGoWhereTheyMayHoldNothing) {
  TestDatabase db(
      "CREATE TABLE crew (crew_id INTEGER PRIMARY KEY, name VARCHAR(20));"
      "CREATE TABLE job (job_id INTEGER PRIMARY KEY, crew_id INTEGER, FOREIGN KEY (crew_id) REFERENCES crew (crew_id));"
      "INSERT INTO crew VALUES (1, 'North'), (2, 'South'); INSERT INTO job VALUES (10, 1), (11, 1), (12, 2)",
      GetParam());
  EXPECT_EQ("still-referenced: show repoint let-go remove-too back", ways(db, "remove crew crew_id=1 name:\"North\""));
  Finding finding;
  finding.kind = FindingKind::StillReferenced;
  finding.table = {"", "crew"};
  finding.fromTable = TableName{"", "job"};
  const ChangeList list = TestDatabase::changes("remove crew crew_id=1");
  const auto referring = referringRecords(finding, list.inOrder()[0].second, db.catalogue());
  ASSERT_EQ(1U, referring.size());
  EXPECT_EQ("job", referring[0].table->name.name);
  ASSERT_EQ(1U, referring[0].values.size());
  EXPECT_EQ("crew_id", referring[0].values[0].first);
  EXPECT_EQ("1", canonicalText(referring[0].values[0].second));
}

class AdoptTest : public EngineTest {
 protected:
  static std::string staged(TestDatabase& db, const ChangeList& list) {
    Progress progress;
    auto adopted = adoptChanges(db.session(), db.catalogue(), list, progress);
    if (!adopted) return adopted.error().text();
    auto listed = gestureFrom(db.catalogue(), adopted->changes, 5);
    if (!listed) return listed.error().text();
    ChangeSet set;
    set.apply(std::move(listed->gesture));
    std::string out;
    for (const auto& [index, c] : set.toChangeList("").inOrder()) {
      out += actionName(c.action) + std::string(" ") + c.table.name;
      for (const Value& key : c.key) out += " " + canonicalText(key);
      for (const CellChange& cell : c.cells) {
        out += " " + cell.column + ":" + (cell.hasFrom ? valueInWords(cell.from) : "");
        if (c.action != Action::Remove) out += "->" + valueInWords(cell.to);
      }
      out += c.label.empty() ? "\n" : " @" + c.label + "\n";
    }
    if (adopted->guarded > 0) out += std::to_string(adopted->guarded) + " guarded\n";
    for (const std::string& left : adopted->leftOut) out += "left out: " + left + "\n";
    return out;
  }
};
ITERANDUM_ON_ALL_ENGINES(AdoptTest);

TEST_P(AdoptTest, RecordsAreNamedAsTheyAreHereAndEveryCellHasWhatItHolds) {
  TestDatabase db(smallRegister(GetParam()), GetParam());
  EXPECT_EQ(
      "edit tree 7 note:'old'->'felled'\n"
      "edit tree 8 condition:2->3\n"
      "1 guarded\n",
      staged(db, TestDatabase::changes("edit tree tag=\"T7\" note->\"felled\"\nedit tree tree_id=\"8\" "
                                       "condition:\"2\"->\"3\"")));
  EXPECT_EQ("remove photo 2 photo_id:2 tree_id:9 caption:no value\n1 guarded\n",
            staged(db, TestDatabase::changes("remove photo photo_id=2")));
  EXPECT_EQ(
      "left out: tree T70: there is no such record here\n"
      "left out: tree 7: tree has no column crown here\n"
      "left out: a new record of shrub: there is no table shrub here\n",
      staged(db, TestDatabase::changes("edit tree tag=\"T70\" note->\"felled\"\nedit tree tree_id=7 "
                                       "crown:1->2\nadd shrub name=\"box\"")));
}

TEST_P(AdoptTest, WhatPointsAtANewRecordPointsAtItHere) {
  TestDatabase db(smallRegister(GetParam()), GetParam());
  const ChangeList list = TestDatabase::changes(
      "edit tree tree_id=7 species_id:1->{\"ref\":\"new-lime\"}\nadd species name=\"new lime\" @new-lime\nadd species "
      "name=\"yew\"");
  Progress progress;
  auto adopted = adoptChanges(db.session(), db.catalogue(), list, progress);
  ASSERT_TRUE(adopted) << adopted.error().text();
  auto listed = gestureFrom(db.catalogue(), adopted->changes, 41);
  ASSERT_TRUE(listed) << listed.error().text();
  ChangeSet set;
  set.apply(std::move(listed->gesture));
  const auto applied = applyChanges(db.session(), db.catalogue(), set.toChangeList(""), {}, progress);
  ASSERT_TRUE(applied && applied->receipt) << (applied ? "blocked" : applied.error().text());
  EXPECT_EQ("new lime", db.rows("SELECT name FROM species JOIN tree USING (species_id) WHERE tree_id = 7"));
  EXPECT_EQ("5", db.rows("SELECT count(*) FROM species"));
}

// What a file says comes to the same, whether it is applied as it is or staged first.
TEST_P(AdoptTest, StagedFirstItComesToTheSame) {
  const std::string lines =
      "edit tree tree_id=7 condition:2->3 height:12.5->\"13.25\"\nremove photo photo_id=2\nadd species "
      "name=\"ash\" @a\nedit tree tree_id=9 species_id:2->{\"ref\":\"a\"}\nremove inspection tree_id=7 "
      "inspected_on=\"2025-03-02\" grade:\"sound\"";
  std::string dumps[2];
  for (const bool first : {false, true}) {
    TestDatabase db(smallRegister(GetParam()), GetParam());
    Progress progress;
    ChangeList list = TestDatabase::changes(lines);
    if (first) {
      auto adopted = adoptChanges(db.session(), db.catalogue(), list, progress);
      ASSERT_TRUE(adopted) << adopted.error().text();
      auto listed = gestureFrom(db.catalogue(), adopted->changes, 1);
      ASSERT_TRUE(listed) << listed.error().text();
      ChangeSet set;
      set.apply(std::move(listed->gesture));
      list = set.toChangeList("");
    }
    const auto applied = applyChanges(db.session(), db.catalogue(), list, {}, progress);
    ASSERT_TRUE(applied && applied->receipt) << (applied ? "blocked" : applied.error().text());
    dumps[first ? 1 : 0] = db.dump();
  }
  EXPECT_EQ(dumps[0], dumps[1]);
}

}  // namespace
}  // namespace iterandum::test
