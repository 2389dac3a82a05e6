#include "app/sheet/sentence_line.h"

#include <QAbstractTextDocumentLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QTextBlock>
#include <QTextCursor>
#include <QTextLayout>
#include <algorithm>

#include "app/style/roles.h"

namespace iterandum {

SentenceLine::SentenceLine(QWidget* parent) : QWidget(parent) {
  setObjectName("sentence");
  setFocusPolicy(Qt::ClickFocus);
  setMouseTracking(true);
  document_.setDocumentMargin(0);
  document_.setDefaultFont(serif(1.35));
  setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
}

void SentenceLine::setPieces(std::vector<Piece> pieces) {
  pieces_ = std::move(pieces);
  phrases_.clear();
  for (const Piece& piece : pieces_) {
    if (piece.phrase >= 0) phrases_.push_back(piece.phrase);
  }
  if (std::find(phrases_.begin(), phrases_.end(), current_) == phrases_.end()) {
    current_ = phrases_.empty() ? -1 : phrases_.front();
  }
  setAccessibleName(tr("What is shown: %1").arg(text()));
  layOut();
}

QString SentenceLine::text() const {
  QString out;
  for (const Piece& piece : pieces_) out += piece.text;
  return out;
}

void SentenceLine::layOut() {
  document_.clear();
  QTextCursor cursor(&document_);
  for (const Piece& piece : pieces_) {
    QTextCharFormat format;
    format.setForeground(piece.phrase < 0 ? roles().ink : roles().blue);
    if (piece.phrase >= 0) {
      format.setAnchor(true);
      format.setAnchorHref(QString::number(piece.phrase));
      format.setUnderlineStyle(QTextCharFormat::SingleUnderline);
    }
    if (hasFocus() && piece.phrase >= 0 && piece.phrase == current_) format.setBackground(roles().blueWash);
    cursor.insertText(piece.text, format);
  }
  fitHeight();
  update();
}

// As many lines as the words take at this width.
void SentenceLine::fitHeight() {
  document_.setTextWidth(width());
  setFixedHeight(static_cast<int>(document_.size().height()) + 4);
}

QRect SentenceLine::phraseRect(int phrase) const {
  int begin = 0;
  for (const Piece& piece : pieces_) {
    if (piece.phrase == phrase) break;
    begin += static_cast<int>(piece.text.size());
  }
  const QTextBlock block = document_.findBlock(begin);
  const QTextLine line = block.layout()->lineForTextPosition(begin - block.position());
  if (!line.isValid()) return rect();
  const auto x = static_cast<int>(line.cursorToX(begin - block.position()));
  return {x, static_cast<int>(line.y()), 10, static_cast<int>(line.height())};
}

void SentenceLine::setCurrent(int phrase) {
  current_ = phrase;
  layOut();
}

int SentenceLine::phraseAt(const QPoint& point) const {
  const QString anchor = document_.documentLayout()->anchorAt(point);
  return anchor.isEmpty() ? -1 : anchor.toInt();
}

void SentenceLine::go(int step) {
  if (phrases_.empty()) return;
  const auto at = std::find(phrases_.begin(), phrases_.end(), current_) - phrases_.begin();
  const auto count = static_cast<std::ptrdiff_t>(phrases_.size());
  setCurrent(phrases_[static_cast<std::size_t>(((at + step) % count + count) % count)]);
}

void SentenceLine::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  document_.drawContents(&painter);
}

void SentenceLine::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  if (event->oldSize().width() != width()) fitHeight();
}

void SentenceLine::contextMenuEvent(QContextMenuEvent* event) { emit menuAsked(event->globalPos()); }

void SentenceLine::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const int phrase = phraseAt(event->pos());
  if (phrase < 0) return;
  setCurrent(phrase);
  emit opened(phrase);
}

void SentenceLine::mouseMoveEvent(QMouseEvent* event) {
  setCursor(phraseAt(event->pos()) >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

void SentenceLine::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Right:
      return go(1);
    case Qt::Key_Left:
      return go(-1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_F2:
    case Qt::Key_Space:
      if (current_ >= 0) emit opened(current_);
      return;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
      if (current_ >= 0) emit takenOut(current_);
      return;
    case Qt::Key_Escape:
    case Qt::Key_Down:
      emit left();
      return;
    default:
      QWidget::keyPressEvent(event);
  }
}

void SentenceLine::focusInEvent(QFocusEvent* event) {
  QWidget::focusInEvent(event);
  layOut();
}

void SentenceLine::focusOutEvent(QFocusEvent* event) {
  QWidget::focusOutEvent(event);
  layOut();
}

bool SentenceLine::focusNextPrevChild(bool next) {
  go(next ? 1 : -1);
  return true;
}

}  // namespace iterandum
