// CardIncoming: below the fields of the card, how many records of each table point at the record, and the way to them.
#pragma once

#include <QWidget>
#include <vector>

#include "app/records/sheet_model.h"

namespace iterandum {

class CardIncoming : public QWidget {
  Q_OBJECT
 public:
  explicit CardIncoming(SheetModel& model, QWidget* parent = nullptr);
  // Counts for another record; -1: for none.
  void show(int row);

 signals:
  void openAsked(const Scope& scope);

 private:
  struct Incoming {
    const Table* table;
    Condition where;
    Scope scope;  // the same, as a sheet shows it
  };
  [[nodiscard]] std::vector<Incoming> incomingOf(const ValueTuple& record) const;
  void fill(const std::vector<Incoming>& incoming, const std::vector<std::uint64_t>& counts);

  SheetModel& model_;
  std::uint64_t counting_ = 0;
};

}  // namespace iterandum
