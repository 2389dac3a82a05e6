// WindowTest: the real window over a fresh register, driven by real key and mouse events.
#pragma once

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <QApplication>
#include <QClipboard>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QListWidget>
#include <QPushButton>
#include <QTest>

#include "app/catalogue/catalogue_page.h"
#include "app/history/history_page.h"
#include "app/review/review_page.h"
#include "app/sheet/sheet_page.h"
#include "app/window/command_palette.h"
#include "app/window/main_window.h"
#include "app/window/rail.h"
#include "support/test_database.h"

namespace iterandum::test {

class WindowTest : public ::testing::Test {
 protected:
  void SetUp() override { start(); }
  void TearDown() override { window.reset(); }

  void start() {
    window = std::make_unique<MainWindow>(db.file("state/store.sqlite"));
    window->show();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
    window->open(QString::fromStdString(db.path()));
    ASSERT_TRUE(wait([&] { return window->desk() != nullptr; }));
  }
  void openTable(const std::string& name) {
    window->openTable({"", name});
    ASSERT_TRUE(wait([&] { return sheet() != nullptr && settled(); }));
  }

  template <typename Condition>
  static bool wait(Condition condition) {
    return QTest::qWaitFor(condition, 8000);
  }
  [[nodiscard]] bool settled() const {
    const RecordSource& source = window->currentSheet()->model().source();
    if (!source.complete() || source.reading()) return false;
    return source.rows() == 0 || source.record(0) != nullptr;
  }
  [[nodiscard]] SheetPage* sheet() const { return window->currentSheet(); }
  [[nodiscard]] SheetView& view() const { return sheet()->view(); }
  [[nodiscard]] ReviewPage* review() const { return window->findChild<ReviewPage*>(); }
  [[nodiscard]] QString message() const {
    auto* label = window->findChild<QLabel*>("message");
    return label->isVisible() ? label->text() : QString();
  }
  [[nodiscard]] const ChangeSet& changes() const { return window->desk()->changes(); }
  [[nodiscard]] StagedCounts counts() const { return changes().counts(); }
  static void key(Qt::Key k, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    QTest::keyClick(QApplication::focusWidget(), k, modifiers);
    QCoreApplication::processEvents();
  }
  static void type(const char* text) {
    QTest::keyClicks(QApplication::focusWidget(), QString(QChar::fromLatin1(text[0])));
    // The first key may have opened an editor, which has the focus now.
    if (text[1] != 0) QTest::keyClicks(QApplication::focusWidget(), QString::fromUtf8(text + 1));
    QCoreApplication::processEvents();
  }
  void at(int row, const char* column) const {
    view().goTo(row, static_cast<int>(*sheet()->table().columnIndex(column)));
  }
  [[nodiscard]] std::string staged() const {
    std::string out;
    for (const auto& [index, c] : changes().toChangeList("").inOrder()) {
      out += (out.empty() ? "" : "; ") + std::string(actionName(c.action)) +
             (c.key.empty() ? "" : " " + canonicalText(c.key[0]));
      for (const CellChange& cell : c.cells) {
        if (c.action != Action::Remove)
          out += " " + cell.column + "=" + (cell.to.isNull() ? "-" : canonicalText(cell.to));
      }
    }
    return out;
  }
  // What the card says points at the current record.
  [[nodiscard]] QString incoming() const {
    QStringList lines;
    for (const QPushButton* line : sheet()->findChild<QWidget*>("incoming")->findChildren<QPushButton*>()) {
      if (!line->isHidden()) lines << line->text();
    }
    return lines.join(QLatin1Char('\n'));
  }
  // What a column shows, one record after the other.
  [[nodiscard]] std::string column(const std::string& path) const {
    SheetModel& model = sheet()->model();
    QStringList out;
    for (int c = 0; c < model.columnCount(); ++c) {
      if (model.columnName(c).toStdString() != path) continue;
      for (int r = 0; r < model.rowCount(); ++r) out << model.data(model.index(r, c), Qt::DisplayRole).toString();
    }
    return out.join(QLatin1Char(' ')).toStdString();
  }
  [[nodiscard]] std::string sentence() const { return sheet()->sentence().text().toStdString(); }
  // Chooses what fits the text from the palette.
  void choose(const char* text) {
    type(text);
    key(Qt::Key_Return);
  }
  // The button of the review that is in sight, clicked as a hand does.
  void pressInReview(const QString& text) {
    QPushButton* found = nullptr;
    EXPECT_TRUE(wait([&] {
      for (QPushButton* b : review()->findChildren<QPushButton*>()) {
        if (found == nullptr && b->isVisible() && b->height() > 0 && b->text() == text) found = b;
      }
      return found != nullptr;
    })) << text.toStdString();
    if (found != nullptr) QTest::mouseClick(found, Qt::LeftButton);
    QCoreApplication::processEvents();
  }
  void goToReview() {
    key(Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(wait([&] { return review()->review().has_value() && !review()->busy(); }));
  }

  TestDatabase db{kSmallRegister};
  std::unique_ptr<MainWindow> window;
};

}  // namespace iterandum::test
