// ReceiptLines: records of receipts, a line each: what it is called, what was done to it, its cells before and after.
// Lines of one receipt can be chosen; lines of one record's history can each be taken back.
#pragma once

#include <QWidget>
#include <functional>
#include <set>
#include <vector>

#include "app/session/desk.h"
#include "core/apply/receipt.h"
#include "core/store/record_history.h"

class QLabel;
class QVBoxLayout;

namespace iterandum {

class ReceiptLines : public QWidget {
  Q_OBJECT
 public:
  explicit ReceiptLines(Desk& desk, QWidget* parent = nullptr);

  void clear();
  // Some records of a receipt; the first kMostLines of them.
  void showRows(const Receipt& receipt, const std::vector<ReceiptRow>& rows);
  // What was applied to one record, the latest first.
  void showChanges(const std::vector<RecordChange>& changes);
  // Those whose box is ticked.
  [[nodiscard]] const std::set<ReceiptRow>& chosen() const { return chosen_; }

  static constexpr std::size_t kMostLines = 200;

 signals:
  void chosenChanged();
  void takeBackAsked(const iterandum::RecordChange& change);

 private:
  struct Line {
    ReceiptBlock block;  // of one row
    QString title;       // of the record; empty: its own
    QString below;
    QString why;
    QLabel* head = nullptr;
    QLabel* cells = nullptr;
  };
  // The new line's first widget stands in front of it.
  void add(Line line, QWidget* first);
  void say(Line& line) const;
  void wantNames(const ReceiptBlock& block);
  [[nodiscard]] QString shown(const ReceiptBlock& block, std::size_t column, const Value& value) const;
  [[nodiscard]] QString cellsInWords(const ReceiptBlock& block) const;
  [[nodiscard]] QString titleOf(const ReceiptBlock& block) const;
  [[nodiscard]] static QString whatWasDone(const ReceiptBlock& block);

  Desk& desk_;
  QVBoxLayout* layout_;
  QWidget* holder_ = nullptr;  // of all lines; another one each time
  std::vector<Line> lines_;
  std::set<ReceiptRow> chosen_;
};

}  // namespace iterandum
