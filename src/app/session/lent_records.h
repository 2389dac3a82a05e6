// LentRecords: the records that columns are borrowed from, read as they are asked for and kept while the database is
// open. Lives on the interface thread and never waits.
#pragma once

#include <QObject>
#include <map>
#include <memory>
#include <unordered_map>
#include <vector>

#include "app/session/database_session.h"

namespace iterandum {

class LentRecords : public QObject {
  Q_OBJECT
 public:
  LentRecords(DatabaseSession& session, std::shared_ptr<const Catalogue> catalogue)
      : session_(session), catalogue_(std::move(catalogue)) {}

  struct Answer {
    bool known = false;                  // else it is being read; arrived() tells when
    const ValueTuple* record = nullptr;  // by recordColumns() of the step's target; null: there is none
  };
  // The record that the step leads to from these values of its columns, none of which is NULL. Valid until control
  // goes back to the event loop.
  [[nodiscard]] Answer record(const ReferenceStep& step, const ValueTuple& there);
  // They may have changed: they are read again when they are next asked for.
  void forget();

 signals:
  void arrived();

 private:
  using Records = std::unordered_map<ValueTuple, std::shared_ptr<ValueTuple>, TupleHash, TupleSame>;
  // One for each table and set of columns by which its records are found.
  struct Lender {
    const Table* table = nullptr;
    std::vector<std::string> columns;
    Records records;  // null: there is none
    std::unordered_map<ValueTuple, bool, TupleHash, TupleSame> wanted;
    std::unordered_map<ValueTuple, bool, TupleHash, TupleSame> failed;  // not asked for again until they are forgotten
    bool asking = false;
  };
  void ask(const std::pair<const Table*, std::vector<std::string>>& which);

  DatabaseSession& session_;
  std::shared_ptr<const Catalogue> catalogue_;
  std::map<std::pair<const Table*, std::vector<std::string>>, Lender> lenders_;
  std::uint64_t generation_ = 0;
};

}  // namespace iterandum
