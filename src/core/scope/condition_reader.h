// Reading conditions: a descent over the grammar of docs/conditions.md. Behind condition_text.h, which is what others
// take.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/scope/condition_operand.h"
#include "core/scope/condition_operators.h"
#include "core/scope/condition_text.h"
#include "core/scope/condition_tokens.h"
#include "core/scope/reference_naming.h"

namespace iterandum {

class ConditionReader {
 public:
  ConditionReader(const Table& table, std::string_view text, const ConditionContext& context,
                  std::vector<ConditionToken> tokens)
      : table_(&table), text_(text), context_(context), tokens_(std::move(tokens)) {}

  // `about`: what conditions without a column are about; null: the first one has to name it.
  [[nodiscard]] Result<Condition> run(const ColumnPath* about);

 private:
  using Kind = ConditionToken::Kind;
  using Op = Condition::Op;

  // A column, by which way it is reached.
  struct Path {
    std::vector<ReferenceStep> steps;
    const Table* table = nullptr;
    const Column* column = nullptr;
    bool before = false;  // what it held before a change
  };
  // The operator of the condition before, which one without any goes on with.
  struct Carried {
    Op op = Op::Equal;
    bool exact = false;
    bool negated = false;
    bool none = false;       // there was no operator, and there goes on to be none
    bool notBefore = false;  // by a "not" that is no part of the operator: whether it goes on, nobody can tell
  };
  using FoundOperator = std::pair<const ConditionOperator*, std::size_t>;  // with its number of words

  // Words and signs (condition_reader.cpp).
  [[nodiscard]] const ConditionToken& now() const { return tokens_[at_]; }
  [[nodiscard]] const ConditionToken& ahead(std::size_t count) const {
    return tokens_[std::min(at_ + count, tokens_.size() - 1)];
  }
  [[nodiscard]] static bool isSign(const ConditionToken& t, std::string_view sign) {
    return t.kind == Kind::Sign && t.text == sign;
  }
  [[nodiscard]] static bool compares(const ConditionToken& t);
  [[nodiscard]] static bool endsHere(const ConditionToken& t);
  static tl::unexpected<Error> wrong(const ConditionToken& token, const std::string& message);
  // The operator that stands so many words from here. `column`: whose it would be, null: not known.
  [[nodiscard]] std::optional<FoundOperator> operatorAt(std::size_t offset, const Column* column) const;
  [[nodiscard]] const Op* signHere() const;

  // What is joined, and columns (condition_reader.cpp).
  [[nodiscard]] Result<Condition> alternatives();
  [[nodiscard]] Result<Condition> conjunction();
  [[nodiscard]] Result<Condition> oneOf();
  [[nodiscard]] Result<Condition> oneOfWithin();
  [[nodiscard]] Result<Condition> comparison();
  [[nodiscard]] Result<Path> column();
  [[nodiscard]] bool resolve(const ConditionToken& token, Path& path, std::string& problem) const;
  // What stands behind "before" in brackets. Nothing: a column is called so, or the word is not there.
  [[nodiscard]] std::optional<std::string_view> beforeIn(const ConditionToken& token) const;
  [[nodiscard]] std::optional<std::string_view> beforeIn(std::string_view bracketed) const;
  // Why nothing is known of before, here; empty: it is.
  [[nodiscard]] std::string noBefore() const;

  // Records that point here (condition_pointing.cpp).
  [[nodiscard]] Result<std::optional<Condition>> pointing();
  [[nodiscard]] Result<bool> findPointing(const ConditionToken& name, Condition& out) const;
  [[nodiscard]] Result<Condition> which(const Table& there);
  [[nodiscard]] Status readCount(Condition& out);
  [[nodiscard]] Result<std::int64_t> wholeNumberHere();

  // One column and what is asked of it (condition_comparison.cpp).
  [[nodiscard]] Result<Condition> test(const Path& path);
  [[nodiscard]] Result<Condition> withOperator(const Path& path, Op op);
  [[nodiscard]] Result<Condition> withoutOperator(const Path& path);
  [[nodiscard]] Result<Condition> plain(const Path& path);
  [[nodiscard]] Result<ConditionOperand> asStored(const Path& path, Condition::Op op, ConditionOperand value) const;
  [[nodiscard]] Result<Condition> compared(const Path& path, Op op, const ConditionOperand& value);
  [[nodiscard]] Result<Condition> ranged(const Path& path, const ConditionOperand& low, const ConditionOperand& high);
  [[nodiscard]] Result<Condition> list(const Path& path);
  [[nodiscard]] Result<Condition> listed(const Path& path, const std::vector<ConditionOperand>& all);
  [[nodiscard]] Result<Condition> among(const ConditionOperator& how, const std::string& column);
  [[nodiscard]] Result<Condition> withColumn(const Path& path, Op op, const ConditionOperand& value) const;
  // "or less", "or later" behind a value, and moves behind it.
  [[nodiscard]] std::optional<Op> orMore();
  [[nodiscard]] ConditionOperand operand(bool upToAnd, bool upToComma = false, bool upToRange = false);
  // `make` builds the condition for a column: for the key, for the name, or for either.
  template <typename Make>
  [[nodiscard]] Result<Condition> byKeyOrName(const Path& path, Op op, const Make& make) const;
  template <typename Make>
  [[nodiscard]] static Result<Condition> byName(const ReferenceNaming& naming, const Make& make);

  const Table* table_;
  const Table* outermost_ = table_;
  std::string_view text_;
  const ConditionContext& context_;
  std::vector<ConditionToken> tokens_;
  std::size_t at_ = 0;
  int depth_ = 0;
  bool inCell_ = false;
  bool afterOr_ = false;
  Path about_;
  std::optional<Carried> carried_;
};

// The opposite, as simply as it can be said.
[[nodiscard]] Condition negatedCondition(Condition condition);

}  // namespace iterandum
