// ManyRecords: the records at many positions of a sheet, for an act over all of them at once. What is not loaded is
// read by key behind the scenes; the act is told when all of it is there, and then does all or nothing. One question at
// a time; a new one takes the place of the one before, and so does reading the sheet anew. Lives on the interface
// thread.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <vector>

#include "app/records/sheet_model.h"

namespace iterandum {

// Positions from one to another, both belonging to it.
struct RowRange {
  int first = 0;
  int last = -1;
  [[nodiscard]] int size() const { return last - first + 1; }
};

class ManyRecords : public QObject {
  Q_OBJECT
 public:
  // One record: which, and what the database holds of it, by table().recordColumns(); empty for a new one.
  struct One {
    RecordRef ref;
    ValueTuple stored;
  };
  using Records = std::vector<One>;  // in the order of the positions

  explicit ManyRecords(SheetModel& model, QObject* parent = nullptr);
  ~ManyRecords() override;
  ManyRecords(const ManyRecords&) = delete;
  ManyRecords& operator=(const ManyRecords&) = delete;

  // `act` runs at once where all are loaded, else later; not at all when one of them is gone from the database, cannot
  // be read, or the sheet is read anew meanwhile: said() tells then.
  void take(const std::vector<RowRange>& ranges, std::function<void(Records&&)> act);
  [[nodiscard]] bool reading() const { return reading_ != nullptr; }
  void stop();

  // Stages a value in each of these columns of all the records, as one gesture. Errors: InvalidInput or Constraint,
  // with why one of them cannot take it; nothing is staged then.
  Result<void> stage(const Records& records, const std::vector<std::pair<int, Value>>& values, const QString& what);
  // In each record the value of the first of these columns goes into the others.
  Result<void> stageFromFirst(const Records& records, const std::vector<int>& columns);
  // One cell that is to be something: of the record at this position among them.
  struct CellWish {
    std::size_t record = 0;
    int column = 0;
    Value value;
  };
  struct Refusal {
    std::size_t record = 0;
    int column = 0;
    QString reason;
    bool valueAmiss = false;  // the cell could be edited, but not to this
  };
  enum class Partly { Never, WhereItFits };
  // Stages all of these cells as one gesture, and gives back those that cannot be so. With Partly::Never nothing is
  // staged when there is one.
  std::vector<Refusal> stageCells(const Records& records, const std::vector<CellWish>& cells, const QString& title,
                                  Partly partly);
  // Stages the removal of all of them; a new one is just dropped.
  void remove(const Records& records);
  // What the record holds in a column of the table, as it is staged.
  [[nodiscard]] Value effective(const One& record, int column) const;
  [[nodiscard]] bool isStaged(const One& record, int column) const;

 signals:
  void said(const QString& message);

 private:
  [[nodiscard]] bool allLoaded(const std::vector<RowRange>& ranges) const;
  [[nodiscard]] Records loaded(const std::vector<RowRange>& ranges) const;
  [[nodiscard]] Result<void> canEdit(const Records& records, int column) const;
  [[nodiscard]] Result<std::optional<CellEdit>> edit(const One& record, int column, const Value& value) const;

  SheetModel& model_;
  std::shared_ptr<Progress> reading_;
  std::uint64_t asked_ = 0;
};

}  // namespace iterandum
