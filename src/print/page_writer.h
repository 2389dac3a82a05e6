// PageWriter: records as a table on pages, in a PDF: the heads on every page, the title on the first, the day and the
// number of the page below. A record is never parted while it fits on a page; what is wider than a column goes on in
// the next line. Texts can be searched, faces are embedded.
#pragma once

#include <QFont>
#include <QPageLayout>
#include <QPainter>
#include <QPdfWriter>
#include <QString>
#include <memory>
#include <vector>

#include "core/files/record_writer.h"

namespace iterandum {

class PageWriter final : public RecordWriter {
 public:
  // A QGuiApplication has to be there. `device` gets the document and outlives the writer.
  PageWriter(RecordForm form, QIODevice& device);
  [[nodiscard]] Status begin() override;
  [[nodiscard]] Status record(const ValueTuple& values) override;
  [[nodiscard]] Status end() override;

 private:
  struct Cell {
    QString text;
    bool isNone = false;  // no value, or empty text: said, in soft letters
    bool isNumber = false;
  };
  using Row = std::vector<Cell>;

  [[nodiscard]] static Cell cellOf(const Value& value, bool ofNumbers);
  // By what the first records need: upright where that is enough room for them, else lying.
  void settle();
  [[nodiscard]] std::vector<double> naturalWidths() const;
  [[nodiscard]] double heightOf(const Row& row) const;
  void draw(const Row& row);
  void drawCell(const Cell& cell, const QRectF& place, double from);
  void drawHeads();
  void beginPage();
  void finishPage();
  [[nodiscard]] double room() const;

  RecordForm form_;
  QPdfWriter pdf_;
  std::unique_ptr<QPainter> painter_;
  QFont text_;
  QFont head_;
  QFont title_;
  std::vector<Row> waiting_;  // until widths are settled
  std::vector<double> widths_;
  Row heads_;
  bool settled_ = false;
  double headHeight_ = 0;
  double at_ = 0;  // how far down this page is filled
  int page_ = 0;
};

}  // namespace iterandum
