// RuleWatch: the rules of a table that only the database can judge (over several columns, with its own functions),
// asked about for staged records while they are on screen, so that nobody has to wait for the review to hear of them.
// Lives on the interface thread and never waits; the last answer stands until the next one is there.
#pragma once

#include <QHash>
#include <QObject>
#include <vector>

#include "app/session/desk.h"

namespace iterandum {

class RuleWatch : public QObject {
  Q_OBJECT
 public:
  struct Broken {
    QString words;
    std::vector<std::size_t> columns;  // those the rule speaks of; empty: it cannot be told
    [[nodiscard]] bool speaksOf(std::size_t column) const;
  };

  RuleWatch(Desk& desk, const Table& table, QObject* parent = nullptr);

  // Whether the table has such rules at all.
  [[nodiscard]] bool needed() const { return needed_; }
  // The columns that ask() wants the records by: all that are not computed.
  [[nodiscard]] const std::vector<std::size_t>& columns() const { return columns_; }
  // Asks about these records as they will be when everything is applied.
  void ask(const std::vector<RecordRef>& refs, std::vector<ValueTuple> records);
  // Null when the record breaks no rule, as far as is known. Valid until the next answer.
  [[nodiscard]] const Broken* broken(const RecordRef& ref) const;
  // Whether any record does.
  [[nodiscard]] bool any() const { return !broken_.isEmpty(); }

 signals:
  void answered();
  // A record that broke no rule before breaks one now.
  void said(const QString& message);

 private:
  Desk& desk_;
  const Table& table_;
  bool needed_ = false;
  std::vector<std::size_t> columns_;
  std::uint64_t asking_ = 0;
  QHash<QString, Broken> broken_;
};

}  // namespace iterandum
