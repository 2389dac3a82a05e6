// SentenceLine: the sentence that says which records a sheet shows. Its phrases can be clicked, or gone to by key and
// opened with Enter; Delete takes one out. It wraps, and is never cut: it is what people check before they act.
#pragma once

#include <QTextDocument>
#include <QWidget>
#include <vector>

namespace iterandum {

class SentenceLine : public QWidget {
  Q_OBJECT
 public:
  struct Piece {
    QString text;
    int phrase = -1;  // number of the phrase; -1: words between
  };

  explicit SentenceLine(QWidget* parent = nullptr);
  void setPieces(std::vector<Piece> pieces);
  // All of it as plain text.
  [[nodiscard]] QString text() const;
  // Where a phrase lies.
  [[nodiscard]] QRect phraseRect(int phrase) const;
  // The phrase that the keys are on.
  [[nodiscard]] int current() const { return current_; }
  void setCurrent(int phrase);

 signals:
  void opened(int phrase);
  void takenOut(int phrase);
  void left();  // Escape, or Down: back to the records
  void menuAsked(const QPoint& where);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  bool focusNextPrevChild(bool next) override;

 private:
  void layOut();
  void fitHeight();
  void go(int step);
  [[nodiscard]] int phraseAt(const QPoint& point) const;

  std::vector<Piece> pieces_;
  QTextDocument document_;
  std::vector<int> phrases_;  // in their order
  int current_ = -1;
};

}  // namespace iterandum
