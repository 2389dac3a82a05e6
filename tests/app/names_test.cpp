// Records are spoken of by name, not by key: in filters, in the sentence, in orders and among what is offered.
#include "app/scope_fixture.h"

namespace iterandum::test {
namespace {

class SheetNamesTest : public SheetScopeTest {
 protected:
  void SetUp() override {
    SheetScopeTest::SetUp();
    // By key the lime is first, by name the ash.
    db.run("UPDATE species SET name = 'ash' WHERE species_id = 3; UPDATE tree SET species_id = 3 WHERE tree_id = 8");
  }
  void filter(const char* column, const std::string& text) {
    at(0, column);
    key(Qt::Key_L, kCtrl);
    ASSERT_TRUE(qobject_cast<QLineEdit*>(QApplication::focusWidget()) != nullptr);
    key(Qt::Key_A, kCtrl);
    type(text.c_str());
    key(Qt::Key_Return);
  }
  bool says(const std::string& words) {
    return wait([&] { return settled() && sentence() == words; });
  }
};

TEST_F(SheetNamesTest, AFilterTakesTheNameThatIsShown) {
  openTable("tree");
  filter("species_id", "LIM");
  EXPECT_TRUE(shows("tag", "T7"));
  EXPECT_TRUE(says("tree where species contains LIM and…")) << sentence();
  filter("species_id", "in (ash, oak)");
  EXPECT_TRUE(shows("tag", "T8 T9"));
  EXPECT_TRUE(says("tree where species is one of ash, oak and…")) << sentence();
  filter("species_id", "not ash");
  EXPECT_TRUE(shows("tag", "T7 T9"));
}

TEST_F(SheetNamesTest, AKeyIsSaidByTheNameOfItsRecord) {
  openTable("tree");
  filter("species_id", "= 3");
  EXPECT_TRUE(shows("tag", "T8"));
  EXPECT_TRUE(says("tree where species is ash and…")) << sentence();
  // A name that no key holds to one record is said with the key.
  openTable("photo");
  filter("tree_id", "7");
  EXPECT_TRUE(says("photo where tree is T7 and…")) << sentence();
}

TEST_F(SheetNamesTest, ReferencesAreSortedByNameAndByKeyWhereThatIsAskedFor) {
  openTable("tree");
  at(0, "species_id");
  key(Qt::Key_S, kCtrlShift);
  EXPECT_TRUE(shows("tag", "T8 T7 T9"));
  EXPECT_TRUE(says("All of tree where…, by species")) << sentence();
  key(Qt::Key_S, kCtrlShift);
  EXPECT_TRUE(shows("tag", "T9 T7 T8"));
  EXPECT_TRUE(says("All of tree where…, by species last first")) << sentence();
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Return);
  choose("By its key");
  EXPECT_TRUE(shows("tag", "T8 T9 T7"));
  EXPECT_TRUE(says("All of tree where…, by the key of species last first")) << sentence();
  const auto kept = scopeFromJson(scopeToJson("", sheet()->scope().scope()));
  ASSERT_TRUE(kept.has_value());
  EXPECT_EQ(sheet()->scope().scope(), kept->second);
}

TEST_F(SheetNamesTest, WhatIsOfferedIsChosenByName) {
  openTable("tree");
  at(0, "species_id");
  key(Qt::Key_J, kCtrlShift);
  choose("species_id");
  ASSERT_TRUE(wait([&] { return offers()->count() == 3 && !offers()->findItems("ash", Qt::MatchExactly).isEmpty(); }));
  type("as");
  key(Qt::Key_Down);
  key(Qt::Key_Return);
  EXPECT_TRUE(shows("tag", "T8"));
  EXPECT_EQ("= 'ash'", sheet()->scope().scope().filters.at(0).condition);
  key(Qt::Key_D, kCtrlShift);
  auto* values = sheet()->findChild<QListWidget*>("values");
  ASSERT_NE(nullptr, values);
  EXPECT_TRUE(wait([&] { return !values->findItems("oak", Qt::MatchExactly).isEmpty(); }));
}

TEST_F(SheetNamesTest, WhatOneCellJoinsIsSeveralPhrases) {
  openTable("tree");
  filter("condition", ">= 2 and <= 3 and not no value");
  EXPECT_TRUE(shows("tag", "T7 T8"));
  EXPECT_TRUE(says("tree where condition is 2 or more and condition is 3 or less and condition has a value and…"))
      << sentence();
  ASSERT_EQ(3U, sheet()->scope().phrases().size());
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Right);
  key(Qt::Key_Return);
  type("condition <= 9");
  key(Qt::Key_Return);
  EXPECT_TRUE(shows("tag", "T7 T8 T9")) << sentence();
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Delete);
  EXPECT_TRUE(says("tree where condition is 9 or less and condition has a value and…")) << sentence();
  EXPECT_EQ(1U, sheet()->scope().scope().filters.size());
}

TEST_F(SheetNamesTest, APartIsChangedByItselfWhateverColumnsTheOthersAreAbout) {
  openTable("tree");
  filter("condition", ">= 2 and species.name like l* and (note contains old or note no value) and condition <= 4");
  EXPECT_TRUE(shows("tag", "T7")) << sentence();
  ASSERT_EQ(4U, sheet()->scope().phrases().size());
  // What is typed without a column is about the cell's own, though another one stands before it.
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Left);
  key(Qt::Key_Left);
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return offers()->count() == 2; }));
  type("= 2");
  key(Qt::Key_Return);
  EXPECT_TRUE(
      says("tree where condition is 2 or more and species.name is like l* and (note contains old or note has no "
           "value) and condition is 2 and…"))
      << sentence();
  key(Qt::Key_J, kCtrl);
  key(Qt::Key_Right);
  key(Qt::Key_Return);
  EXPECT_EQ(0, offers()->count()) << "it is about another column, whose values these are not";
  type("species.name like a*");
  key(Qt::Key_Return);
  EXPECT_TRUE(shows("tag", "T8")) << sentence();
}

TEST_F(SheetNamesTest, ManyValuesAreCounted) {
  openTable("tree");
  filter("tag", "in (T1, T2, T3, T4, T5, T6, T7, no value)");
  EXPECT_TRUE(shows("tag", "T7"));
  EXPECT_TRUE(says("tree where tag is one of 7 values or tag has no value and…")) << sentence();
}

TEST_F(SheetNamesTest, WhatFitsBestIsHighlightedAndTaken) {
  openTable("tree");
  key(Qt::Key_J, kCtrlShift);
  type("tag");
  ASSERT_GE(offers()->currentRow(), 0);
  EXPECT_EQ("tag", offers()->currentItem()->text()) << "before all that have it somewhere";
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return offers()->count() == 3; }));
  // What somebody went to stays, though names and counts arrive behind it.
  key(Qt::Key_Down);
  key(Qt::Key_Down);
  const QString chosen = offers()->currentItem()->text();
  emit window->desk()->names().named();
  ASSERT_GE(offers()->currentRow(), 0);
  EXPECT_EQ(chosen, offers()->currentItem()->text());
  key(Qt::Key_Return);
  EXPECT_TRUE(shows("tag", chosen.toStdString()));
}

}  // namespace
}  // namespace iterandum::test
