// ElidedLabel: one line of plain text that ends in "…" where there is no room for all of it; the whole of it when
// pointed at. It asks for no width.
#pragma once

#include <QLabel>
#include <QPainter>

namespace iterandum {

class ElidedLabel : public QLabel {
 public:
  explicit ElidedLabel(QWidget* parent = nullptr) : QLabel(parent) {
    setTextFormat(Qt::PlainText);
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  }
  void say(const QString& text) {
    setText(text);
    setToolTip(text);
    setAccessibleName(text);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setPen(palette().color(foregroundRole()));
    const QRect where = contentsRect();
    painter.drawText(where, Qt::AlignVCenter | Qt::AlignLeft | Qt::TextSingleLine,
                     fontMetrics().elidedText(text(), Qt::ElideRight, where.width()));
  }
};

}  // namespace iterandum
