// The card as a form: a key is typed and the record is there, or is added; what is kept goes on to the next new one;
// house rules are told while a value is typed.
#include "app/scope_fixture.h"
#include "app/sheet/foot_line.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

class CardTest : public SheetScopeTest {
 protected:
  template <typename Widget = QWidget>
  [[nodiscard]] Widget* part(const char* name) const {
    return window->findChild<Widget*>(name);
  }
  [[nodiscard]] QLineEdit* line() const { return sheet()->findChild<QLineEdit*>("cardFind"); }
  [[nodiscard]] std::string found() const {
    auto* list = part<QListWidget>("cardFound");
    QStringList out;
    if (list->isVisible()) {
      for (int i = 0; i < list->count(); ++i) out << list->item(i)->text();
    }
    return out.join(QLatin1Char('\n')).toStdString();
  }
  [[nodiscard]] std::string field() const {
    QWidget* focus = QApplication::focusWidget();
    return focus == nullptr ? "" : focus->objectName().toStdString();
  }
  [[nodiscard]] std::string title() const { return sheet()->findChild<QLabel*>("cardTitle")->text().toStdString(); }
  void focus(const char* name) const {
    auto* one = sheet()->findChild<QWidget*>(QStringLiteral("field-") + QLatin1String(name));
    ASSERT_NE(nullptr, one);
    one->setFocus();
  }
  void openForm(const char* table = "tree") {
    openTable(table);
    key(Qt::Key_F4);
    ASSERT_TRUE(line()->hasFocus());
    ASSERT_FALSE(view().isVisible());
  }
  void keepRule(const char* name, const char* holds, bool stops) const {
    HouseRule rule;
    rule.name = name;
    rule.table = "tree";
    rule.holds = holds;
    rule.stops = stops;
    rule.message = std::string("says ") + name;
    window->desk()->kept().saveHouseRules({rule});
  }
};

// The form's own work: a key, three fields, staged; counted from where the keys are for the next record.
TEST_F(CardTest, AKeyIsTypedAndThreeFieldsChanged) {
  openForm();
  int acts = 0;
  const auto say = [&](const char* text) {
    type(text);
    ++acts;
  };
  const auto press = [&](Qt::Key k) {
    key(k);
    ++acts;
  };
  focus("condition");
  key(Qt::Key_Escape);
  ASSERT_TRUE(line()->hasFocus()) << "Escape in a field is ready for the next key";
  say(" 8 ");
  press(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return title() == "T8" && field() == "field-condition"; })) << title() << " " << field();
  say("3");
  press(Qt::Key_Return);
  ASSERT_EQ("field-height", field());
  say("4.5");
  press(Qt::Key_Return);
  ASSERT_EQ("field-note", field());
  say("seen");
  press(Qt::Key_Return);
  EXPECT_EQ("edit 8 condition=3 height=4.5 note=seen", staged());
  EXPECT_LE(acts, 8);
  // And by another unique value, in the middle of other work.
  key(Qt::Key_Escape);
  type("T9");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return title() == "T9"; })) << title();
  EXPECT_EQ(0, part<QListWidget>("cardFound")->isVisible());
}

TEST_F(CardTest, SeveralAreOfferedAndNoneIsTakenUnseen) {
  openForm();
  type("t");
  key(Qt::Key_Return);  // before anybody could know what there is
  ASSERT_TRUE(wait([&] { return !found().empty(); }));
  EXPECT_TRUE(line()->hasFocus()) << "which one, somebody says";
  EXPECT_THAT(found(), HasSubstr("T7"));
  EXPECT_THAT(found(), HasSubstr("T8"));
  EXPECT_THAT(found(), HasSubstr("shows it, to change it"));
  key(Qt::Key_Down);
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return title() == "T8"; })) << title();
  key(Qt::Key_Escape);
  type("nobody'; --");
  ASSERT_TRUE(wait([&] { return part<QLabel>("cardFindWords")->isVisible(); }));
  EXPECT_EQ("No record is called so.", part<QLabel>("cardFindWords")->text().toStdString());
  key(Qt::Key_Escape);
  EXPECT_FALSE(part<QLabel>("cardFindWords")->isVisible());
  key(Qt::Key_Escape);
  EXPECT_TRUE(view().isVisible());
  EXPECT_TRUE(view().hasFocus());
  EXPECT_TRUE(changes().empty());
}

TEST_F(CardTest, AKeyThatIsNewAddsOneAndWhatIsKeptGoesOn) {
  openForm();
  type("T90");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return !found().empty(); }));
  EXPECT_EQ("New record with tag “T90”", found());
  EXPECT_TRUE(changes().empty()) << "it is said before it is done";
  key(Qt::Key_Return);
  EXPECT_EQ("add tag=T90", staged());
  EXPECT_EQ("the new record T90", title());
  ASSERT_EQ("field-species_id", field());
  type("1");
  key(Qt::Key_Return);
  focus("condition");
  type("2");
  key(Qt::Key_Return);
  key(Qt::Key_Up);
  ASSERT_EQ("field-condition", field());
  key(Qt::Key_P, kCtrl);
  focus("species_id");
  key(Qt::Key_P, kCtrl);
  // Enter in the last field: the next one, with what is kept.
  focus("note");
  type("first");
  key(Qt::Key_Return);
  ASSERT_EQ("field-stamped", field());
  key(Qt::Key_Return);
  key(Qt::Key_Return);
  EXPECT_EQ("add condition=2 note=first species_id=1 tag=T90; add condition=2 species_id=1", staged());
  ASSERT_EQ("field-tag", field());
  type("T91");
  key(Qt::Key_Return);
  // By its key again: the one that is staged, not a third.
  key(Qt::Key_Escape);
  type("T90");
  ASSERT_TRUE(wait([&] { return found().find("goes on with it") != std::string::npos; })) << found();
  key(Qt::Key_Return);
  EXPECT_EQ("the new record T90", title());
  EXPECT_EQ(2U, counts().added);
  // Not kept any more.
  focus("condition");
  key(Qt::Key_P, kCtrl);
  key(Qt::Key_N, kCtrl);
  EXPECT_THAT(staged(), HasSubstr("; add species_id=1"));
  EXPECT_EQ(3U, counts().added);
  // One of the database has nothing to keep: there the keys print.
  focus("tag");
  key(Qt::Key_Home, kCtrl);
  EXPECT_FALSE(sheet()->findChild<QWidget*>("printPreview")->isVisible());
  key(Qt::Key_P, kCtrl);
  EXPECT_TRUE(sheet()->findChild<QWidget*>("printPreview")->isVisible());
}

TEST_F(CardTest, FromRecordToRecordInTheSheetsOrder) {
  openForm();
  focus("condition");
  EXPECT_EQ("T7", title());
  key(Qt::Key_PageDown);
  EXPECT_EQ("T8", title());
  EXPECT_EQ("field-condition", field()) << "the same field of the next one";
  key(Qt::Key_End, kCtrl);
  EXPECT_EQ("T9", title());
  key(Qt::Key_PageDown);
  EXPECT_EQ("T9", title());
  key(Qt::Key_PageUp);
  EXPECT_EQ("T8", title());
  key(Qt::Key_Home, kCtrl);
  EXPECT_EQ("T7", title());
  QTest::mouseClick(part<QPushButton>("cardAfter"), Qt::LeftButton);
  EXPECT_EQ("T8", title());
  QTest::mouseClick(part<QPushButton>("cardBefore"), Qt::LeftButton);
  EXPECT_EQ("T7", title());
  EXPECT_FALSE(part<QPushButton>("cardBefore")->isEnabled());
  // The sheet's commands are about the field that has the keys.
  focus("note");
  EXPECT_EQ("note", sheet()->model().columnName(view().currentIndex().column()).toStdString());
  key(Qt::Key_N, kCtrlShift);
  EXPECT_EQ("edit 7 note=-", staged());
  // To the next that has no value here, over what is staged.
  db.run("UPDATE tree SET note = NULL WHERE tree_id = 9");
  sheet()->refresh();
  ASSERT_TRUE(wait([&] { return settled(); }));
  focus("note");
  key(Qt::Key_Home, kCtrl);
  key(Qt::Key_PageDown, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return title() != "T7"; })) << title();
  EXPECT_TRUE(sheet()->model().cell(view().currentIndex().row(), 5).effective().isNull());
  QTest::mouseClick(part<QPushButton>("cardToSheet"), Qt::LeftButton);
  EXPECT_TRUE(view().isVisible());
}

TEST_F(CardTest, ARecordThatTheSheetDoesNotShowIsShownInOneOfItsOwn) {
  openTable("tree");
  sheet()->scope().setFilter(static_cast<int>(*sheet()->table().columnIndex("condition")), "2");
  ASSERT_TRUE(shows("tag", "T7 T8"));
  const SheetPage* before = sheet();
  key(Qt::Key_F4);
  type("T9");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return sheet() != before && sheet() != nullptr && settled(); }));
  EXPECT_EQ("T9", column("tag"));
  EXPECT_TRUE(message().contains("in one of its own")) << message().toStdString();
}

TEST_F(CardTest, TypingIsTakenBeforeAnythingElse) {
  openForm();
  focus("note");
  type("half");
  key(Qt::Key_F4);  // away from the form while something is typed
  EXPECT_EQ("edit 7 note=half", staged());
  EXPECT_TRUE(view().isVisible());
  openTable("inspection");
  key(Qt::Key_F4);
  type("7");  // a key of two parts: a part of it is none
  ASSERT_TRUE(wait([&] {
    return part<QLabel>("cardFindWords") != nullptr && !sheet()->findChild<QLineEdit*>("cardFind")->text().isEmpty();
  }));
  QTest::qWait(300);
  EXPECT_EQ(1U, counts().edited);
}

TEST_F(CardTest, HouseRulesAreToldWhileOneTypes) {
  keepRule("no fives", "condition < 5", true);
  keepRule("not worse", "condition <= [before condition] or note has a value", false);
  openForm();
  focus("condition");
  type("5");
  auto* reason = part<QLabel>("reason");
  ASSERT_NE(nullptr, reason);
  EXPECT_TRUE(reason->isVisible());
  EXPECT_EQ("It would break the house rule “no fives”: says no fives", reason->text().toStdString());
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Backspace);
  type("1");
  EXPECT_FALSE(reason->isVisible());
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Backspace);
  type("5");
  key(Qt::Key_Return);
  // It is taken, marked, and found; the review stops it.
  EXPECT_EQ("edit 7 condition=5", staged());
  EXPECT_EQ(Mark::Query, sheet()->model().mark(0));
  EXPECT_TRUE(sheet()->model().cell(0, 3).needsALook());
  EXPECT_FALSE(sheet()->model().cell(0, 5).needsALook()) << "the rule does not speak of it";
  EXPECT_TRUE(message().contains("no fives")) << message().toStdString();
  focus("tag");
  key(Qt::Key_End, kCtrl);
  key(Qt::Key_F8);
  EXPECT_EQ("T7", title());
  EXPECT_EQ("field-condition", field());
  type("4");
  key(Qt::Key_Return);
  EXPECT_EQ(Mark::Changed, sheet()->model().mark(0));
  // One that warns is said and marks nothing.
  db.run("UPDATE tree SET note = NULL");
  sheet()->refresh();
  ASSERT_TRUE(wait([&] { return settled(); }));
  focus("condition");
  key(Qt::Key_Home, kCtrl);
  key(Qt::Key_PageDown);
  type("3");
  EXPECT_EQ("The house rule “not worse” warns: says not worse", part<QLabel>("reason")->text().toStdString());
  key(Qt::Key_Return);
  EXPECT_EQ(Mark::Changed, sheet()->model().mark(1));
  // What broke it before just the same is nobody's fault here; a new record is judged by what it holds.
  window->desk()->kept().forgetHouseRule("no fives");
  keepRule("tagged", "tag starts with T or tag no value", true);
  EXPECT_EQ(Mark::Changed, sheet()->model().mark(0));
  key(Qt::Key_N, kCtrl);
  focus("tag");
  type("X1");
  key(Qt::Key_Return);
  EXPECT_EQ(Mark::Query, sheet()->model().mark(sheet()->model().rowCount() - 1));
}

// --- those that point here, in place ---------------------------------------------------------------------------------

class CardChildrenTest : public CardTest {
 protected:
  [[nodiscard]] SheetView* child(const char* table) const {
    for (auto* one : sheet()->findChildren<SheetView*>("childSheet")) {
      if (one->accessibleName().startsWith(QLatin1String(table)) && one->isVisible()) return one;
    }
    return nullptr;
  }
  // What the small sheet shows: columns that are in sight, records parted by "; ".
  [[nodiscard]] std::string rows(const char* table) const {
    const SheetView* one = child(table);
    if (one == nullptr) return "not there";
    QStringList lines;
    for (int r = 0; r < one->model()->rowCount(); ++r) {
      QStringList cells;
      for (int c = 0; c < one->model()->columnCount(); ++c) {
        if (!one->isColumnHidden(c)) cells << one->model()->index(r, c).data().toString();
      }
      lines << cells.join(QLatin1Char(' '));
    }
    return lines.join(QStringLiteral("; ")).toStdString();
  }
  bool showsRows(const char* table, const std::string& wanted) {
    return wait([&] { return rows(table) == wanted; });
  }
  void handsOn(const char* table, int row, int column) const {
    child(table)->setFocus();
    child(table)->goTo(row, column);
  }
  void toggle(const char* table) const {
    for (auto* line : sheet()->findChild<QWidget*>("incoming")->findChildren<QPushButton*>()) {
      if (line->isVisible() && line->text().contains(QLatin1String(table)))
        return QTest::mouseClick(line, Qt::LeftButton);
    }
    FAIL() << table;
  }
};

TEST_F(CardChildrenTest, AreChangedAddedAndRemovedOnTheCard) {
  openForm();
  ASSERT_TRUE(showsRows("inspection", "2025-03-02 sound; 2026-03-02 poor")) << rows("inspection");
  handsOn("inspection", 1, 2);
  type("sound");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 7 grade=sound", staged());
  // The commands go where the keys are.
  key(Qt::Key_Home, kCtrl);
  key(Qt::Key_Delete, kCtrl);
  EXPECT_EQ(1U, counts().removed);
  key(Qt::Key_N, kCtrl);
  EXPECT_EQ("edit 7 grade=sound; remove 7; add tree_id=7", staged());
  type("2026-11-01");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 7 grade=sound; remove 7; add inspected_on=2026-11-01 tree_id=7", staged());
  key(Qt::Key_Z, kCtrl);
  EXPECT_EQ("T7", title()) << "what was taken back is in sight";
  EXPECT_EQ("edit 7 grade=sound; remove 7; add tree_id=7", staged());
  key(Qt::Key_Y, kCtrl);
  // Another record has its own; what is new there is not new here.
  focus("tag");
  key(Qt::Key_PageDown);
  ASSERT_EQ("T8", title());
  ASSERT_TRUE(showsRows("inspection", "")) << rows("inspection");
  key(Qt::Key_PageDown);
  ASSERT_TRUE(showsRows("inspection", "2025-05-05 unknown")) << rows("inspection");
  key(Qt::Key_Home, kCtrl);
  ASSERT_TRUE(wait([&] { return child("inspection")->model()->rowCount() == 3; })) << rows("inspection");
  // A second table by mouse.
  EXPECT_EQ("not there", rows("photo"));
  toggle("photo");
  ASSERT_TRUE(showsRows("photo", "1 crown")) << rows("photo");
  EXPECT_TRUE(child("photo")->hasFocus());
  toggle("photo");
  EXPECT_EQ("not there", rows("photo"));
  // Beside the sheet there is no room for them.
  key(Qt::Key_F4);
  EXPECT_EQ(nullptr, child("inspection"));
  EXPECT_TRUE(wait([&] { return incoming().contains("inspection   2   →"); })) << incoming().toStdString();
}

TEST_F(CardChildrenTest, NewOnesOfANewRecordInOneChangeSet) {
  openForm();
  type("T90");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return !found().empty(); }));
  key(Qt::Key_Return);
  focus("species_id");
  type("2");
  key(Qt::Key_Return);
  ASSERT_TRUE(showsRows("inspection", ""));
  child("inspection")->setFocus();
  key(Qt::Key_N, kCtrl);
  type("2026-11-27");
  key(Qt::Key_Return);
  toggle("photo");
  key(Qt::Key_N, kCtrl);
  key(Qt::Key_N, kCtrl);
  EXPECT_EQ(2, child("photo")->model()->rowCount());
  ASSERT_EQ(4U, counts().added) << staged();
  // The other records of the table know nothing of it.
  focus("tag");
  key(Qt::Key_Home, kCtrl);
  ASSERT_EQ("T7", title());
  ASSERT_TRUE(showsRows("photo", "1 crown")) << rows("photo");
  goToReview();
  ASSERT_TRUE(review()->ready()) << review()->stateInWords().toStdString();
  key(Qt::Key_Return, kCtrlShift);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  const std::string now = db.dump();
  EXPECT_THAT(now, HasSubstr("10|'2026-11-27'|'unknown'")) << now;
  EXPECT_THAT(now, HasSubstr("3|10|NULL")) << now;
  EXPECT_THAT(now, HasSubstr("4|10|NULL")) << now;
}

TEST_F(CardChildrenTest, WhatIsTypedIsNotLostWhenSomethingElseIsRead) {
  openForm();
  ASSERT_TRUE(showsRows("inspection", "2025-03-02 sound; 2026-03-02 poor"));
  handsOn("inspection", 0, 2);
  type("po");
  // Names, rules and counts come and go meanwhile.
  window->desk()->kept().saveHouseRules({});
  QTest::qWait(300);
  QTest::keyClicks(QApplication::focusWidget(), "or");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 7 grade=poor", staged());
  // The review waits for what does not fit.
  key(Qt::Key_Home, kCtrl);
  type("2026-99-99");
  key(Qt::Key_R, kCtrl);
  EXPECT_TRUE(message().contains("inspected_on")) << message().toStdString();
  EXPECT_EQ(sheet(), window->currentSheet());
  key(Qt::Key_Escape);
  EXPECT_EQ("edit 7 grade=poor", staged());
}

TEST_F(CardChildrenTest, CopiesOfRecordsLeaveOutWhatHasToBeAnotherOne) {
  openTable("tree");
  at(0, "note");
  type("newer");
  key(Qt::Key_Return);
  key(Qt::Key_Up);
  key(Qt::Key_Down, Qt::ShiftModifier);
  key(Qt::Key_U, kCtrl);
  EXPECT_EQ(
      "edit 7 note=newer; add condition=2 height=12.5 note=newer species_id=1; add condition=2 height=9 species_id=1",
      staged());
  EXPECT_TRUE(message().contains("tag")) << message().toStdString();
  EXPECT_EQ("tag", sheet()->model().columnName(view().currentIndex().column()).toStdString());
  EXPECT_EQ(3, view().currentIndex().row());
  key(Qt::Key_Z, kCtrl);
  EXPECT_EQ("edit 7 note=newer", staged()) << "one gesture";
}

TEST_F(CardChildrenTest, RecordsAreDuplicatedWithAllThatPointsAtThem) {
  openTable("tree");
  at(0, "note");
  type("newer");
  key(Qt::Key_Return);
  at(0, "note");
  key(Qt::Key_T, Qt::ControlModifier | Qt::AltModifier);
  ASSERT_TRUE(wait([&] { return counts().added == 4; })) << message().toStdString();
  EXPECT_THAT(staged(), HasSubstr("add grade=sound inspected_on=2025-03-02 tree_id="));
  EXPECT_THAT(staged(), HasSubstr("add condition=2 height=12.5 note=newer species_id=1"));
  EXPECT_THAT(message().toStdString(),
              HasSubstr("1 of tree, 2 of inspection, 1 of photo. The review lists them all. Left to be "
                        "filled in: tag of tree."));
  EXPECT_EQ(3, view().currentIndex().row());
  key(Qt::Key_Z, kCtrl);
  EXPECT_EQ(0U, counts().added) << "one gesture";
  key(Qt::Key_Z, kCtrlShift);
  at(3, "tag");
  type("T70");
  key(Qt::Key_Return);
  goToReview();
  ASSERT_TRUE(review()->ready()) << review()->stateInWords().toStdString();
  key(Qt::Key_Return, kCtrlShift);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("T70|newer|2025-03-02|sound\nT70|newer|2026-03-02|poor",
            db.rows("SELECT tag, note, inspected_on, grade FROM tree JOIN inspection USING (tree_id) WHERE tag = 'T70' "
                    "ORDER BY inspected_on"));
}

TEST_F(CardChildrenTest, ATableThatPointsHereTwiceIsThereForEachWay) {
  db.run(
      "CREATE TABLE work (work_id INTEGER PRIMARY KEY, tree_id INTEGER REFERENCES tree, next_to INTEGER REFERENCES "
      "tree);"
      "INSERT INTO work VALUES (1, 7, 8), (2, 8, 7), (3, 9, 7)");
  window.reset();
  start();
  openForm();
  ASSERT_TRUE(wait([&] { return incoming().contains("work by next_to   2"); })) << incoming().toStdString();
  EXPECT_TRUE(incoming().contains("work by tree_id   1")) << incoming().toStdString();
  toggle("work by next_to");
  ASSERT_TRUE(showsRows("work", "2 8; 3 9")) << rows("work");
  // What the record under the hands points at, and back to the card.
  handsOn("work", 1, 1);
  key(Qt::Key_F7);
  ASSERT_TRUE(shows("tag", "T9"));
  key(Qt::Key_F7, Qt::ShiftModifier);
  // What it points at has its name now.
  ASSERT_TRUE(wait([&] { return line()->isVisible() && rows("work") == "2 T8; 3 T9"; })) << rows("work");
  ASSERT_EQ("T7", title());
  child("work")->setFocus();
  key(Qt::Key_N, kCtrl);
  EXPECT_EQ("add next_to=7", staged());
}

}  // namespace
}  // namespace iterandum::test
