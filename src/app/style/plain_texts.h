// Texts that come from a database are shown as they are: a value that looks like a mark-up of ours must not be taken
// for one, in no label and no tip. A label that is to show mark-up says so itself (Qt::RichText), and escapes what it
// is given.
#pragma once

#include <QObject>

namespace iterandum {

class PlainTexts : public QObject {
 public:
  // For all windows of the application, from now on.
  static void install();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  using QObject::QObject;
};

}  // namespace iterandum
