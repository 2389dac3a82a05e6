// Keys that mean the same wherever they are pressed: Enter presses the button that has the keys, as Space does; undo
// and redo in a line in which nothing was typed are the window's.
#pragma once

#include <QKeyEvent>
#include <QObject>

namespace iterandum {

// Ctrl+Enter: what a slip beside the sheet proposes is to be staged.
[[nodiscard]] inline bool isStagingKey(const QKeyEvent& event) {
  const bool enter = event.key() == Qt::Key_Return || event.key() == Qt::Key_Enter;
  return enter && (event.modifiers() & Qt::ControlModifier) != 0;
}

class UsualKeys : public QObject {
 public:
  // For all windows of the application, from now on.
  static void install();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  using QObject::QObject;
};

}  // namespace iterandum
