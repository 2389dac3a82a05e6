// Reading conditions: a descent over the grammar of docs/conditions.md.
#include <algorithm>
#include <array>
#include <charconv>
#include <utility>

#include "core/catalogue/column_rules.h"
#include "core/scope/column_path.h"
#include "core/scope/condition_operand.h"
#include "core/scope/condition_operators.h"
#include "core/scope/condition_text.h"
#include "core/scope/condition_tokens.h"

namespace iterandum {
namespace {

using Kind = ConditionToken::Kind;
using Op = Condition::Op;

// What is nested deeper than this is no condition that a person wrote.
constexpr int kDeepest = 50;

// A column, by which way it is reached.
struct Path {
  std::vector<ReferenceStep> steps;
  const Table* table = nullptr;
  const Column* column = nullptr;
};

Path pathTo(const Table& table, const ColumnPath& path) {
  const Table& owner = path.owner(table);
  return {path.steps, &owner, owner.column(path.column)};
}

Condition joined(Op op, std::vector<Condition> parts) {
  if (parts.size() == 1) return std::move(parts.front());
  Condition out;
  out.op = op;
  out.parts = std::move(parts);
  return out;
}

Condition negated(Condition c) {
  if (c.op == Op::Equal) {
    c.op = Op::NotEqual;
  } else if (c.op == Op::NoValue) {
    c.op = Op::HasValue;
  } else if (c.op == Op::HasValue) {
    c.op = Op::NoValue;
  } else {
    Condition out;
    out.op = Op::Not;
    out.parts.push_back(std::move(c));
    return out;
  }
  return c;
}

class Parser {
 public:
  Parser(const Table& table, std::string_view text, const ConditionContext& context, std::vector<ConditionToken> tokens)
      : table_(&table), text_(text), context_(context), tokens_(std::move(tokens)) {}

  // `about`: what conditions without a column are about; null: the first one has to name it.
  Result<Condition> run(const ColumnPath* about) {
    if (about != nullptr) about_ = pathTo(*table_, *about);
    inCell_ = about != nullptr;
    ITERANDUM_ASSIGN(Condition out, alternatives());
    if (now().kind != Kind::End) return wrong(now(), "nothing is left open that this would close");
    return out;
  }

 private:
  [[nodiscard]] const ConditionToken& now() const { return tokens_[at_]; }
  [[nodiscard]] const ConditionToken& ahead(std::size_t count) const {
    return tokens_[std::min(at_ + count, tokens_.size() - 1)];
  }
  [[nodiscard]] bool isSign(const ConditionToken& t, std::string_view sign) const {
    return t.kind == Kind::Sign && t.text == sign;
  }
  [[nodiscard]] static bool compares(const ConditionToken& t) {
    return t.kind == Kind::Sign && t.text != "(" && t.text != ")" && t.text != ",";
  }
  static tl::unexpected<Error> wrong(const ConditionToken& token, const std::string& message) {
    return fail(ErrorKind::InvalidInput, message, "position " + std::to_string(token.begin + 1));
  }

  Result<Condition> alternatives() {
    if (++depth_ > kDeepest) return wrong(now(), "this is nested too deep");
    std::vector<Condition> parts;
    while (true) {
      ITERANDUM_ASSIGN(Condition part, conjunction());
      parts.push_back(std::move(part));
      if (!isWord(now(), "or")) break;
      ++at_;
      afterOr_ = true;
    }
    --depth_;
    return joined(Op::Or, std::move(parts));
  }

  Result<Condition> conjunction() {
    std::vector<Condition> parts;
    while (true) {
      ITERANDUM_ASSIGN(Condition part, oneOf());
      parts.push_back(std::move(part));
      if (!isWord(now(), "and")) break;
      ++at_;
      afterOr_ = false;
    }
    return joined(Op::And, std::move(parts));
  }

  Result<Condition> oneOf() {
    if (isWord(now(), "not") && !operatorHere()) {
      if (++depth_ > kDeepest) return wrong(now(), "this is nested too deep");
      ++at_;
      ITERANDUM_ASSIGN(Condition part, oneOf());
      --depth_;
      return negated(std::move(part));
    }
    if (isSign(now(), "(")) {
      ++at_;
      ITERANDUM_ASSIGN(Condition part, alternatives());
      if (!isSign(now(), ")")) return wrong(now(), "a closing bracket is wanted here");
      ++at_;
      return part;
    }
    if (context_.catalogue != nullptr) {
      ITERANDUM_ASSIGN(auto counted, pointing());
      if (counted) return std::move(*counted);
    }
    if (isWord(now(), "record") && table_->column(now().text) == nullptr) {
      const auto found = operatorAt(1);
      if (found && found->first->op == Op::Among) {
        at_ += 1 + found->second;
        return among(*found->first, "");
      }
    }
    return comparison();
  }

  // --- columns -------------------------------------------------------------------------------------------------------

  // The column that stands here, when what follows makes it one. Else the one that is spoken of already.
  Result<Path> column() {
    const bool canBe = now().kind == Kind::Word || (now().kind == Kind::Quoted && now().quote == '"');
    const bool mustBe = about_.column == nullptr;
    if (canBe) {
      const std::size_t here = at_++;
      // In a filter cell two words are a text more likely than a column and its value.
      const bool followed =
          compares(now()) || operatorHere().has_value() || (!inCell_ && !endsHere(now()) && !isSign(now(), ","));
      at_ = here;
      Path path;
      std::string problem;
      if (followed && resolve(now(), path, problem)) {
        ++at_;
        return path;
      }
      const bool surely = mustBe || (compares(ahead(1)) && now().kind == Kind::Word && at_ > 0);
      if (surely) {
        if (resolve(now(), path, problem)) {
          return wrong(ahead(1), "a condition is wanted after the column, like >= 3");
        }
        return wrong(now(), problem);
      }
    } else if (mustBe) {
      return wrong(now(), "a column of " + displayName(table_->name) + " is wanted here: " + columnNames(*table_));
    }
    return about_;
  }

  // A column of this table, or names with dots between.
  bool resolve(const ConditionToken& token, Path& path, std::string& problem) const {
    auto found = token.kind == Kind::Quoted ? readColumnPath(*table_, token.text, nullptr)
                                            : readColumnPath(*table_, token.text, context_.catalogue);
    if (!found) {
      problem = found.error().message;
      return false;
    }
    path = pathTo(*table_, *found);
    return true;
  }

  // --- records that point here
  // -----------------------------------------------------------------------------------------

  // "no inspection", "any inspection where (…)", "count of inspection >= 3"
  Result<std::optional<Condition>> pointing() {
    const std::size_t here = at_;
    const bool counts = isWord(now(), "count") && isWord(ahead(1), "of");
    const bool none = isWord(now(), "no");
    if (!counts && !none && !isWord(now(), "any")) return std::optional<Condition>();
    at_ += counts ? 2 : 1;
    Condition out;
    out.op = Op::Pointing;
    if (now().kind == Kind::End || !incoming(now().text, out)) {
      at_ = here;
      if (!counts) return std::optional<Condition>();  // "no value", or a text that begins like this
      return wrong(ahead(2), "'" + ahead(2).text + "' is no table that points at " + displayName(table_->name));
    }
    ++at_;
    Condition which;
    if (isWord(now(), "where")) {
      ++at_;
      if (!isSign(now(), "(")) return wrong(now(), "brackets are wanted round what the records there have to be like");
      ++at_;
      const Table* outer = table_;
      Path about = std::move(about_);
      const auto carried = std::exchange(carried_, std::nullopt);
      const bool inCell = std::exchange(inCell_, false);
      table_ = out.related;
      about_ = {};
      auto inner = alternatives();
      table_ = outer;
      about_ = std::move(about);
      carried_ = carried;
      inCell_ = inCell;
      if (!inner) return fail(std::move(inner.error()));
      if (!isSign(now(), ")")) return wrong(now(), "a closing bracket is wanted here");
      ++at_;
      which = std::move(*inner);
    }
    out.parts.push_back(std::move(which));
    out.compare = none ? Op::Equal : Op::Greater;
    out.value = Value::integer(0);
    if (counts) ITERANDUM_TRY(readCount(out));
    return std::optional<Condition>(std::move(out));
  }

  Status readCount(Condition& out) {
    const auto sign = std::find_if(kConditionSigns.begin(), kConditionSigns.end(),
                                   [&](const auto& s) { return isSign(now(), s.first); });
    if (sign == kConditionSigns.end()) return wrong(now(), "a comparison is wanted here, like >= 3");
    out.compare = sign->second;
    ++at_;
    std::int64_t n = 0;
    const std::string& digits = now().text;
    const auto read = std::from_chars(digits.data(), digits.data() + digits.size(), n);
    if (now().kind != Kind::Word || read.ec != std::errc() || read.ptr != digits.data() + digits.size() || n < 0) {
      return wrong(now(), "a number of records is wanted here");
    }
    out.value = Value::integer(n);
    ++at_;
    return {};
  }

  bool incoming(const std::string& name, Condition& out) const {
    const std::size_t dot = name.find('.');
    const std::string table = name.substr(0, dot);
    for (const IncomingReference& in : context_.catalogue->referencesTo(table_->name)) {
      const Table& child = context_.catalogue->tables()[in.table];
      const Reference& reference = child.references[in.reference];
      if (child.name.name != table || reference.targetMissing) continue;
      const std::string column = child.columns[reference.columns[0]].name;
      if (dot != std::string::npos && name.substr(dot + 1) != column) continue;
      out.related = &child;
      out.relatedSaid = name;
      out.join.clear();
      for (std::size_t i = 0; i < reference.columns.size(); ++i) {
        out.join.emplace_back(reference.targetColumns[i], child.columns[reference.columns[i]].name);
      }
      return true;
    }
    return false;
  }

  // --- comparisons
  // -----------------------------------------------------------------------------------------------------

  // The operator that stands so many words from here, with how many words it has.
  [[nodiscard]] std::optional<std::pair<const ConditionOperator*, std::size_t>> operatorAt(std::size_t offset) const {
    for (const ConditionOperator& candidate : conditionOperators()) {
      bool fits = true;
      for (std::size_t i = 0; i < candidate.words.size() && fits; ++i)
        fits = isWord(ahead(offset + i), candidate.words[i]);
      if (!fits) continue;
      const bool alone = candidate.op == Op::NoValue || candidate.op == Op::HasValue || candidate.op == Op::Among;
      // "no value added" is a text to look for, not this operator.
      if (alone && !endsHere(ahead(offset + candidate.words.size()))) continue;
      return std::pair(&candidate, candidate.words.size());
    }
    return std::nullopt;
  }
  [[nodiscard]] std::optional<std::pair<const ConditionOperator*, std::size_t>> operatorHere() const {
    return operatorAt(0);
  }

  // What is staged, or has a finding, in one column or anywhere in the record.
  Result<Condition> among(const ConditionOperator& how, const std::string& column) {
    if (!context_.staged) {
      return wrong(ahead(0), "nothing is staged here; what is staged can be asked for in the window");
    }
    const Table& table = column.empty() || about_.table == nullptr ? *table_ : *about_.table;
    Condition out;
    out.op = Op::Among;
    out.column = column;
    out.keys = context_.staged(table, column, how.ofFindings);
    out.said = how.ofFindings ? "has a finding" : "is staged";
    return how.negated ? negated(std::move(out)) : std::move(out);
  }

  [[nodiscard]] bool endsHere(const ConditionToken& t) const {
    return t.kind == Kind::End || isSign(t, ")") || isWord(t, "and") || isWord(t, "or");
  }

  Result<Condition> comparison() {
    const std::size_t here = at_;
    ITERANDUM_ASSIGN(const Path path, column());
    about_ = path;
    if (at_ != here) carried_.reset();
    // "tag not T7" is "not" of "tag T7", as "not T7" is in the cell of tag; elsewhere "not" belongs to an operator.
    const bool opposite = at_ != here && isWord(now(), "not") && !operatorHere();
    if (opposite) ++at_;
    ITERANDUM_ASSIGN(Condition leaf, test(*path.column));
    if (opposite) leaf = negated(std::move(leaf));
    // A condition on another record holds for that one; what is not, is not on none.
    return throughSteps(path.steps, std::move(leaf));
  }

  Result<Condition> test(const Column& column) {
    const auto sign = std::find_if(kConditionSigns.begin(), kConditionSigns.end(),
                                   [&](const auto& s) { return isSign(now(), s.first); });
    if (sign != kConditionSigns.end()) {
      ++at_;
      carried_ = Carried{sign->second, false, sign->second == Op::NotEqual};
      return compared(column, sign->second, operand(false));
    }
    const auto found = operatorHere();
    if (!found) return withoutOperator(column);
    const auto [how, count] = *found;
    at_ += count;
    if (how->op == Op::Among) return among(*how, column.name);
    carried_ = Carried{how->op, false, how->negated || how->op == Op::NotEqual};
    if (how->op == Op::NoValue || how->op == Op::HasValue) {
      Condition out;
      out.op = how->op;
      out.column = column.name;
      return out;
    }
    ITERANDUM_ASSIGN(Condition out, withOperator(column, how->op));
    return how->negated ? negated(std::move(out)) : std::move(out);
  }

  Result<Condition> withOperator(const Column& column, Op op) {
    if (op == Op::Between) {
      ITERANDUM_ASSIGN(const ConditionOperand low, checked(operand(true)));
      if (!isWord(now(), "and")) return wrong(now(), "'and' and the upper end are wanted here");
      ++at_;
      ITERANDUM_ASSIGN(const ConditionOperand high, checked(operand(false)));
      return rangeCondition(column, low, high, context_.today);
    }
    if (op == Op::OneOf) return list(column);
    const bool ofText = op == Op::Contains || op == Op::StartsWith || op == Op::EndsWith || op == Op::Like;
    const bool exact = ofText && isWord(now(), "exactly");
    if (exact) ++at_;
    ITERANDUM_ASSIGN(Condition out, compared(column, op, operand(false)));
    out.exactCase = exact;
    carried_->exact = exact;
    return out;
  }

  Result<Condition> compared(const Column& column, Op op, const ConditionOperand& value) {
    if (now().kind == Kind::Quoted || now().kind == Kind::Column) {
      return wrong(now(), "nothing may follow the closing quote");
    }
    if (value.isColumn) {
      const auto other = readColumnPath(*about_.table, value.text, nullptr);
      if (!other) {
        return fail(ErrorKind::InvalidInput, other.error().message, "position " + std::to_string(value.position + 1));
      }
      return columnCondition(column, op, *about_.table->column(other->column), value);
    }
    return valueCondition(column, op, value, context_.today);
  }

  static Result<ConditionOperand> checked(ConditionOperand value) {
    if (!value.text.empty() || value.quoted) return value;
    return fail(ErrorKind::InvalidInput, "a value is wanted here; write '' for empty text, or 'no value'",
                "position " + std::to_string(value.position + 1));
  }

  Result<Condition> list(const Column& column) {
    const bool bracketed = isSign(now(), "(");
    if (bracketed) ++at_;
    std::vector<ConditionOperand> all;
    while (true) {
      ITERANDUM_ASSIGN(ConditionOperand one, checked(operand(false, true)));
      all.push_back(std::move(one));
      if (!isSign(now(), ",")) break;
      ++at_;
    }
    if (bracketed) {
      if (!isSign(now(), ")")) return wrong(now(), "a closing bracket is wanted here");
      ++at_;
    }
    return listCondition(column, all, context_.today);
  }

  Result<Condition> withoutOperator(const Column& column) {
    if (carried_ && afterOr_ && carried_->negated) {
      return wrong(now(), "'not … or …' can be read in two ways; say 'is not one of …', or repeat the operator");
    }
    const ConditionOperand value = operand(false);
    if (now().kind == Kind::Quoted || now().kind == Kind::Column) {
      return wrong(now(), "nothing may follow the closing quote");
    }
    if (carried_ && isCarriedOn(carried_->op)) {
      ITERANDUM_ASSIGN(Condition out, compared(column, carried_->op, value));
      out.exactCase = carried_->exact;
      return carried_->negated && carried_->op != Op::NotEqual ? negated(std::move(out)) : std::move(out);
    }
    return plainCondition(column, value, context_.today);
  }

  // "is T7 or T8", but not "<= 2 or 5".
  static bool isCarriedOn(Op op) {
    return op == Op::Equal || op == Op::NotEqual || op == Op::Contains || op == Op::StartsWith || op == Op::EndsWith ||
           op == Op::Like;
  }

  // A quoted text, a column in brackets, or all words up to the next "and", "or" or closing bracket.
  ConditionOperand operand(bool upToAnd, bool upToComma = false) {
    ConditionOperand out;
    out.position = now().begin;
    if (now().kind == Kind::Quoted || now().kind == Kind::Column) {
      out.quoted = now().kind == Kind::Quoted;
      out.isColumn = now().kind == Kind::Column;
      out.text = now().text;
      ++at_;
      return out;
    }
    int open = 0;
    std::size_t end = now().begin;
    for (; now().kind != Kind::End; ++at_) {
      if (open == 0 && (isSign(now(), ")") || isWord(now(), "and") || (!upToAnd && isWord(now(), "or")))) break;
      if (open == 0 && upToComma && isSign(now(), ",")) break;
      if (isSign(now(), "(")) ++open;
      if (isSign(now(), ")")) --open;
      end = now().end;
    }
    out.text = text_.substr(out.position, end - out.position);
    return out;
  }

  const Table* table_;
  std::string_view text_;
  const ConditionContext& context_;
  std::vector<ConditionToken> tokens_;
  std::size_t at_ = 0;
  int depth_ = 0;
  bool inCell_ = false;
  bool afterOr_ = false;
  Path about_;
  // The operator of the condition before, which one without any goes on with.
  struct Carried {
    Op op = Op::Equal;
    bool exact = false;
    bool negated = false;
  };
  std::optional<Carried> carried_;
};

}  // namespace

Result<Condition> parseColumnCondition(const Table& table, const ColumnPath& column, std::string_view text,
                                       const ConditionContext& context) {
  ITERANDUM_ASSIGN(std::vector<ConditionToken> tokens, conditionTokens(text));
  if (tokens.front().kind == Kind::End) return Condition{};
  return Parser(table, text, context, std::move(tokens)).run(&column);
}

Result<Condition> parseCondition(const Table& table, std::string_view text, const ConditionContext& context) {
  ITERANDUM_ASSIGN(std::vector<ConditionToken> tokens, conditionTokens(text));
  return Parser(table, text, context, std::move(tokens)).run(nullptr);
}

}  // namespace iterandum
