// SheetScopeTest: a sheet over the small register, with what it takes to get to the right records.
#pragma once

#include "app/window_fixture.h"

namespace iterandum::test {

inline constexpr auto kCtrl = Qt::ControlModifier;
inline constexpr auto kCtrlAlt = Qt::ControlModifier | Qt::AltModifier;
inline constexpr auto kCtrlShift = Qt::ControlModifier | Qt::ShiftModifier;

class SheetScopeTest : public WindowTest {
 protected:
  [[nodiscard]] QListWidget* offers() const { return sheet()->findChild<QListWidget*>("phraseOffers"); }
  [[nodiscard]] std::string answer() const { return sheet()->findChild<QLabel*>("findAnswer")->text().toStdString(); }
  void borrow(const char* column) {
    key(Qt::Key_B, kCtrl);
    choose(column);
  }
  // A table of many records, seen by a window that was started anew.
  void openLeaves(int records) {
    db.run(
        "CREATE TABLE leaf (leaf_id INTEGER PRIMARY KEY, size INTEGER, note TEXT);"
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < " +
        std::to_string(records) + ") INSERT INTO leaf SELECT i, i % 10, 'leaf ' || i FROM n");
    window.reset();
    start();
    openTable("leaf");
    ASSERT_TRUE(wait([&] { return sheet()->model().source().complete(); }));
  }
  // After a dialog the window has the keys again.
  void comeBack() {
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
    if (sheet() != nullptr) view().setFocus();
  }
  bool shows(const std::string& path, const std::string& values) {
    return wait([&] { return settled() && column(path) == values; });
  }
};

}  // namespace iterandum::test
