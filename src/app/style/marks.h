// The proof-reader's marks, drawn as vectors: readable by shape alone, colour comes second.
#pragma once

#include <QColor>
#include <QIcon>
#include <QPainter>
#include <QRectF>

namespace iterandum {

enum class Mark { None, Changed, Added, Removed, Query, Applied };

// Draws the mark centred in the rectangle, about 16 px high.
void drawMark(QPainter& painter, const QRectF& where, Mark mark, const QColor& color);
// The colour that goes with the mark on paper.
[[nodiscard]] QColor markColor(Mark mark);
// The mark as a picture, for labels and lists.
[[nodiscard]] QPixmap markPixmap(Mark mark, const QColor& color, qreal ratio);
// What it says, for screen readers and tooltips.
[[nodiscard]] QString markName(Mark mark);

}  // namespace iterandum
