// HouseRuleWatch: the house rules of a table that speak of nothing but the record itself (and of what it held before),
// judged in memory: while a value is typed, and for what is staged on screen. Rules that reach further are judged by
// the review. Lives on the interface thread; nothing of it waits.
#pragma once

#include <QString>
#include <optional>
#include <vector>

#include "app/session/desk.h"
#include "core/scope/condition_check.h"

namespace iterandum {

class HouseRuleWatch {
 public:
  HouseRuleWatch(const Desk& desk, const Table& table) : desk_(desk), table_(table) { readAgain(); }

  // After the rules changed.
  void readAgain();
  [[nodiscard]] bool any() const { return !rules_.empty(); }

  struct Broken {
    QString words;
    bool stops = true;
    std::vector<std::size_t> columns;  // those that the rule reads
    [[nodiscard]] bool speaksOf(std::size_t column) const;
  };
  // One cell of a record, by the table's columns.
  struct Cell {
    Value after;
    Value before;
    bool known = true;  // the database does not set it
  };
  // The first rule that the record would break; one that stops before one that warns. A rule that it broke just the
  // same before is none, and neither is one that reads what is not known yet.
  [[nodiscard]] std::optional<Broken> brokenBy(const std::vector<Cell>& record, bool isNew) const;

 private:
  struct Rule {
    ReadRule read;
    RecordNeeds needs;
    ConditionCheck check;
    std::vector<std::size_t> columns;  // of the needs
    std::vector<std::size_t> before;
  };
  [[nodiscard]] static bool holds(const Rule& rule, const std::vector<Cell>& record, bool now, bool isNew);

  const Desk& desk_;
  const Table& table_;
  std::vector<Rule> rules_;
};

}  // namespace iterandum
