// One column and what is asked of it: by a sign, by words, or by a value alone; of the key that a reference holds, or
// of the name of the record it points at.
#include <algorithm>

#include "core/scope/column_path.h"
#include "core/scope/condition_reader.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

bool isTextSearch(Op op) { return op == Op::Contains || op == Op::StartsWith || op == Op::EndsWith || op == Op::Like; }

// Every test of it tells capitals apart, as far as it would not have done so.
void makeExact(Condition& c) {
  if (isTextSearch(c.op)) c.exactCase = true;
  for (Condition& part : c.parts) makeExact(part);
}

Condition eitherHolds(Condition a, Condition b) {
  Condition out;
  out.op = Op::Or;
  out.parts.push_back(std::move(a));
  out.parts.push_back(std::move(b));
  return out;
}

Result<ConditionOperand> checkedOperand(ConditionOperand value) {
  if (!value.text.empty() || value.quoted) return value;
  return fail(ErrorKind::InvalidInput, "a value is wanted here; write '' for empty text, or 'no value'",
              "position " + std::to_string(value.position + 1));
}

}  // namespace

// --- keys and names --------------------------------------------------------------------------------------------------

template <typename Make>
Result<Condition> ConditionReader::byName(const ReferenceNaming& naming, const Make& make) {
  std::optional<Condition> any;
  for (const Column* column : naming.columns) {
    ITERANDUM_ASSIGN(Condition one, make(*column));
    any = any ? eitherHolds(std::move(*any), std::move(one)) : std::move(one);
  }
  Condition out = throughSteps({naming.step}, std::move(*any));
  out.byName = true;
  return out;
}

template <typename Make>
Result<Condition> ConditionReader::byKeyOrName(const Path& path, Op op, const Make& make) const {
  const auto named = referenceNaming(*path.table, *path.column, context_);
  if (!named) return make(*path.column);
  const bool keyIsText = path.column->type == TypeClass::Text || path.column->type == TypeClass::Any;
  if (!keyIsText) {
    // A part of a text is looked for in what people read; a value that can be a key is one.
    if (isTextSearch(op)) return byName(*named, make);
    // What can be no key is a name, though such a text might lie in the column.
    Column keys = *path.column;
    keys.storesOffType = false;
    auto key = make(keys);
    if (key) return key;
    auto name = byName(*named, make);
    return name ? std::move(name) : std::move(key);
  }
  ITERANDUM_ASSIGN(Condition key, make(*path.column));
  // No value is no name either; and an order is that of what lies in the column.
  const bool found = isTextSearch(op) || op == Op::Equal;
  if (key.op == Op::NoValue || !found) return key;
  ITERANDUM_ASSIGN(Condition name, byName(*named, make));
  return eitherHolds(std::move(key), std::move(name));
}

// --- operands
// ---------------------------------------------------------------------------------------------------------

// A quoted text, a column in brackets, or all words up to the next "and", "or" or closing bracket.
ConditionOperand ConditionReader::operand(bool upToAnd, bool upToComma, bool upToRange) {
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
    if (open == 0 && upToRange && isSign(now(), "..")) break;
    if (isSign(now(), "(")) ++open;
    if (isSign(now(), ")")) --open;
    end = now().end;
  }
  out.text = text_.substr(out.position, end - out.position);
  return out;
}

std::optional<Op> ConditionReader::orMore() {
  if (!isWord(now(), "or") || !endsHere(ahead(2))) return std::nullopt;
  const bool less = isWord(ahead(1), "less") || isWord(ahead(1), "earlier");
  if (!less && !isWord(ahead(1), "more") && !isWord(ahead(1), "later")) return std::nullopt;
  at_ += 2;
  return less ? Op::LessOrEqual : Op::GreaterOrEqual;
}

// --- tests
// ------------------------------------------------------------------------------------------------------------

Result<Condition> ConditionReader::test(const Path& path) {
  if (const Op* sign = signHere()) {
    ++at_;
    carried_ = Carried{*sign, false, *sign == Op::NotEqual};
    return compared(path, *sign, operand(false));
  }
  const auto found = operatorAt(0, path.column);
  if (!found) return withoutOperator(path);
  const auto [how, count] = *found;
  at_ += count;
  if (how->op == Op::Among) return among(*how, path.column->name);
  carried_ = Carried{how->op, false, how->negated || how->op == Op::NotEqual};
  if (how->op == Op::NoValue || how->op == Op::HasValue) {
    Condition out;
    out.op = how->op;
    out.column = path.column->name;
    carried_.reset();
    return out;
  }
  Result<Condition> out = Condition{};
  if (how->emptyText) {
    carried_.reset();
    out = compared(path, Op::Equal, {"", true, false, ahead(0).begin});
  } else {
    out = withOperator(path, how->op);
  }
  return out && how->negated ? negatedCondition(std::move(*out)) : std::move(out);
}

Result<Condition> ConditionReader::withOperator(const Path& path, Op op) {
  if (op == Op::Between) {
    ITERANDUM_ASSIGN(const ConditionOperand low, checkedOperand(operand(true)));
    if (!isWord(now(), "and")) return wrong(now(), "'and' and the upper end are wanted here");
    ++at_;
    ITERANDUM_ASSIGN(const ConditionOperand high, checkedOperand(operand(false)));
    return ranged(path, low, high);
  }
  if (op == Op::OneOf) return list(path);
  if (op == Op::Equal || op == Op::NotEqual) {
    const ConditionOperand value = operand(false);
    const auto more = orMore();
    if (!more) return compared(path, op, value);
    carried_.reset();
    ITERANDUM_ASSIGN(Condition out, compared(path, *more, value));
    return op == Op::NotEqual ? negatedCondition(std::move(out)) : std::move(out);
  }
  const bool exact = isTextSearch(op) && isWord(now(), "exactly");
  if (exact) ++at_;
  carried_->exact = exact;
  ITERANDUM_ASSIGN(Condition out, compared(path, op, operand(false)));
  if (exact) makeExact(out);
  return out;
}

// A text that is looked for in what is stored is no value.
Result<ConditionOperand> ConditionReader::asStored(const Path& path, Op op, ConditionOperand value) const {
  const bool said = value.isColumn || value.text.empty() || saysNoValue(value) || saysEmptyText(value);
  if (!context_.typed || said || isTextSearch(op)) return value;
  auto stored = context_.typed(*path.table, *path.column, value.text);
  if (!stored) {
    return fail(ErrorKind::InvalidInput, stored.error().message, "position " + std::to_string(value.position + 1));
  }
  if (!*stored) return value;
  const TypeClass type = path.column->type;
  const bool asItLies = value.text != **stored && value.text.ends_with(**stored);
  value.text = std::move(**stored);
  value.quoted =
      type != TypeClass::Any && type != TypeClass::Integer && type != TypeClass::Real && type != TypeClass::Decimal;
  // "stored 'a text'"
  std::size_t at = 0;
  if (asItLies && value.text.size() > 1 && value.text.front() == '\'') {
    ITERANDUM_ASSIGN(std::string inQuotes, enclosedText(value.text, at, '\'', "the quote"));
    value.text = std::move(inQuotes);
    value.quoted = true;
  }
  return value;
}

Result<Condition> ConditionReader::compared(const Path& path, Op op, const ConditionOperand& value) {
  if (now().kind == Kind::Quoted || now().kind == Kind::Column) {
    return wrong(now(), "nothing may follow the closing quote");
  }
  if ((value.quoted || value.isColumn) && !endsHere(now()) && !isSign(now(), ",")) {
    return wrong(now(), "'and', 'or' or the end is wanted behind what is quoted");
  }
  if (op == Op::NotEqual) {
    ITERANDUM_ASSIGN(Condition out, compared(path, Op::Equal, value));
    return negatedCondition(std::move(out));
  }
  if (value.isColumn) return withColumn(path, op, value);
  ITERANDUM_ASSIGN(const ConditionOperand stored, asStored(path, op, value));
  return byKeyOrName(path, op, [&](const Column& c) { return valueCondition(c, op, stored, context_.today); });
}

Result<Condition> ConditionReader::withColumn(const Path& path, Op op, const ConditionOperand& value) const {
  const auto wrongHere = [&](const std::string& message) {
    return fail(ErrorKind::InvalidInput, message, "position " + std::to_string(value.position + 1));
  };
  const auto before = beforeIn(value.text);
  if (before && !noBefore().empty()) return wrongHere(noBefore());
  // Through a reference, both are columns of the record there; what it held before may be named from here, too.
  if (before && !path.steps.empty()) {
    const auto whole = readColumnPath(*table_, *before, context_.catalogue);
    if (whole && whole->steps == path.steps) {
      ITERANDUM_ASSIGN(Condition out, columnCondition(*path.column, op, *path.table->column(whole->column), value));
      out.otherBefore = true;
      return out;
    }
  }
  const auto other = readColumnPath(*path.table, std::vector{before ? std::string(*before) : value.text}, nullptr);
  if (!other) return wrongHere(other.error().message);
  ITERANDUM_ASSIGN(Condition out, columnCondition(*path.column, op, *path.table->column(other->column), value));
  out.otherBefore = before.has_value();
  return out;
}

Result<Condition> ConditionReader::ranged(const Path& path, const ConditionOperand& low, const ConditionOperand& high) {
  if (!low.isColumn && !high.isColumn) {
    ITERANDUM_ASSIGN(const ConditionOperand from, asStored(path, Op::GreaterOrEqual, low));
    ITERANDUM_ASSIGN(const ConditionOperand to, asStored(path, Op::LessOrEqual, high));
    return byKeyOrName(path, Op::Between, [&](const Column& c) { return rangeCondition(c, from, to, context_.today); });
  }
  ITERANDUM_ASSIGN(Condition from, compared(path, Op::GreaterOrEqual, low));
  ITERANDUM_ASSIGN(Condition to, compared(path, Op::LessOrEqual, high));
  return bothHold(std::move(from), std::move(to));
}

// --- lists
// ------------------------------------------------------------------------------------------------------------

Result<Condition> ConditionReader::list(const Path& path) {
  const bool bracketed = isSign(now(), "(");
  if (bracketed) ++at_;
  carried_->op = carried_->negated ? Op::NotEqual : Op::Equal;
  std::vector<ConditionOperand> all;
  while (true) {
    ITERANDUM_ASSIGN(ConditionOperand one, checkedOperand(operand(false, true)));
    all.push_back(std::move(one));
    if (!isSign(now(), ",")) break;
    ++at_;
  }
  if (bracketed) {
    if (!isSign(now(), ")")) return wrong(now(), "a closing bracket is wanted here");
    ++at_;
  }
  const auto day = bracketed || all.size() > 1 ? std::nullopt : dayAhead(*path.column, all[0], context_.today);
  if (day) {
    const auto more = orMore();
    if (more) carried_.reset();
    return compared(path, more.value_or(Op::Equal), *day);
  }
  return listed(path, all);
}

// Values that are looked for as they are stand in one list; what needs a test of its own is said besides.
Result<Condition> ConditionReader::listed(const Path& path, const std::vector<ConditionOperand>& all) {
  Condition values;
  values.op = Op::OneOf;
  values.column = path.column->name;
  std::vector<Condition> others;
  Condition* names = nullptr;
  others.reserve(all.size());  // `names` points into it
  for (const ConditionOperand& operand : all) {
    ITERANDUM_ASSIGN(Condition one, compared(path, Op::Equal, operand));
    const bool isName = one.op == Op::Through && one.byName && one.parts.front().op == Op::Equal;
    if (one.op == Op::Equal && one.otherColumn.empty()) {
      values.values.push_back(std::move(one.value));
    } else if (isName && names != nullptr) {
      names->values.push_back(std::move(one.parts.front().value));
    } else if (isName) {
      others.push_back(std::move(one));
      names = &others.back().parts.front();
      names->op = Op::OneOf;
      names->values = {std::move(names->value)};
    } else {
      others.push_back(std::move(one));
    }
  }
  if (others.empty()) return values;
  Condition any;
  any.op = Op::Or;
  if (!values.values.empty()) any.parts.push_back(std::move(values));
  for (Condition& other : others) any.parts.push_back(std::move(other));
  return any.parts.size() == 1 ? std::move(any.parts.front()) : std::move(any);
}

// --- without an operator ---------------------------------------------------------------------------------------------

Result<Condition> ConditionReader::withoutOperator(const Path& path) {
  if (!carried_ || (carried_->none && !carried_->notBefore)) {
    carried_ = Carried{};
    carried_->none = true;
    return plain(path);
  }
  if (carried_->notBefore || (carried_->negated && afterOr_)) {
    return wrong(now(), "'not … and …' and 'not … or …' can be read in two ways; say 'is not one of …', or repeat it");
  }
  if (carried_->op == Op::Between) {
    return wrong(now(), "what stands behind a range repeats 'between', or begins with an operator of its own");
  }
  const Carried before = *carried_;
  ITERANDUM_ASSIGN(Condition out, compared(path, before.op, operand(false)));
  if (before.exact) makeExact(out);
  return before.negated && before.op != Op::NotEqual ? negatedCondition(std::move(out)) : std::move(out);
}

// A part of a text, a range (1 .. 5), else the value itself.
Result<Condition> ConditionReader::plain(const Path& path) {
  const bool ofTexts = path.column->type == TypeClass::Text || path.column->type == TypeClass::Other;
  if (isSign(now(), "..")) {
    ++at_;
    ITERANDUM_ASSIGN(const ConditionOperand high, checkedOperand(operand(false)));
    return compared(path, Op::LessOrEqual, high);
  }
  const ConditionOperand value = operand(false, false, true);
  if (value.text.empty() && !value.quoted) return wrong(now(), "a condition is wanted here, like >= 3");
  if (isSign(now(), "..")) {
    ++at_;
    if (endsHere(now())) return compared(path, Op::GreaterOrEqual, value);
    const ConditionOperand high = operand(false);
    if ((high.quoted || high.isColumn) && !endsHere(now())) {
      return wrong(now(), "'and', 'or' or the end is wanted behind what is quoted");
    }
    return ranged(path, value, high);
  }
  if (!ofTexts) {
    if (const auto more = orMore()) return compared(path, *more, value);
  }
  if (saysNoValue(value)) return compared(path, Op::Equal, value);
  if (ofTexts && !value.quoted) {
    const auto stored = context_.typed ? context_.typed(*path.table, *path.column, value.text)
                                       : Result<std::optional<std::string>>(std::nullopt);
    return compared(path, stored && *stored ? Op::Equal : Op::Contains, value);
  }
  if (value.quoted || value.isColumn || !referenceNaming(*path.table, *path.column, context_))
    return compared(path, Op::Equal, value);
  const auto stored = asStored(path, Op::Equal, value);
  if (!stored) return fail(stored.error());
  if (valueCondition(*path.column, Op::Equal, *stored, context_.today)) return compared(path, Op::Equal, value);
  return compared(path, Op::Contains, value);
}

// What is staged, has a finding or was just applied, in one column or anywhere in the record.
Result<Condition> ConditionReader::among(const ConditionOperator& how, const std::string& column) {
  if (!context_.staged) {
    return wrong(ahead(0), "nothing is staged here; what is staged can be asked for in the window");
  }
  const Table& table = column.empty() || about_.table == nullptr ? *table_ : *about_.table;
  Condition out;
  out.op = Op::Among;
  out.column = column;
  out.keys = context_.staged(table, column, how.known);
  out.said = saidOfKnown(how.known, false);
  return how.negated ? negatedCondition(std::move(out)) : std::move(out);
}

}  // namespace iterandum
