// ClipboardCopy: puts many records on the clipboard, as tab-separated text and as a table in HTML. The text is made in
// short steps, so that the window stays alive over hundreds of thousands of cells. Lives on the interface thread.
#pragma once

#include <QObject>
#include <QString>
#include <functional>
#include <memory>
#include <vector>

#include "app/records/many_records.h"

namespace iterandum {

class ClipboardCopy : public QObject {
  Q_OBJECT
 public:
  // Cells of one block: the records at these positions, columns as they lie on screen.
  struct Part {
    RowRange rows;
    std::vector<int> columns;
  };
  struct Wish {
    std::vector<Part> parts;
    bool heads = false;   // the columns' names above
    bool stored = false;  // values as the database holds them, not as they are shown
  };

  ClipboardCopy(SheetModel& model, ManyRecords& many, QObject* parent = nullptr);
  // `done` follows when all of it is on the clipboard; it is not called when the copy is stopped or cannot be made,
  // which is said. A new copy takes the place of one that goes on.
  void start(Wish wish, std::function<void(const ManyRecords::Records&)> done);
  [[nodiscard]] bool going() const { return job_ != nullptr; }
  void stop();

 signals:
  void said(const QString& message);

 private:
  struct Job;
  [[nodiscard]] bool canCopy(const Wish& wish);
  // Asks for the names that are not known yet; false: all are.
  [[nodiscard]] bool wantNames(const Job& job) const;
  void begin(const std::shared_ptr<Job>& job);
  void goOn(const std::shared_ptr<Job>& job);
  void addRecord(Job& job, const Part& part, int row, const ManyRecords::One& record) const;
  [[nodiscard]] QString cellText(const Wish& wish, int row, int column, const ManyRecords::One& record) const;

  SheetModel& model_;
  ManyRecords& many_;
  std::shared_ptr<Job> job_;
};

}  // namespace iterandum
