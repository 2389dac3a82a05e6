#include "core/scope/condition_text.h"

#include <algorithm>
#include <array>
#include <cctype>

#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

struct Word {
  std::string_view text;
  Op op;
};

// Longest first: the first one that fits is taken.
constexpr std::array<Word, 23> kOperators{{{"is not no value", Op::HasValue},
                                           {"is not null", Op::HasValue},
                                           {"has a value", Op::HasValue},
                                           {"has value", Op::HasValue},
                                           {"is no value", Op::NoValue},
                                           {"is null", Op::NoValue},
                                           {"no value", Op::NoValue},
                                           {"starts with", Op::StartsWith},
                                           {"ends with", Op::EndsWith},
                                           {"contains", Op::Contains},
                                           {"starts", Op::StartsWith},
                                           {"is not", Op::NotEqual},
                                           {"ends", Op::EndsWith},
                                           {"not", Op::NotEqual},
                                           {"is", Op::Equal},
                                           {"<=", Op::LessOrEqual},
                                           {">=", Op::GreaterOrEqual},
                                           {"<>", Op::NotEqual},
                                           {"!=", Op::NotEqual},
                                           {"==", Op::Equal},
                                           {"=", Op::Equal},
                                           {"<", Op::Less},
                                           {">", Op::Greater}}};

bool startsWithWord(std::string_view text, std::string_view word) {
  if (text.size() < word.size()) return false;
  for (std::size_t i = 0; i < word.size(); ++i) {
    if (std::tolower(static_cast<unsigned char>(text[i])) != word[i]) return false;
  }
  const bool letters = std::isalpha(static_cast<unsigned char>(word.back()));
  return !letters || text.size() == word.size() || text[word.size()] == ' ' || text[word.size()] == '\'' ||
         text[word.size()] == '"';
}

std::string_view trimmed(std::string_view s) {
  while (!s.empty() && std::isspace(static_cast<unsigned char>(s.front()))) s.remove_prefix(1);
  while (!s.empty() && std::isspace(static_cast<unsigned char>(s.back()))) s.remove_suffix(1);
  return s;
}

tl::unexpected<Error> wrong(std::size_t position, const std::string& message) {
  return fail(ErrorKind::InvalidInput, message, "position " + std::to_string(position + 1));
}

struct Operand {
  std::string text;
  bool quoted = false;
};

Result<Operand> readOperand(std::string_view text, std::size_t position) {
  if (text.empty() || (text[0] != '\'' && text[0] != '"')) return Operand{std::string(text), false};
  const char quote = text[0];
  Operand out{{}, true};
  for (std::size_t i = 1; i < text.size(); ++i) {
    if (text[i] != quote) {
      out.text += text[i];
    } else if (i + 1 < text.size() && text[i + 1] == quote) {
      out.text += text[i++];
    } else if (i + 1 == text.size()) {
      return out;
    } else {
      return wrong(position + i + 1, "nothing may follow the closing quote");
    }
  }
  return wrong(position, "the quote that opens here is not closed");
}

bool searchesInText(Op op) { return op == Op::Contains || op == Op::StartsWith || op == Op::EndsWith; }

Result<Condition> withOperand(const Column& column, Op op, const Operand& operand, std::size_t position) {
  Condition condition;
  condition.op = op;
  condition.column = column.name;
  if (searchesInText(op)) {
    condition.value = Value::text(operand.text);
    return condition;
  }
  if (operand.text.empty() && !operand.quoted) {
    return wrong(position, "a value is wanted here; write '' for empty text, or 'no value'");
  }
  // The column's rules (bounds, allowed values) do not bind a condition: only the form must fit.
  Column free = column;
  free.allowed.clear();
  free.minimum.reset();
  free.maximum.reset();
  free.maxLength.reset();
  free.nullable = true;
  Result<Value> value = operand.quoted && column.type == TypeClass::Any ? Result<Value>(Value::text(operand.text))
                                                                        : typedValue(free, operand.text);
  const bool calendar =
      column.type == TypeClass::Date || column.type == TypeClass::Timestamp || column.type == TypeClass::Time;
  if (!value && column.storesOffType && (operand.quoted || calendar)) value = Value::text(operand.text);
  if (!value) return wrong(position, value.error().message);
  condition.value = *value;
  if (condition.value.isNull()) condition.op = op == Op::NotEqual ? Op::HasValue : Op::NoValue;
  return condition;
}

Result<Condition> parseAfterColumn(const Column& column, std::string_view text, std::size_t position) {
  for (const Word& word : kOperators) {
    if (!startsWithWord(text, word.text)) continue;
    std::string_view rest = text.substr(word.text.size());
    const std::size_t skipped = rest.size() - trimmed(rest).size();
    rest = trimmed(rest);
    if (word.op == Op::NoValue || word.op == Op::HasValue) {
      if (!rest.empty()) continue;  // "no value added" is a text to look for, not this operator
      Condition condition;
      condition.op = word.op;
      condition.column = column.name;
      return condition;
    }
    const std::size_t at = position + word.text.size() + skipped;
    ITERANDUM_ASSIGN(const Operand operand, readOperand(rest, at));
    return withOperand(column, word.op, operand, at);
  }
  ITERANDUM_ASSIGN(const Operand operand, readOperand(text, position));
  const bool part = !operand.quoted && (column.type == TypeClass::Text || column.type == TypeClass::Other);
  auto condition = withOperand(column, part ? Op::Contains : Op::Equal, operand, position);
  if (!condition && column.storesOffType) return withOperand(column, Op::Contains, operand, position);
  return condition;
}

}  // namespace

Result<Condition> parseColumnCondition(const Table&, const Column& column, std::string_view text) {
  const std::string_view content = trimmed(text);
  if (content.empty()) return Condition{};
  return parseAfterColumn(column, content, static_cast<std::size_t>(content.data() - text.data()));
}

Result<Condition> parseCondition(const Table& table, std::string_view text) {
  const std::string_view content = trimmed(text);
  std::size_t end = 0;
  std::string name;
  if (!content.empty() && content[0] == '"') {
    for (end = 1; end < content.size(); ++end) {
      if (content[end] == '"' && end + 1 < content.size() && content[end + 1] == '"') {
        ++end;
      } else if (content[end] == '"') {
        break;
      }
      name += content[end];
    }
    ++end;
  } else {
    while (end < content.size() && !std::isspace(static_cast<unsigned char>(content[end])) &&
           std::string_view("=<>!").find(content[end]) == std::string_view::npos) {
      name += content[end++];
    }
  }
  const Column* column = table.column(name);
  if (column == nullptr) {
    std::string known;
    for (const Column& c : table.columns) known += (known.empty() ? "" : ", ") + quotedIfOdd(c.name);
    return wrong(0, "'" + name + "' is no column of " + displayName(table.name) + "; it has " + known);
  }
  const std::string_view rest = end < content.size() ? content.substr(end) : std::string_view();
  if (trimmed(rest).empty()) return wrong(content.size(), "a condition is wanted after the column, like >= 3");
  return parseAfterColumn(*column, trimmed(rest), static_cast<std::size_t>(trimmed(rest).data() - text.data()));
}

Condition bothHold(Condition a, Condition b) {
  if (a.op == Op::All) return b;
  if (b.op == Op::All) return a;
  if (a.op == Op::And) {
    a.parts.push_back(std::move(b));
    return a;
  }
  Condition both;
  both.op = Op::And;
  both.parts.push_back(std::move(a));
  both.parts.push_back(std::move(b));
  return both;
}

std::string conditionInWords(const Condition& c) {
  const std::string value = c.value.isString() && c.value.asString().empty() ? "empty text" : canonicalText(c.value);
  switch (c.op) {
    case Op::All:
      return {};
    case Op::And:
    case Op::Or: {
      std::string out;
      for (const Condition& part : c.parts) {
        if (!out.empty()) out += c.op == Op::And ? " and " : " or ";
        out += conditionInWords(part);
      }
      return out;
    }
    case Op::Not:
      return "not (" + conditionInWords(c.parts.front()) + ")";
    case Op::Equal:
      return c.column + " is " + value;
    case Op::NotEqual:
      return c.column + " is not " + value;
    case Op::Less:
      return c.column + " is below " + value;
    case Op::LessOrEqual:
      return c.column + " is " + value + " or less";
    case Op::Greater:
      return c.column + " is above " + value;
    case Op::GreaterOrEqual:
      return c.column + " is " + value + " or more";
    case Op::Contains:
      return c.column + " contains " + value;
    case Op::StartsWith:
      return c.column + " starts with " + value;
    case Op::EndsWith:
      return c.column + " ends with " + value;
    case Op::NoValue:
      return c.column + " has no value";
    case Op::HasValue:
      return c.column + " has a value";
  }
  return {};
}

}  // namespace iterandum
