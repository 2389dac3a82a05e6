// What is joined by and, or and not, brackets, and columns.
#include "core/scope/condition_reader.h"

#include <algorithm>

#include "core/scope/column_path.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

// What is nested deeper than this is no condition that a person wrote.
constexpr int kDeepest = 50;

Condition joinedBy(Op op, std::vector<Condition> parts) {
  if (parts.size() == 1) return std::move(parts.front());
  Condition out;
  out.op = op;
  out.parts = std::move(parts);
  return out;
}

void markBefore(Condition& c) {
  c.before = !c.column.empty();
  for (Condition& part : c.parts) markBefore(part);
}

}  // namespace

Condition negatedCondition(Condition c) {
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

bool ConditionReader::compares(const ConditionToken& t) {
  return t.kind == Kind::Sign && t.text != "(" && t.text != ")" && t.text != "," && t.text != "..";
}

bool ConditionReader::endsHere(const ConditionToken& t) {
  return t.kind == Kind::End || isSign(t, ")") || isWord(t, "and") || isWord(t, "or");
}

tl::unexpected<Error> ConditionReader::wrong(const ConditionToken& token, const std::string& message) {
  return fail(ErrorKind::InvalidInput, message, "position " + std::to_string(token.begin + 1));
}

std::optional<ConditionReader::FoundOperator> ConditionReader::operatorAt(std::size_t offset,
                                                                          const Column* column) const {
  for (const ConditionOperator& candidate : conditionOperators()) {
    if (candidate.notInTexts && column != nullptr && holdsTexts(*column)) continue;
    bool fits = true;
    for (std::size_t i = 0; i < candidate.words.size() && fits; ++i) {
      fits = isWord(ahead(offset + i), candidate.words[i]);
    }
    if (!fits) continue;
    // "no value added" is a text to look for, not this operator.
    if (candidate.standsAlone() && !endsHere(ahead(offset + candidate.words.size()))) continue;
    return FoundOperator(&candidate, candidate.words.size());
  }
  return std::nullopt;
}

const Op* ConditionReader::signHere() const {
  const auto sign = std::find_if(kConditionSigns.begin(), kConditionSigns.end(),
                                 [&](const auto& s) { return isSign(now(), s.first); });
  return sign == kConditionSigns.end() ? nullptr : &sign->second;
}

Result<Condition> ConditionReader::run(const ColumnPath* about) {
  if (about != nullptr) {
    const Table& owner = about->owner(*table_);
    about_ = {about->steps, &owner, owner.column(about->column)};
  }
  inCell_ = about != nullptr;
  ITERANDUM_ASSIGN(Condition out, alternatives());
  if (now().kind != Kind::End) return wrong(now(), "nothing is left open that this would close");
  return out;
}

Result<Condition> ConditionReader::alternatives() {
  std::vector<Condition> parts;
  while (true) {
    ITERANDUM_ASSIGN(Condition part, conjunction());
    parts.push_back(std::move(part));
    if (!isWord(now(), "or")) break;
    ++at_;
    afterOr_ = true;
  }
  return joinedBy(Op::Or, std::move(parts));
}

Result<Condition> ConditionReader::conjunction() {
  std::vector<Condition> parts;
  while (true) {
    ITERANDUM_ASSIGN(Condition part, oneOf());
    parts.push_back(std::move(part));
    if (!isWord(now(), "and")) break;
    ++at_;
    afterOr_ = false;
  }
  return joinedBy(Op::And, std::move(parts));
}

Result<Condition> ConditionReader::oneOf() {
  if (++depth_ > kDeepest) return wrong(now(), "this is nested too deep");
  auto out = oneOfWithin();
  --depth_;
  return out;
}

Result<Condition> ConditionReader::oneOfWithin() {
  if (isWord(now(), "not") && !operatorAt(0, about_.column)) {
    ++at_;
    const bool bracketed = isSign(now(), "(");
    // It takes the place of a "not" that went before: "is not T7 and not T8".
    if (carried_) {
      carried_->notBefore = carried_->negated = false;
      if (carried_->op == Op::NotEqual) carried_->op = Op::Equal;
    }
    ITERANDUM_ASSIGN(Condition part, oneOf());
    if (bracketed) {
      carried_.reset();
    } else if (carried_) {
      carried_->notBefore = true;
    }
    return negatedCondition(std::move(part));
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
    const auto found = operatorAt(1, nullptr);
    if (found && found->first->op == Op::Among) {
      at_ += 1 + found->second;
      carried_.reset();
      return among(*found->first, "");
    }
  }
  return comparison();
}

Result<Condition> ConditionReader::comparison() {
  const std::size_t here = at_;
  ITERANDUM_ASSIGN(const Path path, column());
  about_ = path;
  if (at_ != here) carried_.reset();
  // "tag not T7" is "not" of "tag T7", as "not T7" is in the cell of tag; elsewhere "not" belongs to an operator.
  const bool opposite = at_ != here && isWord(now(), "not") && !operatorAt(0, path.column);
  if (opposite) ++at_;
  ITERANDUM_ASSIGN(Condition leaf, test(path));
  if (opposite) {
    leaf = negatedCondition(std::move(leaf));
    if (carried_) carried_->notBefore = true;
  }
  if (path.before) markBefore(leaf);
  // A condition on another record holds for that one; what is not, is not on none.
  return throughSteps(path.steps, std::move(leaf));
}

// The column that stands here, when what follows makes it one. Else the one that is spoken of already.
Result<ConditionReader::Path> ConditionReader::column() {
  const bool bracketed = now().kind == Kind::Column;  // [steps] > 1
  const bool canBe = now().kind == Kind::Word || bracketed || (now().kind == Kind::Quoted && now().quote == '"');
  const bool mustBe = about_.column == nullptr;
  if (!canBe) {
    if (!mustBe) return about_;
    return wrong(now(), "a column of " + displayName(table_->name) + " is wanted here: " + columnNames(*table_));
  }
  Path path;
  std::string problem;
  const bool known = resolve(now(), path, problem);
  const ConditionToken& next = ahead(1);
  // In a filter cell two words are a text more likely than a column and its value.
  const bool followed = compares(next) || operatorAt(1, known ? path.column : nullptr).has_value() ||
                        (!inCell_ && !bracketed && !endsHere(next) && !isSign(next, ","));
  if (known && followed) {
    ++at_;
    return path;
  }
  const bool surely = mustBe || (compares(next) && now().kind == Kind::Word && at_ > 0);
  if (!surely) return about_;
  if (known) return wrong(next, "a condition is wanted after the column, like >= 3");
  return wrong(now(), problem);
}

std::string ConditionReader::noBefore() const {
  if (!context_.knowsBefore) return "what a record held before is known to house rules only";
  return table_ == outermost_ ? "" : "what a record held before is known of the record that the rule is about only";
}

std::optional<std::string_view> ConditionReader::beforeIn(std::string_view bracketed) const {
  const auto isBlank = [](char c) { return c == ' ' || c == '\t'; };
  constexpr std::string_view kWord = "before";
  std::size_t at = 0;
  while (at < bracketed.size() && isBlank(bracketed[at])) ++at;
  const std::string_view rest = bracketed.substr(at);
  if (rest.size() <= kWord.size() || !isBlank(rest[kWord.size()])) return std::nullopt;
  if (smallLetters(rest.substr(0, kWord.size())) != kWord || columnCalled(*table_, bracketed) != nullptr) {
    return std::nullopt;
  }
  std::string_view name = rest.substr(kWord.size());
  while (!name.empty() && isBlank(name.front())) name.remove_prefix(1);
  while (!name.empty() && isBlank(name.back())) name.remove_suffix(1);
  return name.empty() ? std::nullopt : std::optional(name);
}

std::optional<std::string_view> ConditionReader::beforeIn(const ConditionToken& token) const {
  return token.kind == Kind::Column ? beforeIn(token.text) : std::nullopt;
}

// A column of this table, or names with dots between.
bool ConditionReader::resolve(const ConditionToken& token, Path& path, std::string& problem) const {
  if (const auto before = beforeIn(token)) {
    problem = noBefore();
    if (!problem.empty()) return false;
    auto found = readColumnPath(*table_, *before, context_.catalogue);
    if (!found) {
      problem = found.error().message;
      return false;
    }
    const Table& owner = found->owner(*table_);
    path = {found->steps, &owner, owner.column(found->column), true};
    return true;
  }
  auto found = !token.path.empty()          ? readColumnPath(*table_, token.path, context_.catalogue)
               : token.kind == Kind::Quoted ? readColumnPath(*table_, std::vector{token.text}, nullptr)
                                            : readColumnPath(*table_, token.text, context_.catalogue);
  if (!found) {
    problem = found.error().message;
    return false;
  }
  const Table& owner = found->owner(*table_);
  path = {found->steps, &owner, owner.column(found->column)};
  return true;
}

}  // namespace iterandum
