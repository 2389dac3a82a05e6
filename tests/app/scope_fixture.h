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
