// The small language of conditions, as filter cells, the sentence and `--where` take it. Its grammar is in
// docs/conditions.md.
#pragma once

#include <chrono>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/result.h"
#include "core/scope/query.h"

namespace iterandum {

// What a desk knows of records that the database does not.
enum class KnownOf { Staged, Finding, Applied };

// What conditions may speak of besides the table itself.
struct ConditionContext {
  const Catalogue* catalogue = nullptr;  // for references; null: none. Outlives the conditions.
  std::chrono::sys_days today;           // what "this year" is counted from
  // The records of a table that the desk knows something of; in one column when it is named, else anywhere. Not set:
  // where this is, nothing is staged.
  std::function<std::shared_ptr<const KeyList>(const Table& table, const std::string& column, KnownOf what)> staged =
      {};
  // The columns by which the records of a table are called: what is asked of a reference's column may be a name. Not
  // set: the one that says best which record it is.
  std::function<std::vector<std::string>(const Table& table)> names = {};
  // What is typed of a column, as the column stores it, where somebody looks at it through a lens. Nothing: nobody
  // does. "stored 5", where it is typed so, is 5. Not set: there are no lenses. Errors: what is wanted there.
  std::function<Result<std::optional<std::string>>(const Table& table, const Column& column, const std::string& text)>
      typed = {};
  // Whether there is a record before: [before condition_code].
  bool knowsBefore = false;

  [[nodiscard]] std::vector<std::string> namesOf(const Table& table) const;
};

// With the day it is here and now.
[[nodiscard]] ConditionContext contextNow(const Catalogue& catalogue);

// What a filter cell of `column`, its own or borrowed, holds. Empty text is no condition (Op::All). The whole language
// may be used in it; what names no column is about this one. Errors: InvalidInput with the position (from 1) as its
// place and what is wanted.
[[nodiscard]] Result<Condition> parseColumnCondition(const Table& table, const ColumnPath& column,
                                                     std::string_view text, const ConditionContext& context);

// The form of `--where`: it begins with a column. Columns may be written as quoted identifiers.
[[nodiscard]] Result<Condition> parseCondition(const Table& table, std::string_view text,
                                               const ConditionContext& context);

// The same for a condition that is a part of a longer text: from one place in it up to the word `stop`. With where that
// word begins; the end of the text where it is not there. Places in errors are those in the whole text.
[[nodiscard]] Result<std::pair<Condition, std::size_t>> parseConditionWithin(const Table& table, std::string_view text,
                                                                             std::size_t from, std::string_view stop,
                                                                             const ConditionContext& context);

// How a condition is put in words.
struct ConditionWording {
  // How the record is called that a key stands for: what is said instead of the key. Nothing: it is not known.
  std::function<std::optional<std::string>(const Table& table, const Column& column, const Value& key)> called = {};
  // How a column is spoken of. Not set, or empty: by its name.
  std::function<std::string(const Table& table, const Column& column)> spokenOf = {};
  // More values than this are counted instead of listed.
  std::size_t mostListed = SIZE_MAX;
};

// In words, for the sentence: "condition is 2 or less", "street contains Har". Read again as a condition, they mean the
// same, unless values are counted instead of listed. `table`: what the condition is over.
[[nodiscard]] std::string conditionInWords(const Table& table, const Condition& condition,
                                           const ConditionWording& wording = {});

// The condition about the record that the steps lead to.
[[nodiscard]] Condition throughSteps(const std::vector<ReferenceStep>& steps, Condition condition);

// Both hold. All is neutral.
[[nodiscard]] Condition bothHold(Condition a, Condition b);

}  // namespace iterandum
