// Lenses in the window: what is shown and typed goes through them; what is staged, kept and asked of the database is
// what is stored.
#include <QComboBox>
#include <QPlainTextEdit>
#include <fstream>
#include <random>

#include "app/file_dialog.h"
#include "app/scope_fixture.h"
#include "core/catalogue/column_rules.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

class WindowLensTest : public SheetScopeTest {
 protected:
  void SetUp() override {
    QCoreApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
    db.run(
        "CREATE TABLE bed (bed_id INTEGER PRIMARY KEY, watering_every_s INTEGER, felled TEXT, secret TEXT, girth_mm "
        "INTEGER, seen_at INTEGER);"
        "INSERT INTO bed VALUES (1, 345600, 'Y', 'blue', 1240, 1795615500), (2, 345600, 'N', 'red', 900, NULL),"
        " (3, 86400, 'yes', NULL, 15, 0), (4, NULL, 'Y', 'blue', NULL, 1795615501)");
    SheetScopeTest::SetUp();
    openTable("bed");
  }
  void put(Lens lens) const {
    lens.table = "bed";
    window->desk()->kept().saveLenses({lens});
  }
  void putLabels() const {
    Lens labels;
    labels.kind = LensKind::Labels;
    labels.column = "felled";
    labels.labels = {{"Y", "yes"}, {"N", "no"}};
    put(labels);
  }
  void putDuration() const {
    Lens lens;
    lens.kind = LensKind::Duration;
    lens.column = "watering_every_s";
    put(lens);
  }
  [[nodiscard]] std::string filters() const {
    std::string out;
    for (const ScopeFilter& filter : sheet()->scope().scope().filters)
      out += (out.empty() ? "" : "; ") + filter.column + ": " + filter.condition;
    return out;
  }
  void filter(const char* name, const char* text) {
    at(0, name);
    key(Qt::Key_L, kCtrl);
    key(Qt::Key_A, kCtrl);
    type(text);
    key(Qt::Key_Return);
  }
};

// All four-day intervals to five days, from a column of seconds, with six acts.
TEST_F(WindowLensTest, FourDaysBecomeFiveThroughTheLens) {
  at(0, "watering_every_s");
  key(Qt::Key_F9);  // 1: the lens that its name speaks for
  EXPECT_EQ("345600 345600 86400 no value", column("watering_every_s")) << "nothing is put on unasked";
  key(Qt::Key_Return, kCtrl);  // 2
  EXPECT_EQ("4 d 4 d 1 d no value", column("watering_every_s"));
  EXPECT_TRUE(view().hasFocus());
  key(Qt::Key_V, kCtrlAlt);  // 3: only this value
  ASSERT_TRUE(shows("bed_id", "1 2")) << sentence();
  EXPECT_THAT(sentence(), HasSubstr("watering_every_s is 4 d"));
  key(Qt::Key_Space, kCtrl);   // 4: the column
  type("5 d");                 // 5
  key(Qt::Key_Return, kCtrl);  // 6
  ASSERT_TRUE(wait([&] { return counts().edited == 2; }));
  EXPECT_EQ("edit 1 watering_every_s=432000; edit 2 watering_every_s=432000", staged());
  EXPECT_EQ("watering_every_s: is 345600", filters()) << "what is kept of the sentence is what is stored";
  goToReview();
  EXPECT_THAT(review()->findChild<QLabel*>("groupHeading")->text().toStdString(),
              HasSubstr("4 d (345600) to 5 d (432000)"));
}

TEST_F(WindowLensTest, WhatIsTypedIsReadThroughItOrRefused) {
  putDuration();
  at(0, "watering_every_s");
  type("5");
  key(Qt::Key_Return);
  EXPECT_TRUE(changes().empty()) << staged();
  key(Qt::Key_Escape);
  at(2, "watering_every_s");
  type("36 h");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 3 watering_every_s=129600", staged());
  EXPECT_EQ("4 d 4 d 1 d 12 h no value", column("watering_every_s"));
  // As it lies there.
  at(3, "watering_every_s");
  type("stored 60");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 3 watering_every_s=129600; edit 4 watering_every_s=60", staged());
  // Opened and left: nothing is changed by looking.
  at(0, "watering_every_s");
  key(Qt::Key_F2);
  key(Qt::Key_Return);
  EXPECT_EQ(2U, counts().edited);
  // Pasted: each line through it, what does not fit stays with its reason.
  at(0, "watering_every_s");
  QApplication::clipboard()->setText("2 d\n1:30\n7\n");
  key(Qt::Key_V, kCtrl);
  ASSERT_TRUE(wait([&] { return staged().find("edit 2 ") != std::string::npos; })) << message().toStdString();
  EXPECT_EQ(
      "edit 3 watering_every_s=129600; edit 4 watering_every_s=60; edit 1 watering_every_s=172800; edit 2 "
      "watering_every_s=5400",
      staged());
  EXPECT_THAT(sheet()->model().cell(2, 1).wrongBecause.toStdString(), HasSubstr("7 of what?"));
  // Copied as shown, and as stored where that is asked for.
  at(1, "watering_every_s");
  key(Qt::Key_C, kCtrl);
  EXPECT_EQ("1 h 30 min", QApplication::clipboard()->text().toStdString());
  key(Qt::Key_C, kCtrlAlt);
  EXPECT_EQ("5400", QApplication::clipboard()->text().toStdString());
}

TEST_F(WindowLensTest, ManyAtOnceIsSaidThroughItToo) {
  putDuration();
  at(0, "watering_every_s");
  key(Qt::Key_M, kCtrl);
  auto* value = sheet()->findChild<QLineEdit*>("actValue");
  ASSERT_NE(nullptr, value);
  value->setFocus();
  auto* stage = sheet()->findChild<QPushButton*>("actStage");
  ASSERT_NE(nullptr, stage);
  type("5");
  QTest::qWait(400);
  EXPECT_FALSE(stage->isEnabled()) << "five of what";
  type(" d");
  ASSERT_TRUE(wait([&] { return stage->isEnabled(); }));
  QTest::mouseClick(stage, Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return !changes().empty(); }));
  EXPECT_THAT(staged(), HasSubstr("watering_every_s=432000"));
  EXPECT_THAT(staged(), Not(HasSubstr("watering_every_s=5 ")));
}

// A value that lies there and reads like a label is told from what has that label.
TEST_F(WindowLensTest, AStoredValueLikeALabelIsNotTheLabel) {
  putLabels();
  EXPECT_EQ("yes no stored yes yes", column("felled"));
  filter("felled", "yes");
  ASSERT_TRUE(shows("bed_id", "1 4")) << sentence();
  EXPECT_EQ("felled: is Y", filters());
  filter("felled", "stored yes");
  ASSERT_TRUE(shows("bed_id", "3")) << sentence();
  EXPECT_EQ("felled: is yes", filters());
  EXPECT_THAT(sentence(), HasSubstr("felled is 'stored ''yes'''"));
  // And by the offers and the values beside.
  key(Qt::Key_F, kCtrlShift);
  ASSERT_TRUE(shows("bed_id", "1 2 3 4"));
  at(2, "felled");
  key(Qt::Key_V, kCtrlAlt);
  ASSERT_TRUE(shows("bed_id", "3")) << sentence();
  key(Qt::Key_W, kCtrlAlt);
  ASSERT_TRUE(shows("bed_id", "")) << sentence();
  key(Qt::Key_F, kCtrlShift);
  ASSERT_TRUE(shows("bed_id", "1 2 3 4"));
  at(1, "felled");
  key(Qt::Key_F2);
  auto* choices = window->findChild<QListWidget*>("choices");
  ASSERT_NE(nullptr, choices);
  EXPECT_EQ("yes", choices->item(0)->text().toStdString());
  key(Qt::Key_A, kCtrl);
  type("yes");
  key(Qt::Key_Return);
  EXPECT_EQ("edit 2 felled=Y", staged());
}

// One spelling for several, where a value that lies there reads like a label.
TEST_F(WindowLensTest, SpellingsAreThoseThatLieThere) {
  db.run("INSERT INTO bed (bed_id, felled) VALUES (5, 'Yes'), (6, 'yes ')");
  sheet()->refresh();
  ASSERT_TRUE(wait([&] { return settled() && sheet()->model().rowCount() == 6; }));
  putLabels();
  at(0, "felled");
  key(Qt::Key_D, kCtrlShift);
  auto* values = sheet()->findChild<QListWidget*>("values");
  const auto lineWith = [&](const char* text) -> QListWidgetItem* {
    for (int i = 0; i < values->count(); ++i) {
      if (values->item(i)->text().contains(QString::fromUtf8(text))) return values->item(i);
    }
    return nullptr;
  };
  ASSERT_TRUE(wait([&] { return lineWith("all become") != nullptr; }));
  values->setCurrentItem(lineWith("all become “stored Yes”"));
  ASSERT_NE(nullptr, values->currentItem());
  emit values->itemActivated(values->currentItem());
  auto* stage = sheet()->findChild<QPushButton*>("actStage");
  ASSERT_TRUE(wait([&] { return stage->isEnabled(); }));
  QTest::mouseClick(stage, Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return !changes().empty(); }));
  EXPECT_THAT(staged(), Not(HasSubstr("edit 1 "))) << "what has the label is not meant: " << staged();
  EXPECT_EQ("edit 3 felled=Yes; edit 6 felled=Yes", staged()) << "a blank at the end is a spelling too";
}

TEST_F(WindowLensTest, FoundByWhatIsRead) {
  putDuration();
  at(0, "watering_every_s");
  key(Qt::Key_F, kCtrl);
  type("1 d");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return view().currentIndex().row() == 2; })) << answer();
  key(Qt::Key_A, kCtrl);
  type("7");
  key(Qt::Key_Return);
  EXPECT_THAT(answer(), HasSubstr("7 of what?"));
}

TEST_F(WindowLensTest, TheSentenceStaysTheSameRecordsWhenTheLensChanges) {
  filter("watering_every_s", "< 345600");
  ASSERT_TRUE(shows("bed_id", "3"));
  putDuration();
  EXPECT_THAT(sentence(), HasSubstr("watering_every_s is below 4 d"));
  EXPECT_EQ("is below 4 d", view().head().filter(1).toStdString());
  EXPECT_EQ("watering_every_s: is below 345600", filters());
  filter("watering_every_s", ">= 4 d or no value");
  ASSERT_TRUE(shows("bed_id", "1 2 4")) << sentence();
  window->desk()->kept().forgetLens("bed", "watering_every_s");
  EXPECT_THAT(sentence(), HasSubstr("watering_every_s is 345600 or more or watering_every_s has no value"));
  sheet()->refresh();
  ASSERT_TRUE(shows("bed_id", "1 2 4")) << sentence();
  // What cannot be read stays as it was typed, and says what is wanted.
  putDuration();
  filter("watering_every_s", "> 4 x");
  ASSERT_TRUE(wait([&] { return sheet()->findChild<QLabel*>("problem")->isVisible(); }));
  EXPECT_THAT(sheet()->findChild<QLabel*>("problem")->text().toStdString(),
              HasSubstr("a stretch of time is wanted in watering_every_s"));
}

// What cannot be read through the lens never becomes a filter on what is stored: not in a file, a rule, or next time.
TEST_F(WindowLensTest, WhatCannotBeReadThroughItIsReadNowhere) {
  putDuration();
  filter("watering_every_s", "> 2 d");
  ASSERT_TRUE(shows("bed_id", "1 2")) << sentence();
  filter("watering_every_s", "> 5");
  ASSERT_TRUE(wait([&] { return sheet()->findChild<QLabel*>("problem")->isVisible(); }));
  EXPECT_EQ("1 2", column("bed_id")) << "five of what: it changes nothing";
  view().setFocus();
  key(Qt::Key_X, kCtrlShift);
  EXPECT_TRUE(message().contains("The sentence cannot be read")) << message().toStdString();
  sheet()->exportRecords(QString::fromStdString(db.file("out.csv")), "csv");
  EXPECT_TRUE(message().contains("the sentence cannot be read")) << message().toStdString();
  EXPECT_FALSE(QFile::exists(QString::fromStdString(db.file("out.csv"))));
  window.reset();
  start();
  // It is not read before it is put right.
  window->openTable({"", "bed"});
  ASSERT_TRUE(wait([&] { return sheet() != nullptr && sheet()->findChild<QLabel*>("problem")->isVisible(); }));
  EXPECT_EQ("> 5", view().head().filter(1).toStdString()) << "nothing that was typed is lost";
}

TEST_F(WindowLensTest, WhatIsMaskedIsShownOnDemandAndNeverCopied) {
  Lens mask;
  mask.column = "secret";
  put(mask);
  EXPECT_THAT(column("secret"), Not(HasSubstr("blue")));
  at(0, "secret");
  key(Qt::Key_C, kCtrl);
  EXPECT_THAT(QApplication::clipboard()->text().toStdString(), Not(HasSubstr("blue")));
  key(Qt::Key_V, kCtrl);
  EXPECT_TRUE(changes().empty()) << "dots are no value: " << staged();
  sheet()->model().forgetWrong(sheet()->model().index(0, 3));
  filter("secret", "= blue");
  ASSERT_TRUE(shows("bed_id", "1 4")) << sentence();
  key(Qt::Key_K, kCtrl);
  choose("Show what is masked");
  EXPECT_EQ("blue blue", column("secret"));
  key(Qt::Key_K, kCtrl);
  choose("Show what is masked");
  EXPECT_THAT(column("secret"), Not(HasSubstr("blue")));
}

// Neither by the names of what is pointed at, nor in what goes on receipts.
TEST_F(WindowLensTest, WhatIsMaskedIsNotSaidElsewhereEither) {
  openTable("tree");
  ASSERT_TRUE(wait([&] { return column("species_id") == "lime lime oak"; })) << column("species_id");
  Lens mask;
  mask.table = "species";
  mask.column = "name";
  window->desk()->kept().saveLenses({mask});
  EXPECT_TRUE(wait([&] { return column("species_id") == "1 1 2"; })) << column("species_id");
  window->openTable({"", "species"});
  ASSERT_TRUE(wait([&] { return settled() && sheet()->table().name.name == "species"; }));
  at(0, "name");
  key(Qt::Key_F2);
  key(Qt::Key_A, kCtrl);
  type("beech");
  key(Qt::Key_Return);
  ASSERT_EQ("edit 1 name=beech", staged());
  EXPECT_THAT(changes().lastGesture().title, Not(HasSubstr("beech")));
  EXPECT_THAT(changes().lastGesture().title, Not(HasSubstr("lime"))) << changes().lastGesture().title;
  goToReview();
  EXPECT_THAT(review()->findChild<QLineEdit*>("reviewTitle")->placeholderText().toStdString(), Not(HasSubstr("beech")));
  EXPECT_THAT(review()->findChild<QLabel*>("groupRecords")->text().toStdString(), Not(HasSubstr("beech")));
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  key(Qt::Key_Return, kCtrlShift);
  ASSERT_TRUE(wait([&] { return changes().empty() && sheet() != nullptr; }));
  key(Qt::Key_H, kCtrl);
  ASSERT_TRUE(wait([&] { return window->findChild<QLabel*>("receiptRecordHead") != nullptr; }));
  for (const char* part : {"receiptRecordHead", "receiptRecordCells"}) {
    const std::string said = window->findChild<QLabel*>(part)->text().toStdString();
    EXPECT_THAT(said, Not(HasSubstr("beech")));
    EXPECT_THAT(said, Not(HasSubstr("lime")));
  }
  // On demand all of it comes back.
  openTable("tree");
  window->desk()->lenses().setUnmasked(true);
  EXPECT_TRUE(wait([&] { return column("species_id") == "beech beech oak"; })) << column("species_id");
}

TEST_F(WindowLensTest, LensesAreKeptAndGoByFile) {
  at(0, "girth_mm");
  key(Qt::Key_F9);
  auto* words = sheet()->findChild<QLabel*>("lensWords");
  sheet()->findChild<QLineEdit*>("lensFactor")->setText("x");
  EXPECT_THAT(words->text().toStdString(), HasSubstr("a factor is a number that is not nought"));
  EXPECT_FALSE(sheet()->findChild<QPushButton*>("lensTake")->isEnabled());
  sheet()->findChild<QLineEdit*>("lensFactor")->setText("0.001");
  QTest::mouseClick(sheet()->findChild<QPushButton*>("lensTake"), Qt::LeftButton);
  EXPECT_EQ("1.24 m 0.9 m 0.015 m no value", column("girth_mm"));
  filter("girth_mm", "> 0.9");
  ASSERT_TRUE(shows("bed_id", "1")) << sentence();
  EXPECT_EQ("girth_mm: is above 900", filters());
  answerWith(db.file("lenses.json"));
  key(Qt::Key_K, kCtrl);
  choose("Export the lenses");
  ASSERT_TRUE(wait([&] { return message().contains("Written to"); })) << message().toStdString();
  window.reset();
  start();
  openTable("bed");
  EXPECT_EQ("1.24 m", column("girth_mm")) << "kept for the next time, and so is the filter";
  EXPECT_EQ("is above 0.9 m", view().head().filter(4).toStdString());
  sheet()->clearFilters();
  ASSERT_TRUE(shows("girth_mm", "1.24 m 0.9 m 0.015 m no value"));
  window->desk()->kept().forgetLens("bed", "girth_mm");
  EXPECT_EQ("1240 900 15 no value", column("girth_mm"));
  answerWith(db.file("lenses.json"));
  key(Qt::Key_K, kCtrl);
  choose("Import lenses");
  ASSERT_TRUE(wait([&] { return message().contains("taken over"); })) << message().toStdString();
  EXPECT_EQ("1.24 m 0.9 m 0.015 m no value", column("girth_mm"));
  // One for what is not there is kept, and said.
  std::ofstream(db.file("other.json")) << R"({"format": "iterandum-lenses", "version": 1, "lenses": [
    {"table": "bush", "column": "x", "kind": "masked"}]})";
  answerWith(db.file("other.json"));
  comeBack();
  key(Qt::Key_K, kCtrl);
  choose("Import lenses");
  ASSERT_TRUE(wait([&] { return message().contains("bush.x: there is no such column"); })) << message().toStdString();
  EXPECT_EQ(2U, window->desk()->lenses().all().size());
}

// Whatever is asked through lenses: said through them and typed again, it is the same.
TEST_F(WindowLensTest, ConditionsThroughLensesAreTheSameWhenTypedAgain) {
  putDuration();
  putLabels();
  Lens metres;
  metres.kind = LensKind::Factor;
  metres.column = "girth_mm";
  metres.factor = "0.001";
  metres.behind = "m";
  put(metres);
  Lens moment;
  moment.kind = LensKind::Moment;
  moment.column = "seen_at";
  put(moment);
  const Lenses& lenses = window->desk()->lenses();
  const Table& table = sheet()->table();
  const ConditionContext stored = window->desk()->conditions();
  const ConditionContext typed = lenses.typed(stored);
  std::mt19937 random(7);
  const std::vector<std::string> values{"345600", "1", "-5", "1795615500", "86399", "no value", "stored"};
  const std::vector<std::string> texts{"'Y'",     "'N'",        "'yes'",    "'no value'",
                                       "'it''s'", "'stored x'", "no value", "'and'"};
  const auto leaf = [&]() -> std::string {
    if (random() % 3 == 0) {
      const std::string text = texts[random() % texts.size()];
      return "felled " + std::string(random() % 2 == 0 ? "= " : "is not ") + text;
    }
    const char* columns[] = {"watering_every_s", "girth_mm", "seen_at", "bed_id"};
    const std::string value = values[random() % 6];
    const std::string name = columns[random() % 4];
    if (value == "no value") return name + " = no value";
    switch (random() % 4) {
      case 0:
        return name + " between " + value + " and " + values[random() % 5];
      case 1:
        return name + " in (" + value + ", " + values[random() % 5] + ")";
      default:
        const char* signs[] = {"=", "<", ">=", "!="};
        return name + " " + signs[random() % 4] + " " + value;
    }
  };
  for (int round = 0; round < 1000; ++round) {
    std::string text = leaf();
    for (unsigned more = random() % 3; more > 0; --more) text += (random() % 2 == 0 ? " and " : " or ") + leaf();
    const auto meant = parseCondition(table, text, stored);
    ASSERT_TRUE(meant) << text << ": " << meant.error().text();
    const std::string said = conditionInWords(table, *meant, lenses.worded({}));
    const auto again = parseCondition(table, said, typed);
    ASSERT_TRUE(again) << text << " said " << said << ": " << again.error().text();
    ASSERT_EQ(conditionInWords(table, *meant), conditionInWords(table, *again)) << said;
  }
}

}  // namespace
}  // namespace iterandum::test
