// PageWriter: records on pages, as a print form says: a table with its heads on every page, cards, or labels; the title
// on the first page, the day and the number of the page below. A record is never parted while it fits on a page; what
// is wider than a column goes on in the next line. Texts can be searched for, faces are embedded.
#pragma once

#include <QFont>
#include <QPageLayout>
#include <QString>
#include <optional>
#include <vector>

#include "core/files/print_form.h"
#include "core/files/record_writer.h"
#include "pages/page_target.h"

namespace iterandum {

class PageWriter final : public RecordWriter {
 public:
  // A QGuiApplication has to be there. `target` gets the pages and outlives the writer. `groupAt`: which value of a
  // record says its group; one that is not in `records.columns` (it is behind them) is not shown for itself.
  PageWriter(RecordForm records, PrintForm form, PageTarget& target, std::optional<std::size_t> groupAt = {});
  [[nodiscard]] Status begin() override { return {}; }
  // Errors: Cancelled, the target wants no more pages.
  [[nodiscard]] Status record(const ValueTuple& values) override;
  [[nodiscard]] Status end() override;
  // Labels on which not all found room.
  [[nodiscard]] std::uint64_t cut() const { return cut_; }
  // The target wanted no more pages.
  [[nodiscard]] bool full() const { return full_; }

 private:
  struct Cell {
    QString text;
    bool isNone = false;  // no value, or empty text: said, in soft letters
    bool isNumber = false;
    bool isLabel = false;  // what a card's value is called
  };
  using Row = std::vector<Cell>;
  struct Record {
    Row row;
    QString group;
  };

  [[nodiscard]] static Cell cellOf(const Value& value, bool ofNumbers);
  // By what the first records need: upright where that is enough room for them, else lying.
  void settle();
  void settleTable();
  void settleCards();
  [[nodiscard]] std::vector<double> naturalWidths() const;
  [[nodiscard]] std::vector<double> leastWidths() const;
  void breakHeads();
  [[nodiscard]] QSizeF turn(QPageLayout::Orientation usual);
  [[nodiscard]] double heightOf(const Row& row);
  void draw(const Record& record);
  void drawGroup(const QString& group, double following);
  void drawGroupCount();
  void drawCard(const Row& values);
  void drawLabel(const Row& values);
  void drawRow(const Row& row);
  void drawCell(const Cell& cell, const QRectF& place, double from);
  void drawHeads();
  void drawTitle();
  void beginPage();
  void finishPage();
  // On to the next page; false: no more are wanted.
  bool nextPage();
  [[nodiscard]] double room() const;
  [[nodiscard]] QPainter& painter() { return target_.painter(); }
  [[nodiscard]] double lineHeight() const;

  RecordForm records_;
  PrintForm form_;
  PageTarget& target_;
  std::optional<std::size_t> groupAt_;
  QFont text_;
  QFont head_;
  QFont group_;
  QFont title_;
  std::vector<Record> waiting_;  // until widths are settled
  std::vector<double> widths_;
  Row heads_;
  QSizeF page_;
  bool settled_ = false;
  std::uint64_t cut_ = 0;
  bool full_ = false;  // no more pages are wanted
  double headHeight_ = 0;
  double at_ = 0;  // how far down this page is filled
  int number_ = 0;
  int label_ = 0;  // on this page
  std::optional<QString> inGroup_;
  std::uint64_t ofGroup_ = 0;
};

}  // namespace iterandum
