// On paper from the window: the pages before they are written, forms that are kept, what would change and what was
// changed as pages.
#include <QCheckBox>
#include <QComboBox>
#include <QPrinter>

#include "app/files_fixture.h"
#include "app/history/history_page.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

class WindowPaperTest : public WindowFilesTest {
 protected:
  [[nodiscard]] std::string words() const { return part<QLabel>("printWords")->text().toStdString(); }
  void choose(const char* name, const char* choice) const {
    auto* combo = part<QComboBox>(name);
    ASSERT_GE(combo->findText(choice), 0) << choice;
    combo->setCurrentIndex(combo->findText(choice));
  }
  bool isSet(const std::string& said) {
    return wait([&] { return part<QPushButton>("printWrite")->isEnabled() && words() == said; });
  }
  std::string textOf(const char* name) const {
    const std::string call = "pdftotext -layout '" + db.file(name) + "' '" + db.file("text") + "'";
    return std::system(call.c_str()) == 0 ? read("text") : "no PDF";
  }
  // Ctrl+P, the dialog answered; the file is there.
  void printTo(const char* name) {
    answerWith(db.file(name));
    key(Qt::Key_P, kCtrl);
    ASSERT_TRUE(wait([&] { return QFile::exists(QString::fromStdString(db.file(name))); })) << message().toStdString();
    comeBack();
  }
};

TEST_F(WindowPaperTest, ChosenColumnsInAHiddenOrderInFewActs) {
  openTable("tree");
  // A scope whose order is by a column that is not shown.
  SheetLook look;
  look.scope.table = "tree";
  look.scope.columns = {"tag", "species_id"};
  look.scope.order = {{"height", true}};
  window->openScope(look.scope);
  ASSERT_TRUE(shows("tag", "T9 T7 T8"));
  key(Qt::Key_P, kCtrl);
  ++acts;
  ASSERT_TRUE(isSet("1 page.")) << words();
  EXPECT_FALSE(view().isVisible()) << "pages are in the place of the sheet";
  EXPECT_EQ(1, sheet()->findChildren<QLabel*>("printedPage").size());
  answerWith(db.file("out.pdf"));
  key(Qt::Key_Return, kCtrl);
  ++acts;
  ASSERT_TRUE(wait([&] { return message().contains("3 records on the pages of"); })) << message().toStdString();
  EXPECT_LE(acts + 2, 8);
  EXPECT_TRUE(view().isVisible());
  const std::string text = textOf("out.pdf");
  EXPECT_LT(text.find("T9"), text.find("T7"));
  EXPECT_LT(text.find("T7"), text.find("T8"));
  EXPECT_THAT(text, HasSubstr("lime"));
  EXPECT_THAT(text, Not(HasSubstr("20.25"))) << "the order's column is not printed";
}

TEST_F(WindowPaperTest, ExportsHoldWhatIsStoredOrWhatIsShown) {
  openTable("tree");
  answerWith(db.file("stored.csv"));
  key(Qt::Key_E, kCtrlAlt);
  ASSERT_TRUE(wait([&] { return QFile::exists(QString::fromStdString(db.file("stored.csv"))); }));
  EXPECT_THAT(read("stored.csv"), HasSubstr("7,T7,1,"));
  comeBack();
  answerWith(db.file("shown.csv"));
  key(Qt::Key_K, kCtrl);
  type("Export it with names");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return QFile::exists(QString::fromStdString(db.file("shown.csv"))); }));
  EXPECT_THAT(read("shown.csv"), HasSubstr("7,T7,lime,"));
}

// A printer of the desktop, whose paper is a file here.
TEST_F(WindowPaperTest, APrinterGetsThePagesThatWereShown) {
  openTable("tree");
  key(Qt::Key_P, kCtrl);
  ASSERT_TRUE(isSet("1 page.")) << words();
  auto printer = std::make_shared<QPrinter>();
  printer->setOutputFormat(QPrinter::PdfFormat);
  printer->setOutputFileName(QString::fromStdString(db.file("printed.pdf")));
  sheet()->printPages(printer);
  printer.reset();
  ASSERT_TRUE(wait([&] { return message().contains("3 records printed."); })) << message().toStdString();
  ASSERT_TRUE(wait([&] { return textOf("printed.pdf").find("T9") != std::string::npos; }));
  EXPECT_THAT(textOf("printed.pdf"), HasSubstr("lime"));
  EXPECT_TRUE(view().isVisible());
}

// Two of three records, in the sheet's order and with a column of other records, whose own key is not shown.
TEST_F(WindowPaperTest, OnlyTheSelectedRecordsAreExportedWhereThatIsAskedFor) {
  openTable("tree");
  SheetLook look;
  look.scope.table = "tree";
  look.scope.columns = {"tag", "species_id", "species_id.name"};
  look.scope.order = {{"height", true}};
  window->openScope(look.scope);
  ASSERT_TRUE(shows("tag", "T9 T7 T8"));
  at(0, "tag");
  key(Qt::Key_Down, Qt::ShiftModifier);
  const auto exported = [&](const char* command, const char* name) {
    answerWith(db.file(name));
    key(Qt::Key_K, kCtrl);
    type(command);
    key(Qt::Key_Return);
    EXPECT_TRUE(wait([&] { return QFile::exists(QString::fromStdString(db.file(name))); })) << message().toStdString();
    EXPECT_TRUE(wait([&] { return message().contains("2 records written to"); })) << message().toStdString();
    comeBack();
    return read(name);
  };
  EXPECT_EQ("tag,species_id,species_id.name\r\nT9,2,oak\r\nT7,1,lime\r\n",
            exported("Export only the selected records", "stored.csv"));
  EXPECT_THAT(exported("selected records, with names", "shown.csv"), HasSubstr("T9,oak,oak\r\nT7,lime,lime"));
  // A new record is in no database yet.
  key(Qt::Key_N, kCtrl);
  ASSERT_TRUE(wait([&] { return counts().added == 1; }));
  answerWith(db.file("new.csv"));
  key(Qt::Key_K, kCtrl);
  type("Export only the selected records");
  key(Qt::Key_Return);
  ASSERT_TRUE(wait([&] { return message().contains("are not in the database yet"); })) << message().toStdString();
  EXPECT_FALSE(QFile::exists(QString::fromStdString(db.file("new.csv"))));
}

TEST_F(WindowPaperTest, WhatIsChosenIsSeenAtOnceAndKeptUnderItsName) {
  openTable("tree");
  key(Qt::Key_P, kCtrl);
  ASSERT_TRUE(isSet("1 page.")) << words();
  choose("printKind", "cards");
  part<QCheckBox>("printCardAPage")->setChecked(true);
  ASSERT_TRUE(isSet("3 pages.")) << words();
  choose("printKind", "labels");
  EXPECT_FALSE(part<QComboBox>("printGroup")->isVisible());
  choose("printAcross", "1");
  choose("printDown", "2");
  ASSERT_TRUE(isSet("2 pages.")) << words();
  part<QLineEdit>("printName")->setText("two a page");
  answerWith(db.file("out.pdf"));
  ASSERT_TRUE(isSet("2 pages."));
  QTest::mouseClick(part<QPushButton>("printWrite"), Qt::LeftButton);
  ASSERT_TRUE(wait([&] { return message().contains("on the pages of"); })) << message().toStdString();
  // The next time, and in another window.
  window.reset();
  start();
  openTable("tree");
  key(Qt::Key_P, kCtrl);
  ASSERT_TRUE(isSet("1 page.")) << words();
  auto* kept = part<QComboBox>("printKept");
  ASSERT_TRUE(kept->isVisible());
  kept->setCurrentIndex(kept->findText("two a page"));
  emit kept->activated(kept->currentIndex());
  ASSERT_TRUE(isSet("2 pages.")) << words();
  EXPECT_EQ("labels", part<QComboBox>("printKind")->currentText().toStdString());
  part<QComboBox>("printKind")->setFocus();
  key(Qt::Key_Escape);
  EXPECT_TRUE(view().isVisible());
  EXPECT_FALSE(part<QWidget>("printPreview")->isVisible());
}

TEST_F(WindowPaperTest, WhatWouldChangeAndWhatWasChangedArePages) {
  openTable("tree");
  at(0, "condition");
  type("4");
  key(Qt::Key_Return);
  goToReview();
  ASSERT_TRUE(wait([&] { return review()->ready(); })) << message().toStdString();
  printTo("would.html");
  EXPECT_THAT(read("would.html"), HasSubstr("<td>7 <b>T7</b></td><td>2</td><td>4</td>"));
  printTo("would.pdf");
  EXPECT_THAT(textOf("would.pdf"), HasSubstr("Looked through by"));
  answerWith(db.file("would.doc"));
  key(Qt::Key_P, kCtrl);
  EXPECT_TRUE(message().contains("The ending says which form")) << message().toStdString();
  comeBack();
  review()->apply();
  ASSERT_TRUE(wait([&] { return !window->desk()->applying().running() && changes().empty(); }));
  key(Qt::Key_H, kCtrl);
  auto* history = window->findChild<HistoryPage*>();
  ASSERT_TRUE(wait([&] { return history->canTakeBack(); }));
  printTo("was.html");
  EXPECT_THAT(read("was.html"), HasSubstr("tree: 1 record changed"));
  EXPECT_THAT(read("was.html"), HasSubstr("<td>condition</td><td>2</td><td>4</td>"));
  printTo("was.json");
  EXPECT_TRUE(readReceiptJson(read("was.json")));
}

}  // namespace
}  // namespace iterandum::test
