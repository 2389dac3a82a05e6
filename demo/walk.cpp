// quillhaven_walk: goes the whole way through the real window by key and mouse, as a data steward would, says what it
// does, and leaves pictures. It is the demonstration without a screen, and the maker of the pictures in the documents.
#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTest>
#include <cstdio>

#include "app/catalogue/catalogue_page.h"
#include "app/history/history_page.h"
#include "app/review/review_page.h"
#include "app/sheet/sheet_page.h"
#include "app/style/roles.h"
#include "app/window/main_window.h"

namespace iterandum {
namespace {

int keystrokes = 0;

class Walk {
 public:
  Walk(MainWindow& window, QString pictures) : window_(window), pictures_(std::move(pictures)) {}

  bool run(const QString& database) {
    return open(database) && lookAround() && filterAndCorrect() && addAndRemove() && review() && apply() && takeBack();
  }

 private:
  static void tell(const QString& text) {
    std::printf("%s\n", text.toUtf8().constData());
    std::fflush(stdout);
  }
  [[nodiscard]] QWidget* target() const {
    return QApplication::focusWidget() != nullptr ? QApplication::focusWidget() : &window_;
  }

  void key(Qt::Key k, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    ++keystrokes;
    QTest::keyClick(target(), k, modifiers);
    QCoreApplication::processEvents();
  }
  void type(const QString& text) {
    for (const QChar c : text) {
      ++keystrokes;
      QTest::keyClick(target(), c.toLatin1());
    }
    QCoreApplication::processEvents();
  }
  void picture(const char* name) {
    if (pictures_.isEmpty()) return;
    QTest::qWait(350);
    window_.grab().save(pictures_ + QLatin1Char('/') + QLatin1String(name) + QStringLiteral(".png"));
  }
  template <typename Condition>
  bool wait(const char* what, Condition condition) {
    if (QTest::qWaitFor(condition, 20000)) return true;
    tell(QStringLiteral("did not happen: %1").arg(QLatin1String(what)));
    window_.grab().save(QDir::temp().filePath(QStringLiteral("iterandum-walk-failed.png")));
    return false;
  }
  [[nodiscard]] SheetPage* sheet() const { return window_.currentSheet(); }
  bool settled() {
    return wait("the sheet is read", [this] {
      return sheet() != nullptr && sheet()->model().source().complete() && !sheet()->model().source().reading();
    });
  }

  // Not on the way: what trying an address out says when nobody listens there. Its keys are not counted.
  bool tryAServer() {
    const int before = keystrokes;
    tell(QStringLiteral("Try a server that is not there; the step that fails is said."));
    type("postgresql://steward@127.0.0.1:1/trees?sslmode=verify-full");
    key(Qt::Key_T, Qt::ControlModifier | Qt::ShiftModifier);
    auto* trial = window_.findChild<QLabel*>("trial");
    if (!wait("the trial ends", [&] { return trial->text().contains(QStringLiteral("<table")); })) return false;
    picture("connect");
    key(Qt::Key_A, Qt::ControlModifier);
    keystrokes = before;
    return true;
  }

  // Calls the database "trial", so that nobody takes it for the live one. Its keys are not counted.
  void mark() {
    const int before = keystrokes;
    key(Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
    for (const QChar c : QStringLiteral("trial")) QTest::keyClick(target(), c.toLatin1());
    key(Qt::Key_Return);
    keystrokes = before;
  }

  bool open(const QString& database) {
    tell(QStringLiteral("Open the register of Quillhaven."));
    picture("start");
    if (!tryAServer()) return false;
    pathKeystrokes_ = static_cast<int>(database.size());
    type(database);
    key(Qt::Key_Return);
    if (!wait("the database is open", [this] { return window_.desk() != nullptr; })) return false;
    QTest::qWait(400);
    mark();
    tell(QStringLiteral("Find the table of trees by typing part of its name."));
    type("tree");
    key(Qt::Key_Return);
    if (!wait("the sheet is open", [this] { return sheet() != nullptr; }) || !settled()) return false;
    tell(QStringLiteral("  %1 trees.").arg(sheet()->model().rowCount()));
    return true;
  }

  void goToColumn(const char* name) {
    const auto column = sheet()->table().columnIndex(name);
    while (sheet()->view().currentIndex().column() != static_cast<int>(*column)) key(Qt::Key_Tab);
  }

  // It is there next month, by its name.
  void saveTheScope() {
    tell(QStringLiteral("Keep this scope under a name; it stands on the catalogue page from now on."));
    key(Qt::Key_K, Qt::ControlModifier | Qt::AltModifier);
    type("Failing oaks not seen this year");
    key(Qt::Key_Return);
    QTest::qWait(200);
    key(Qt::Key_T, Qt::ControlModifier);
    key(Qt::Key_Delete);
    key(Qt::Key_Period, Qt::ControlModifier);
    picture("catalogue");
    key(Qt::Key_PageDown, Qt::ControlModifier);
  }

  bool changeTheSentence() {
    tell(QStringLiteral("Change a phrase of the sentence in place; the values there are stand below it."));
    key(Qt::Key_J, Qt::ControlModifier);
    key(Qt::Key_Return);
    auto* offers = sheet()->findChild<QListWidget*>("phraseOffers");
    if (!wait("the values are offered", [&] { return offers->count() > 2; })) return false;
    picture("sentence");
    key(Qt::Key_Escape);
    key(Qt::Key_Escape);
    return true;
  }

  bool borrowAColumn() {
    tell(QStringLiteral("Borrow what the species are called; a change there is said to be one in all trees of it."));
    goToColumn("species_id");
    key(Qt::Key_B, Qt::ControlModifier);
    type("species.common_name");
    key(Qt::Key_Return);
    const auto read = [this] {
      const QModelIndex current = sheet()->view().currentIndex();
      return sheet()->model().cell(current.row(), current.column()).loaded;
    };
    if (!wait("the column is read", read)) return false;
    key(Qt::Key_F2);
    const auto others = [this] {
      auto* label = window_.findChild<QLabel*>("others");
      return label == nullptr ? QString() : label->text();
    };
    if (!wait("it is counted", [&] { return others().contains(QStringLiteral("This changes")); })) return false;
    tell(QStringLiteral("  ") + others());
    key(Qt::Key_Escape);
    return true;
  }

  bool seeTheSpread() {
    tell(QStringLiteral("See when trees were planted; what lies outside is seen at once."));
    key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    if (!settled()) return false;
    goToColumn("planted");
    key(Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
    auto* chart = sheet()->findChild<QWidget*>("histogram");
    if (!wait("the bars are drawn", [&] { return chart->isVisible(); })) return false;
    key(Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
    key(Qt::Key_Escape);
    while (!sheet()->model().isBorrowed(sheet()->view().currentIndex().column())) key(Qt::Key_Tab);
    key(Qt::Key_H, Qt::ControlModifier | Qt::ShiftModifier);
    return true;
  }

  // One word in all streets; the proof is read, and nothing is staged.
  bool changeMany() {
    tell(QStringLiteral("Replace a word in all streets at once, and read the proof of it."));
    key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    if (!settled()) return false;
    goToColumn("name");
    key(Qt::Key_L, Qt::ControlModifier | Qt::ShiftModifier);
    type("steps");
    key(Qt::Key_Tab);
    type("Stairs");
    auto* stage = sheet()->findChild<QWidget*>("actStage");
    if (!wait("the proof is made", [&] { return stage->isEnabled(); })) return false;
    tell(QStringLiteral("  ") + sheet()->findChild<QLabel*>("actCounts")->text());
    picture("many");
    key(Qt::Key_Escape);
    return true;
  }

  bool mergeTwo() {
    tell(QStringLiteral("Hold two spellings of one street side by side; what points at the other is counted."));
    key(Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
    key(Qt::Key_Home, Qt::ControlModifier);
    key(Qt::Key_Down, Qt::ShiftModifier);
    key(Qt::Key_Y, Qt::ControlModifier | Qt::ShiftModifier);
    auto* stage = sheet()->findChild<QWidget*>("mergeStage");
    if (!wait("the merge is worked out", [&] { return stage->isEnabled(); })) return false;
    tell(QStringLiteral("  ") + sheet()->findChild<QLabel*>("mergeWords")->text());
    picture("merge");
    key(Qt::Key_Escape);
    return true;
  }

  // Not on the way: how the records are looked at before anything is changed. Its keys are not counted.
  bool lookAround() {
    const int before = keystrokes;
    tell(QStringLiteral("See the values of a column at a glance, and which spellings are nearly alike."));
    window_.openTable({"", "street"});
    if (!settled()) return false;
    goToColumn("name");
    key(Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
    auto* values = sheet()->findChild<QListWidget*>("values");
    if (!wait("the values are read", [&] { return values->count() > 0; })) return false;
    key(Qt::Key_Return);
    QTest::qWait(400);
    if (!settled()) return false;
    picture("values");
    if (!mergeTwo() || !changeMany()) return false;
    key(Qt::Key_W, Qt::ControlModifier);
    window_.openTable({"", "tree"});
    if (!settled()) return false;
    goToColumn("condition_code");
    key(Qt::Key_L, Qt::ControlModifier);
    type(">= 4 and species starts quercus and no inspection where inspected_on this year");
    QTest::qWait(400);
    key(Qt::Key_Return);
    if (!settled()) return false;
    key(Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
    key(Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
    goToColumn("street_id");
    key(Qt::Key_S, Qt::ControlModifier | Qt::AltModifier);
    if (!settled()) return false;
    tell(QStringLiteral("  %1 failing oaks were not looked at this year.").arg(sheet()->model().rowCount()));
    picture("conditions");
    saveTheScope();
    if (!changeTheSentence() || !borrowAColumn() || !seeTheSpread()) return false;
    key(Qt::Key_W, Qt::ControlModifier);
    window_.openTable({"", "tree"});
    if (!settled() || !lookThroughALens() || !workThroughTheForm() || !handThemOut()) return false;
    keystrokes = before;
    return true;
  }

  // Seconds are read and typed as days; what is stored stays seconds.
  bool lookThroughALens() {
    tell(QStringLiteral("Look at seconds through a lens: they read, and are typed, as days."));
    goToColumn("watering_every_s");
    key(Qt::Key_F9);
    picture("lens");
    key(Qt::Key_Return, Qt::ControlModifier);
    key(Qt::Key_L, Qt::ControlModifier);
    type(">= 4 d");
    key(Qt::Key_Return);
    QTest::qWait(400);
    if (!settled()) return false;
    tell(QStringLiteral("  %1: %2 records.").arg(sheet()->sentence().text()).arg(sheet()->model().rowCount()));
    key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    return settled();
  }

  // The card alone: a tag is typed, and the tree is there; nothing is changed.
  bool workThroughTheForm() {
    tell(QStringLiteral("Work record by record: type a tag on the card, and the tree is there."));
    key(Qt::Key_F4);
    type("QH-00063");
    key(Qt::Key_Return);
    const auto there = [this] {
      return sheet()->findChild<QLabel*>("cardTitle")->text() == QStringLiteral("QH-00063");
    };
    if (!wait("the tree is there", there)) return false;
    picture("card");
    key(Qt::Key_F4);
    key(Qt::Key_Home, Qt::ControlModifier);
    return true;
  }

  // A working copy for somebody without the database, and the records on paper; neither is written.
  bool handThemOut() {
    tell(QStringLiteral("Hand a working copy out: what may be changed in it is ticked, the rest is protected."));
    key(Qt::Key_A, Qt::ControlModifier | Qt::AltModifier);
    picture("copy");
    key(Qt::Key_Escape);
    tell(QStringLiteral("See the records on paper before they are printed, in groups by street."));
    key(Qt::Key_P, Qt::ControlModifier);
    const auto* write = sheet()->findChild<QPushButton*>("printWrite");
    if (!wait("the pages are set", [&] { return write->isEnabled(); })) return false;
    auto* group = sheet()->findChild<QComboBox*>("printGroup");
    group->setCurrentIndex(group->findText(QStringLiteral("street_id")));
    if (!wait("they are set anew", [&] { return write->isEnabled(); })) return false;
    picture("paper");
    key(Qt::Key_Escape);
    return true;
  }

  bool filterAndCorrect() {
    tell(QStringLiteral("Show only trees in a failing condition (4 or worse)."));
    goToColumn("condition_code");
    key(Qt::Key_L, Qt::ControlModifier);
    type(">= 4");
    QTest::qWait(400);
    key(Qt::Key_Return);
    if (!settled()) return false;
    tell(QStringLiteral("  %1 trees are shown.").arg(sheet()->model().rowCount()));
    tell(QStringLiteral("Grade three of them again; the old grade stays legible."));
    for (int i = 0; i < 3; ++i) {
      type("3");
      key(Qt::Key_Return);
    }
    tell(QStringLiteral("Type a grade that the register does not take; it says what is wanted."));
    type("9");
    key(Qt::Key_Return);
    key(Qt::Key_Escape);
    tell(QStringLiteral("Give a tree another species, found by name."));
    key(Qt::Key_Home);
    key(Qt::Key_Tab);
    key(Qt::Key_Tab);
    key(Qt::Key_F2);
    type("horn");
    if (!wait("a species is offered", [this] {
          const auto* list = window_.findChild<QListWidget*>("choices");
          return list != nullptr && list->isVisible() && list->count() == 1;
        })) {
      return false;
    }
    key(Qt::Key_Down);
    key(Qt::Key_Return);
    return wait("the correction is staged", [this] { return window_.desk()->changes().counts().edited == 4; });
  }

  bool addAndRemove() {
    tell(QStringLiteral("Remove a tree, and add one."));
    // One that a work order points at, which the review will say.
    for (int i = 0; i < 7; ++i) key(Qt::Key_Down);
    key(Qt::Key_Delete, Qt::ControlModifier);
    key(Qt::Key_N, Qt::ControlModifier);
    const auto fill = [&](const char* column, const char* text) {
      goToColumn(column);
      type(text);
      key(Qt::Key_Return);
    };
    fill("tag", "QH-99001");
    goToColumn("species_id");
    type("1");
    QTest::qWait(200);
    key(Qt::Key_Return);
    goToColumn("street_id");
    type("2");
    QTest::qWait(200);
    key(Qt::Key_Return);
    fill("condition_code", "0");
    fill("planted", "2026-11-20");
    if (!wait("the record is staged", [this] { return window_.desk()->changes().counts().added == 1; })) return false;
    key(Qt::Key_Home, Qt::ControlModifier);
    for (int i = 0; i < 3; ++i) key(Qt::Key_Down);
    picture("sheet");
    key(Qt::Key_K, Qt::ControlModifier);
    picture("palette");
    key(Qt::Key_Escape);
    return true;
  }

  bool review() {
    tell(QStringLiteral("Read over what would change."));
    key(Qt::Key_R, Qt::ControlModifier);
    auto* page = window_.findChild<ReviewPage*>();
    if (!wait("the rehearsal is done", [page] { return page->review().has_value(); })) return false;
    QTest::qWait(300);
    picture("review");
    for (const Finding& f : page->review()->findings) {
      tell(QStringLiteral("  %1: %2").arg(QLatin1String(findingName(f.kind)), QString::fromStdString(f.message)));
    }
    for (const Effect& e : page->review()->effects) {
      if (e.kind != Effect::Kind::DatabaseSet)
        tell(QStringLiteral("  the database will: %1 of %2, %3 records")
                 .arg(QLatin1String(effectName(e.kind)), QString::fromStdString(e.table.name))
                 .arg(e.rows));
    }
    while (page->blockingCount() > 0) {
      tell(QStringLiteral("Go to what stands in the way, and put it back."));
      const std::size_t before = page->blockingCount();
      key(Qt::Key_F8);
      picture("review-finding");
      key(Qt::Key_G, Qt::ControlModifier | Qt::ShiftModifier);
      if (!wait("the rehearsal is done again", [page] { return page->review().has_value() && !page->busy(); }))
        return false;
      if (page->blockingCount() >= before) return false;
    }
    QTest::qWait(300);
    key(Qt::Key_2, Qt::ControlModifier);
    picture("review-statements");
    key(Qt::Key_1, Qt::ControlModifier);
    return true;
  }

  bool apply() {
    tell(QStringLiteral("Say why, and apply it all at once."));
    key(Qt::Key_E, Qt::ControlModifier);
    type("Re-grade after the storm");
    key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
    if (!wait("it is applied", [this] { return window_.desk()->changes().empty() && sheet() != nullptr; }) ||
        !settled())
      return false;
    QTest::qWait(300);
    tell(QStringLiteral("  ") + window_.findChild<QLabel*>("message")->text());
    return true;
  }

  bool takeBack() {
    tell(QStringLiteral("Take it back: the receipt becomes a change set of its own, read over as any other."));
    key(Qt::Key_H, Qt::ControlModifier);
    if (!wait("the receipts are listed", [this] {
          auto* list = window_.findChild<QListWidget*>("receipts");
          return list != nullptr && list->count() > 0 && window_.findChild<QPushButton*>("takeBack")->isEnabled();
        })) {
      return false;
    }
    picture("history");
    key(Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
    auto* page = window_.findChild<ReviewPage*>();
    if (!wait("the rehearsal is done", [&] { return !window_.desk()->changes().empty() && page->ready(); }))
      return false;
    key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
    if (!wait("it is taken back", [this] { return window_.desk()->changes().empty(); })) return false;
    tell(QStringLiteral("  ") + window_.findChild<QLabel*>("message")->text());
    tell(QStringLiteral("Done, by keyboard alone: %1 keystrokes, %2 of them for the path of the database.")
             .arg(keystrokes)
             .arg(pathKeystrokes_));
    return true;
  }

  MainWindow& window_;
  QString pictures_;
  int pathKeystrokes_ = 0;
};

}  // namespace
}  // namespace iterandum

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  const QStringList arguments = QApplication::arguments();
  if (arguments.size() < 3) {
    std::fprintf(stderr, "usage: quillhaven_walk DATABASE STORE [PICTURES [dark]]\n");
    return 2;
  }
  iterandum::applyScheme(arguments.size() > 4 ? iterandum::Scheme::Dark : iterandum::Scheme::Light);
  iterandum::MainWindow window(arguments[2].toStdString());
  window.resize(1280, 800);
  window.show();
  // A display server without a window manager gives the keyboard only to who asks for it.
  window.activateWindow();
  if (!QTest::qWaitForWindowActive(&window)) return 1;
  iterandum::Walk walk(window, arguments.size() > 3 ? arguments[3] : QString());
  return walk.run(arguments[1]) ? 0 : 1;
}
