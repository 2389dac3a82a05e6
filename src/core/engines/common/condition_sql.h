// A condition as SQL: what all engines write in the same way. What differs is how names are quoted, how a value is
// given, and what equal and containing mean to the engine.
#pragma once

#include <string>

#include "core/scope/query.h"

namespace iterandum {

class ConditionSql {
 public:
  ConditionSql() = default;
  ConditionSql(const ConditionSql&) = delete;
  ConditionSql& operator=(const ConditionSql&) = delete;
  virtual ~ConditionSql() = default;

  [[nodiscard]] std::string text(const Condition& condition);

 protected:
  [[nodiscard]] virtual std::string identifier(const std::string& name) const = 0;
  // The condition's value, of the column's type.
  [[nodiscard]] virtual std::string operand(const Condition& condition) = 0;
  // Equal as the core means it: byte for byte for texts.
  [[nodiscard]] virtual std::string equal(const Condition& condition) = 0;
  // Op::Contains, StartsWith, EndsWith, letters' case folded.
  [[nodiscard]] virtual std::string holdsPart(const Condition& condition) = 0;

 private:
  [[nodiscard]] std::string joined(const Condition& condition, const char* word);
};

}  // namespace iterandum
