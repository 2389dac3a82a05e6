#include "app/style/usual_keys.h"

#include <QAbstractButton>
#include <QApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPointer>

namespace iterandum {

void UsualKeys::install() {
  static QPointer<UsualKeys> installed;
  if (!installed.isNull()) return;
  installed = new UsualKeys(qApp);
  qApp->installEventFilter(installed);
}

bool UsualKeys::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    auto* button = qobject_cast<QAbstractButton*>(watched);
    const auto* pressed = static_cast<QKeyEvent*>(event);
    const bool enter = pressed->key() == Qt::Key_Return || pressed->key() == Qt::Key_Enter;
    if (button != nullptr && enter && (pressed->modifiers() & ~Qt::KeypadModifier) == Qt::NoModifier) {
      button->click();
      return true;
    }
  }
  if (event->type() == QEvent::ShortcutOverride) {
    const auto* line = qobject_cast<QLineEdit*>(watched);
    const auto* pressed = static_cast<QKeyEvent*>(event);
    const bool undo = pressed->matches(QKeySequence::Undo) && line != nullptr && !line->isUndoAvailable();
    const bool redo = pressed->matches(QKeySequence::Redo) && line != nullptr && !line->isRedoAvailable();
    if (undo || redo) {
      event->ignore();
      return true;
    }
  }
  return QObject::eventFilter(watched, event);
}

}  // namespace iterandum
