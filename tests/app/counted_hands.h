// CountedHandsTest: hands on the window whose acts are counted: a key chord, a click, or a value that is typed (with
// the Tab or Enter that ends it) is one.
#pragma once

#include "app/scope_fixture.h"

namespace iterandum::test {

class CountedHandsTest : public SheetScopeTest {
 protected:
  template <typename Widget>
  [[nodiscard]] Widget* part(const char* name) const {
    return sheet()->findChild<Widget*>(name);
  }
  void chord(Qt::Key k, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    ++acts;
    key(k, modifiers);
  }
  void value(const char* text, Qt::Key end = Qt::Key_unknown) {
    ++acts;
    type(text);
    if (end != Qt::Key_unknown) key(end);
    // A name is looked up meanwhile.
    ASSERT_TRUE(wait([&] { return end == Qt::Key_unknown || sheet() == nullptr || view().editor() == nullptr; }));
  }
  void click(QWidget* widget, const QPoint& place) {
    ++acts;
    QTest::mouseClick(widget, Qt::LeftButton, {}, place);
    QCoreApplication::processEvents();
  }
  void click(QWidget* widget) { click(widget, widget->rect().center()); }

  int acts = 0;
};

}  // namespace iterandum::test
