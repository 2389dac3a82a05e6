#include "app/style/marks.h"

#include <QCoreApplication>
#include <QPainterPath>

#include "app/style/roles.h"

namespace iterandum {
namespace {

// All shapes are drawn in a box of 16 x 16.
QPainterPath wave() {
  QPainterPath p(QPointF(2, 9.5));
  p.cubicTo(4, 4.5, 6.5, 5.5, 8, 8.5);
  p.cubicTo(9.5, 11.5, 12, 12, 14, 7);
  return p;
}

QPainterPath caret() {
  QPainterPath p(QPointF(2.5, 13));
  p.lineTo(8, 5);
  p.lineTo(13.5, 13);
  return p;
}

// The deletion loop: a stroke that runs in, turns once around itself and leaves downwards.
QPainterPath loop() {
  QPainterPath p(QPointF(2, 4.5));
  p.cubicTo(6, 2, 8, 4, 8.5, 7);
  p.cubicTo(9, 10.5, 5, 12, 4.5, 9.5);
  p.cubicTo(4.2, 7, 9, 5.5, 11.5, 7.5);
  p.cubicTo(14.5, 10, 12, 14.5, 8.5, 14);
  return p;
}

QPainterPath query() {
  QPainterPath p(QPointF(4.8, 5));
  p.cubicTo(4.8, 1.2, 11.4, 1.2, 11.2, 5);
  p.cubicTo(11, 7.6, 8, 7.4, 8, 10.4);
  return p;
}

QPainterPath tick() {
  QPainterPath p(QPointF(3, 8.5));
  p.lineTo(6.5, 12.5);
  p.lineTo(13.5, 3.5);
  return p;
}

}  // namespace

void drawMark(QPainter& painter, const QRectF& where, Mark mark, const QColor& color) {
  if (mark == Mark::None) return;
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.translate(where.center() - QPointF(8, 8));
  painter.setPen(QPen(color, 1.9, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  painter.setBrush(Qt::NoBrush);
  switch (mark) {
    case Mark::Changed:
      painter.drawPath(wave());
      break;
    case Mark::Added:
      painter.drawPath(caret());
      break;
    case Mark::Removed:
      painter.drawPath(loop());
      break;
    case Mark::Query:
      painter.drawPath(query());
      painter.setBrush(color);
      painter.drawEllipse(QPointF(8, 13.6), 0.7, 0.7);
      break;
    case Mark::Applied:
      painter.drawPath(tick());
      break;
    case Mark::None:
      break;
  }
  painter.restore();
}

QColor markColor(Mark mark) {
  switch (mark) {
    case Mark::Changed:
      return roles().blue;
    case Mark::Added:
    case Mark::Applied:
      return roles().leaf;
    case Mark::Query:
      return roles().query;
    default:
      return roles().ink;
  }
}

QPixmap markPixmap(Mark mark, const QColor& color, qreal ratio) {
  QPixmap pixmap(QSize(16, 16) * ratio);
  pixmap.setDevicePixelRatio(ratio);
  pixmap.fill(Qt::transparent);
  QPainter painter(&pixmap);
  drawMark(painter, QRectF(0, 0, 16, 16), mark, color);
  return pixmap;
}

QString markName(Mark mark) {
  switch (mark) {
    case Mark::Changed:
      return QCoreApplication::translate("Mark", "changed");
    case Mark::Added:
      return QCoreApplication::translate("Mark", "new");
    case Mark::Removed:
      return QCoreApplication::translate("Mark", "removed");
    case Mark::Query:
      return QCoreApplication::translate("Mark", "needs a look");
    case Mark::Applied:
      return QCoreApplication::translate("Mark", "just applied");
    case Mark::None:
      break;
  }
  return {};
}

}  // namespace iterandum
