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

class ReceiptLines;
struct PartTakenBack;
struct RecordChange;

class HistoryPage : public QWidget {
  Q_OBJECT
 public:
  explicit HistoryPage(Desk& desk, QWidget* parent = nullptr);
  void reload();
  void takeBack();
  [[nodiscard]] bool canTakeBack() const { return receipt_ != nullptr && linesShown_; }
  // All that was applied to one record, the latest first, in place of one receipt.
  void showRecord(const TableName& table, const ValueTuple& key, const QString& title);
  // The receipt that is shown: as JSON where the name says so, else as a page: PDF, HTML.
  void saveReceipt(const QString& path);
  // Whether all receipts that are kept, of any database, are there and as they were kept: told in words.
  void checkReceipts();
  // Those of this database, with digests over them, to be filed or taken in on another desk.
  void writeAllReceipts(const QString& path);
  void takeInReceipts(const QString& path);
  // The line that receipts are found by gets the keys.
  void focusSearch();

 signals:
  void said(const QString& message);
  void told(const QString& message);  // what was done, where nothing is amiss
  void alarmed(const QString& message);
  void takenBack();
  void menuAsked(const QPoint& where);

 private:
  void showReceipt();
  void showRecords();
  void showLines(std::vector<ReceiptRow> rows);
  [[nodiscard]] static QString saidBefore(const Receipt& receipt);
  void offer();
  void takeBackOne(const RecordChange& change);
  // Without any rows: all of it.
  void takeBackRows(const std::shared_ptr<const Receipt>& receipt, const std::vector<ReceiptRow>& rows);
  void stageTakenBack(const Receipt& receipt, PartTakenBack&& taken, std::size_t records);
  void search();
  void showFound(const std::vector<std::int64_t>& found);
  void findOut(std::int64_t id);
  void foundOut(std::int64_t id, WrittenState state);
  Desk& desk_;
  std::vector<KeptReceipt> kept_;
  std::shared_ptr<const Receipt> receipt_;
  std::vector<ReceiptRow> shown_;  // of it; not only those that have a line
  bool linesShown_ = false;        // shown_ and narrowed_ are of this receipt, and of these words
  std::uint64_t linesAsked_ = 0;   // as recordAsked_
  bool narrowed_ = false;          // to those in which the words stand
  std::int64_t askedId_ = 0;       // of the receipt that is shown or about to be; 0: none
  std::uint64_t reloads_ = 0;
  std::uint64_t recordAsked_ = 0;  // counts on with each question; what was asked before is forgotten
  std::shared_ptr<Progress> searching_;
  QLineEdit* search_;
  QLabel* found_;
  QTimer* soon_;
  QListWidget* list_;
  QLabel* heading_;
  QLabel* detail_;
  ReceiptLines* lines_;
  QScrollArea* scroll_;
  QPushButton* back_;
};

}  // namespace iterandum
