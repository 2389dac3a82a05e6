// CommentBox: where somebody says something of what is reviewed. Keeps what was typed until it is said.
#pragma once

#include <QFrame>
#include <vector>

#include "core/changes/comment.h"

class QComboBox;
class QPlainTextEdit;
class QPushButton;

namespace iterandum {

class CommentBox : public QFrame {
  Q_OBJECT
 public:
  struct Place {
    QString words;
    CommentPlace place;
  };

  explicit CommentBox(QWidget* parent = nullptr);
  // Of one of these places, the first being chosen.
  void open(const std::vector<Place>& places);
  void close();

 signals:
  // By whom and when is not filled in.
  void written(const iterandum::Comment& comment);
  void closed();

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void write();

  std::vector<Place> places_;
  QComboBox* about_;
  QPlainTextEdit* words_;
  QPushButton* write_;
};

}  // namespace iterandum
