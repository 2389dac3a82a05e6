// MarkBar: a strip in which a database gets its name, colour and whether it may be changed at all.
#pragma once

#include <QFrame>
#include <vector>

#include "core/store/store.h"

class QCheckBox;
class QLineEdit;
class QPushButton;

namespace iterandum {

class MarkBar : public QFrame {
  Q_OBJECT
 public:
  explicit MarkBar(QWidget* parent = nullptr);
  void open(const DatabaseMark& mark);

 signals:
  void kept(const DatabaseMark& mark);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void keep();
  QLineEdit* name_;
  std::vector<QPushButton*> colours_;
  QCheckBox* readOnly_;
};

}  // namespace iterandum
