// Looks after unique keys: values that are taken in the database or twice in the change set, and values that one record
// gives up for another. Part of the examination.
#pragma once

#include <string>
#include <vector>

#include "core/engines/session.h"
#include "core/review/facts.h"
#include "core/review/verdicts.h"

namespace iterandum {

class UniqueCheck {
 public:
  // All outlive the check.
  UniqueCheck(Session& session, Facts& facts, Verdicts& verdicts, Progress& progress)
      : session_(session), facts_(facts), verdicts_(verdicts), progress_(progress) {}
  [[nodiscard]] Status run();

 private:
  struct Taker {
    RowPlace place;
    ValueTuple tuple;
  };
  [[nodiscard]] std::vector<Taker> takers(const Table& table, const UniqueKey& key) const;
  void findDoublesInside(const Table& table, const UniqueKey& key, const std::vector<Taker>& takers);
  [[nodiscard]] Status findTaken(const Table& table, const UniqueKey& key, const std::vector<Taker>& takers);
  void report(const RowPlace& place, const Table& table, const UniqueKey& key, const ValueTuple& tuple,
              const std::string& by);

  Session& session_;
  Facts& facts_;
  Verdicts& verdicts_;
  Progress& progress_;
};

}  // namespace iterandum
