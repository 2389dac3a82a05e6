#include "app/style/plain_texts.h"

#include <QApplication>
#include <QEvent>
#include <QLabel>
#include <QPointer>

namespace iterandum {

void PlainTexts::install() {
  static QPointer<PlainTexts> installed;
  if (!installed.isNull()) return;
  installed = new PlainTexts(qApp);
  qApp->installEventFilter(installed);
}

bool PlainTexts::eventFilter(QObject* watched, QEvent* event) {
  // Before a label is first seen; tips are labels too.
  if (event->type() == QEvent::Polish) {
    auto* label = qobject_cast<QLabel*>(watched);
    if (label != nullptr && label->textFormat() == Qt::AutoText) label->setTextFormat(Qt::PlainText);
  }
  return QObject::eventFilter(watched, event);
}

}  // namespace iterandum
