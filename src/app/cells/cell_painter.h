// CellPainter: draws the cells of the sheet: the old text struck through with the correction beside it, what is missing
// in words, and what needs a look.
#pragma once

#include <QStyledItemDelegate>

#include "app/records/sheet_model.h"

namespace iterandum {

class CellPainter : public QStyledItemDelegate {
  Q_OBJECT
 public:
  explicit CellPainter(const SheetModel& model, QObject* parent = nullptr)
      : QStyledItemDelegate(parent), model_(model) {}
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;

 private:
  void paintText(QPainter* painter, const QRect& where, const QModelIndex& index, const CellState& state) const;
  const SheetModel& model_;
};

// A run of text in one face and colour.
struct TextRun {
  QString text;
  QColor color;
  bool struck = false;
  bool bold = false;
  bool italic = false;
};
// Draws runs one after the other on one line, cut off with an ellipsis; returns the width that was used.
int drawRuns(QPainter* painter, const QRect& where, const QFont& font, const std::vector<TextRun>& runs, bool right);
// The runs that show a cell.
[[nodiscard]] std::vector<TextRun> cellRuns(const SheetModel& model, int column, const CellState& state);

}  // namespace iterandum
