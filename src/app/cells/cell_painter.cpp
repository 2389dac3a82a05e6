#include "app/cells/cell_painter.h"

#include <QAbstractItemView>
#include <QItemSelectionModel>
#include <QPainter>

#include "app/style/roles.h"

namespace iterandum {
namespace {

bool alignsRight(const SheetModel& model, int column) {
  const TypeClass type = model.column(column).type;
  const bool number = type == TypeClass::Integer || type == TypeClass::Real || type == TypeClass::Decimal;
  return number && model.reference(column) == nullptr;
}

bool isOneCell(const QItemSelection& selection) {
  return selection.size() == 1 && selection.front().width() == 1 && selection.front().height() == 1;
}

QString oneLine(QString text) {
  text.replace(QLatin1Char('\n'), QChar(0x21B5));
  text.replace(QLatin1Char('\r'), QChar());
  return text;
}

TextRun runOf(const SheetModel& model, int column, const Value& value, const QColor& color) {
  TextRun run{oneLine(model.shown(column, value)), color};
  const bool nothing = value.isNull() || (value.isString() && value.asString().empty());
  if (nothing) {
    run.italic = true;
    run.color = roles().faint;
  }
  return run;
}

}  // namespace

std::vector<TextRun> cellRuns(const SheetModel& model, int column, const CellState& state) {
  const Roles& r = roles();
  if (!state.loaded) return {{QStringLiteral("…"), r.faint}};
  if (state.noLender) return {{QStringLiteral("—"), r.faint}};
  std::vector<TextRun> runs;
  if (!state.typedWrong.isEmpty()) {
    if (!state.stored.isNull()) {
      runs.push_back(runOf(model, column, state.stored, r.soft));
      runs.back().struck = true;
    }
    runs.push_back({oneLine(state.typedWrong), r.query, false, true});
    return runs;
  }
  if (state.setByDatabase) return {{QObject::tr("set by the database"), r.faint, false, false, true}};
  if (state.addedRecord) {
    runs.push_back(runOf(model, column, state.stored, r.leaf));
    return runs;
  }
  if (state.removedRecord) {
    runs.push_back(runOf(model, column, state.stored, r.soft));
    runs.back().struck = true;
    return runs;
  }
  if (!state.staged) {
    runs.push_back(runOf(model, column, state.stored, r.ink));
    return runs;
  }
  runs.push_back(runOf(model, column, state.staged->from, r.soft));
  runs.back().struck = true;
  runs.push_back(runOf(model, column, state.staged->to, state.somebodyElse ? r.query : r.blue));
  runs.back().bold = true;
  if (state.somebodyElse) {
    runs.push_back({QObject::tr("now %1").arg(oneLine(model.shown(column, state.stored))), r.query});
  }
  return runs;
}

int drawRuns(QPainter* painter, const QRect& where, const QFont& font, const std::vector<TextRun>& runs, bool right) {
  constexpr int kGap = 6;
  std::vector<QFont> fonts;
  std::vector<int> widths;
  int total = 0;
  for (const TextRun& run : runs) {
    QFont f = font;
    f.setStrikeOut(run.struck);
    f.setItalic(run.italic);
    if (run.bold) f.setWeight(QFont::DemiBold);
    fonts.push_back(f);
    widths.push_back(QFontMetrics(f).horizontalAdvance(run.text));
    total += widths.back() + (total > 0 ? kGap : 0);
  }
  int x = right && total < where.width() ? where.right() - total + 1 : where.left();
  for (std::size_t i = 0; i < runs.size(); ++i) {
    int width = std::min(widths[i], where.right() - x + 1);
    // The correction must be readable: the old text gives way to it.
    const bool moreComes = i + 1 < runs.size();
    if (moreComes && total > where.width()) width = std::clamp(where.width() - (total - widths[i]), 18, widths[i]);
    if (width <= 0) break;
    painter->setFont(fonts[i]);
    painter->setPen(runs[i].color);
    const QString text =
        width < widths[i] ? QFontMetrics(fonts[i]).elidedText(runs[i].text, Qt::ElideRight, width) : runs[i].text;
    painter->drawText(QRect(x, where.top(), width + 1, where.height()),
                      Qt::AlignVCenter | Qt::AlignLeft | Qt::TextSingleLine, text);
    x += width + kGap;
  }
  return total;
}

void CellPainter::paintText(QPainter* painter, const QRect& where, const QModelIndex& index,
                            const CellState& state) const {
  const std::vector<TextRun> runs = cellRuns(model_, index.column(), state);
  const bool right = alignsRight(model_, index.column()) && state.typedWrong.isEmpty();
  drawRuns(painter, where, plain(), runs, right);
}

void CellPainter::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
  const Roles& r = roles();
  const CellState state = model_.cell(index.row(), index.column());
  const bool current = (option.state & QStyle::State_HasFocus) != 0;
  const bool selected = (option.state & QStyle::State_Selected) != 0;
  // The current record has a ground of its own.
  const auto* view = qobject_cast<const QAbstractItemView*>(option.widget);
  const QColor ground = view != nullptr && view->currentIndex().row() == index.row() ? r.current : r.paper;
  painter->save();
  painter->setClipRect(option.rect, Qt::IntersectClip);
  painter->fillRect(option.rect, state.addedRecord ? r.leafWash : ground);
  const bool query = state.needsALook();
  if (query) {
    painter->fillRect(option.rect, r.queryWash);
  } else if (state.staged) {
    painter->fillRect(option.rect, r.blueWash);
  }
  const bool alone = current && view != nullptr && isOneCell(view->selectionModel()->selection());
  if (selected && !alone) {
    QColor wash = r.blue;
    wash.setAlpha(scheme() == Scheme::Dark ? 60 : 34);
    painter->fillRect(option.rect, wash);
  }
  painter->setPen(r.rule);
  painter->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
  paintText(painter, option.rect.adjusted(10, 0, -10, -1), index, state);
  if (query) {
    painter->setPen(QPen(r.query, 1.4));
    painter->drawRect(option.rect.adjusted(1, 1, -2, -2));
  }
  if (current) {
    painter->setPen(QPen(r.ink, 2));
    painter->setBrush(Qt::NoBrush);
    painter->drawRect(option.rect.adjusted(1, 1, -1, -1));
  }
  painter->restore();
}

}  // namespace iterandum
