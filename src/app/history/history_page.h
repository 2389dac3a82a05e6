// HistoryPage: the receipts of this database. Each can be read and taken back; taking back stages, it never writes.
#pragma once

#include <QWidget>
#include <memory>
#include <vector>

#include "app/session/desk.h"
#include "core/apply/outcome.h"

class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QScrollArea;
class QTimer;

namespace iterandum {

class HistoryPage : public QWidget {
  Q_OBJECT
 public:
  explicit HistoryPage(Desk& desk, QWidget* parent = nullptr);
  void reload();
  void takeBack();
  [[nodiscard]] bool canTakeBack() const { return receipt_.has_value(); }
  // All that was applied to one record, the latest first, in place of one receipt.
  void showRecord(const TableName& table, const ValueTuple& key, const QString& title);
  void saveReceipt(const QString& path);
  // The line that receipts are found by gets the keys.
  void focusSearch();

 signals:
  void said(const QString& message);
  void takenBack();
  void menuAsked(const QPoint& where);

 private:
  void showReceipt();
  void showBlocks();
  void wantNames(const ReceiptBlock& block);
  // Of one record in a receipt; as HTML.
  [[nodiscard]] QString shown(const ReceiptBlock& block, std::size_t column, const Value& value) const;
  [[nodiscard]] QString cellsInWords(const ReceiptBlock& block, std::size_t row) const;
  [[nodiscard]] static QString whatWasDone(const ReceiptBlock& block, std::size_t row);
  [[nodiscard]] QString titleOf(const ReceiptBlock& block, std::size_t row, const ValueTuple& key) const;
  [[nodiscard]] static QString lineOf(const QString& head, const QString& below, const QString& cells);
  void search();
  void showFound(const std::vector<std::int64_t>& found);
  void findOut(std::int64_t id);
  void foundOut(std::int64_t id, WrittenState state);
  Desk& desk_;
  std::vector<KeptReceipt> kept_;
  std::optional<Receipt> receipt_;
  std::uint64_t recordAsked_ = 0;  // counts on with each question; what was asked before is forgotten
  std::shared_ptr<Progress> searching_;
  QLineEdit* search_;
  QLabel* found_;
  QTimer* soon_;
  QListWidget* list_;
  QLabel* heading_;
  QLabel* detail_;
  QScrollArea* scroll_;
  QPushButton* back_;
};

}  // namespace iterandum
