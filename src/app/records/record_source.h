// RecordSource: the records of a scope, as many as there are, a screenful at a time.
//
// The first screen is one bare query. Behind it the keys of all records are read in their order into a compact index,
// so that any position can be shown by looking its records up by key. Records themselves are kept only around what is
// on screen. The index is as the database was when it was read: what somebody removes meanwhile is shown as gone, what
// somebody adds is there after reading again. Lives on the interface thread and never waits.
#pragma once

#include <QHash>
#include <QObject>
#include <memory>
#include <optional>

#include "app/session/desk.h"
#include "core/scope/key_index.h"
#include "core/scope/query.h"

namespace iterandum {

class RecordSource : public QObject {
  Q_OBJECT
 public:
  RecordSource(Desk& desk, const Table& table, QObject* parent = nullptr);
  ~RecordSource() override;

  [[nodiscard]] const Table& table() const { return table_; }
  [[nodiscard]] const Condition& where() const { return where_; }
  [[nodiscard]] const std::vector<SortKey>& order() const { return order_; }

  // Reads anew under these conditions.
  void read(Condition where, std::vector<SortKey> order);
  // How many records the whole table has is of no interest.
  void setCountsTable(bool counts) { countsTable_ = counts; }
  // Reads the same again.
  void refresh() { read(where_, order_); }
  // Takes the record as it is now, after it was written or re-read.
  void forgetRecords();

  [[nodiscard]] int rows() const { return rows_; }
  [[nodiscard]] bool complete() const { return complete_; }
  [[nodiscard]] bool reading() const { return reading_; }
  // Another one after each reading: what a position meant before, it may not mean now.
  [[nodiscard]] std::uint64_t generation() const { return generation_; }
  // Whether records were ever asked for.
  [[nodiscard]] bool everRead() const { return generation_ > 0; }
  // The reading was stopped: there are more records than rows(), or none was read yet.
  [[nodiscard]] bool stopped() const { return stopped_; }
  void stop();
  // The positions of all records, for other threads: a copy is cheap.
  [[nodiscard]] const KeyIndex& index() const { return index_; }
  // How many records the whole table has, once counted.
  [[nodiscard]] std::optional<std::uint64_t> tableCount() const { return tableCount_; }
  [[nodiscard]] ValueTuple key(int row) const;
  // By table().recordColumns(); null while it is not loaded. Valid until the next call that changes this object.
  [[nodiscard]] const ValueTuple* record(int row) const;
  [[nodiscard]] QList<int> loadedRows() const { return records_.keys(); }
  // The record is known to be gone from the database.
  [[nodiscard]] bool isGone(int row) const;
  // Sees to it that these rows get loaded; of several wishes at once, the last one counts.
  void want(int first, int last);
  // The row of a key among these; many of them take RowSearch.
  [[nodiscard]] std::optional<int> rowOf(const ValueTuple& key, int first, int last) const;
  [[nodiscard]] std::size_t memoryBytes() const;

 signals:
  void aboutToRestart();  // what a place in the sheet means is about to change; the records are still there
  void restarted();
  void rowsAboutToGrow(int first, int last);
  void rowsGrew();
  void loaded(int first, int last);
  void counted();
  void failed(const QString& message);

 private:
  void readFirstScreen();
  void readKeys();
  void countTable();
  void takeKeys(std::uint64_t generation, std::size_t start, KeyIndex&& keys, bool last);
  [[nodiscard]] bool agrees(const KeyIndex& keys) const;
  void takeRecords(std::uint64_t generation, int first, int last, std::vector<std::pair<int, ValueTuple>>&& records);
  void wantNames(const std::vector<std::pair<int, ValueTuple>>& records);
  [[nodiscard]] Query baseQuery() const;

  Desk& desk_;
  const Table& table_;
  Condition where_;
  std::vector<SortKey> order_;
  std::vector<std::size_t> keyAt_;  // where the key lies in a record
  std::uint64_t generation_ = 0;
  int rows_ = 0;
  bool complete_ = false;
  bool reading_ = false;
  bool stopped_ = false;
  int disagreements_ = 0;  // how often the first screen was overtaken by somebody's writing
  std::optional<std::uint64_t> tableCount_;
  KeyIndex index_;
  QHash<int, std::shared_ptr<ValueTuple>> records_;
  QHash<int, bool> gone_;
  QHash<int, bool> requested_;
  bool fetching_ = false;  // records are being looked up
  bool countsTable_ = true;
  bool counting_ = false;  // so are the records of the whole table
  std::optional<std::pair<int, int>> nextWanted_;
  std::shared_ptr<Progress> screenReading_;
  std::shared_ptr<Progress> keyReading_;
};

}  // namespace iterandum
