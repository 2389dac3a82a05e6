// A condition as SQL: what all engines write in the same way. What differs is how names are quoted, how a value is
// given, and what equal, before and containing mean to the engine.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/scope/query.h"

namespace iterandum {

// How a query speaks of its own table in the statement: columns in conditions are qualified by it, for conditions over
// other tables lie inside.
inline constexpr const char* kQueryAlias = "t";

class ConditionSql {
 public:
  explicit ConditionSql(const Table& table) : table_(&table) {}
  ConditionSql(const ConditionSql&) = delete;
  ConditionSql& operator=(const ConditionSql&) = delete;
  virtual ~ConditionSql() = default;

  [[nodiscard]] std::string text(const Condition& condition);
  // The same, with what must hold of other records as joins, for engines that find those better so: what follows the
  // table, and what follows WHERE. REQUIRES: the condition is not Op::All.
  struct Parts {
    std::string joins;
    std::string where;
  };
  [[nodiscard]] Parts parts(const Condition& condition);

 protected:
  [[nodiscard]] virtual std::string identifier(const std::string& name) const = 0;
  [[nodiscard]] virtual std::string tableName(const Table& table) const = 0;
  // A value, of the column's type.
  [[nodiscard]] virtual std::string operand(const std::string& column, const Value& value) = 0;
  // Equal as the core means it: byte for byte for texts.
  [[nodiscard]] virtual std::string equal(const std::string& column, const Value& value) = 0;
  [[nodiscard]] virtual std::string oneOf(const std::string& column, const std::vector<Value>& values);
  // A text in the form in which texts are held against each other: in small letters, or as it is; in either case by
  // code points, whatever the database's collation. `wanted`: what it is held against, so that letters which are not in
  // it need no care; not known where that is another column.
  [[nodiscard]] virtual std::string comparableText(const std::string& expression, bool exactCase,
                                                   const std::optional<std::string>& wanted) = 0;
  // The same in small letters where it stands in an order.
  [[nodiscard]] virtual std::string orderedText(const std::string& expression,
                                                const std::optional<std::string>& wanted) {
    return comparableText(expression, false, wanted);
  }
  // A column that holds no texts before or after a value, and beside another column.
  [[nodiscard]] virtual std::string before(const std::string& column, const char* sign, const Value& value);
  [[nodiscard]] virtual std::string comparedColumns(const std::string& column, const char* sign,
                                                    const std::string& other);
  // A text that is no value of a column.
  [[nodiscard]] virtual std::string textOperand(const std::string& text) = 0;
  [[nodiscard]] virtual std::string contains(const std::string& text, const std::string& part) = 0;
  [[nodiscard]] virtual std::string startsWith(const std::string& text, const std::string& part) = 0;
  [[nodiscard]] virtual std::string endsWith(const std::string& text, const std::string& part) = 0;
  // `pattern` as in Op::Like.
  [[nodiscard]] virtual std::string like(const std::string& text, const std::string& pattern, bool exactCase) = 0;
  // One of these, none of which has a NULL in it; `columns` as expressions.
  [[nodiscard]] virtual std::string amongKeys(const Table& table, const std::vector<std::string>& columns,
                                              const std::vector<ValueTuple>& keys);
  // Whether the records of a table that fit are better found once than looked up for each record that points there; for
  // engines that do not choose by themselves.
  [[nodiscard]] virtual bool isFewEnough(const Table&) { return false; }
  // Any column as a text.
  [[nodiscard]] virtual std::string asText(const std::string& expression) { return expression; }

  // The column of the table that is spoken of just now.
  [[nodiscard]] std::string own(const std::string& column) const;
  [[nodiscard]] const Column* describe(const std::string& column) const { return table_->column(column); }

 private:
  [[nodiscard]] std::string joined(const Condition& condition, const char* word);
  [[nodiscard]] std::string ordered(const Condition& condition, const char* sign, const Value& value);
  [[nodiscard]] std::string compared(const Condition& condition);
  [[nodiscard]] std::string textTest(const Condition& condition);
  [[nodiscard]] std::string besideColumn(const Condition& condition);
  [[nodiscard]] std::string related(const Condition& condition, const Condition& fits, const char* head,
                                    std::span<const Condition::Join> joins);
  [[nodiscard]] std::string through(const Condition& condition);
  [[nodiscard]] std::string listed(const Condition& condition, const Condition& fits);
  [[nodiscard]] std::string pointing(const Condition& condition);
  [[nodiscard]] std::string among(const KeyList& list);

  const Table* table_;
  std::string alias_ = kQueryAlias;
  int aliases_ = 0;
};

// A pattern of Op::Like in the form of SQL's LIKE, with \\ as its escape.
[[nodiscard]] std::string likePattern(const std::string& pattern);

}  // namespace iterandum
