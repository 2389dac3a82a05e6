#include "core/acts/recipe.h"

#include <algorithm>

#include "core/catalogue/column_rules.h"
#include "core/scope/column_path.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

// {name} becomes the answer; what stands in braces and is no name of a question stays as it is.
std::string filledIn(const std::string& text, const std::map<std::string, std::string>& answers) {
  std::string out;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = text[at] == '{' ? text.find('}', at) : std::string::npos;
    const auto answer = end == std::string::npos ? answers.end() : answers.find(text.substr(at + 1, end - at - 1));
    if (answer == answers.end()) {
      out += text[at++];
    } else {
      out += answer->second;
      at = end + 1;
    }
  }
  return out;
}

Result<Computed> valueOf(const RecipeQuestion& question, const std::string& answer) {
  const auto wanted = [&](const char* what) {
    return fail(ErrorKind::InvalidInput,
                std::string(what) + " is wanted for '" + question.name + "', not '" + answer + "'");
  };
  if (question.kind == RecipeQuestion::Kind::Text) return Computed::ofText(answer);
  if (question.kind == RecipeQuestion::Kind::Number) {
    auto number = ExactNumber::read(trimmed(answer));
    if (!number) return wanted("a number");
    return Computed::ofNumber(std::move(*number));
  }
  auto day = calendarOf(trimmed(answer));
  if (!day || day->kind != Computed::Kind::Day) return wanted("a day like 2026-11-25");
  return std::move(*day);
}

std::optional<Act> oppositeOfAct(const Act& act, const Table& table) {
  const Column* column = columnCalled(table, act.column);
  if (column == nullptr) return std::nullopt;
  Act out = act;
  if (act.kind == Act::Kind::Map) {
    for (auto& [from, to] : out.map) std::swap(from, to);
    for (std::size_t i = 0; i < out.map.size(); ++i) {
      for (std::size_t j = 0; j < i; ++j) {
        if (out.map[i].first == out.map[j].first) return std::nullopt;
      }
    }
    return out;
  }
  if (act.kind == Act::Kind::Swap) return out;
  if (act.kind != Act::Kind::To || act.text.find('{') != std::string::npos) return std::nullopt;
  const auto value = typedValue(*column, act.text);
  if (!value) return std::nullopt;
  if (column->type == TypeClass::Boolean) {
    if (!value->isNumber()) return std::nullopt;
    out.text = value->asInteger() != 0 ? "no" : "yes";
    return out;
  }
  if (column->allowed.size() != 2) return std::nullopt;
  const bool first = sameValue(column->allowed[0], *value);
  if (!first && !sameValue(column->allowed[1], *value)) return std::nullopt;
  out.text = canonicalText(column->allowed[first ? 1 : 0]);
  return out;
}

}  // namespace

ExpressionContext AnsweredRecipe::context(ExpressionContext around) const {
  around.asked = [answers = answers](std::string_view name) -> std::optional<Computed> {
    const auto found = answers.find(name);
    return found == answers.end() ? std::nullopt : std::optional(found->second);
  };
  return around;
}

Result<AnsweredRecipe> answered(const Recipe& recipe, const std::map<std::string, std::string>& given) {
  AnsweredRecipe out;
  std::map<std::string, std::string> answers;
  for (const auto& [name, answer] : given) {
    const bool asked = std::any_of(recipe.questions.begin(), recipe.questions.end(),
                                   [&, &called = name](const RecipeQuestion& q) { return q.name == called; });
    if (!asked)
      return fail(ErrorKind::InvalidInput, "the recipe '" + recipe.name + "' does not ask for '" + name + "'");
  }
  for (const RecipeQuestion& question : recipe.questions) {
    const auto said = given.find(question.name);
    if (said == given.end() && !question.usual) {
      return fail(ErrorKind::InvalidInput, "the recipe '" + recipe.name + "' asks for '" + question.name + "'");
    }
    const std::string& answer = said != given.end() ? said->second : *question.usual;
    ITERANDUM_ASSIGN(Computed value, valueOf(question, answer));
    out.answers.emplace(question.name, std::move(value));
    answers.emplace(question.name, answer);
  }
  for (Act act : recipe.acts) {
    if (act.kind != Act::Kind::Compute) act.text = filledIn(act.text, answers);
    act.with = filledIn(act.with, answers);
    for (auto& [from, to] : act.map) {
      if (from) from = filledIn(*from, answers);
      if (to) to = filledIn(*to, answers);
    }
    out.acts.push_back(std::move(act));
  }
  return out;
}

std::optional<Recipe> oppositeOf(const Recipe& recipe, const Table& table) {
  Recipe out = recipe;
  out.acts.clear();
  for (auto act = recipe.acts.rbegin(); act != recipe.acts.rend(); ++act) {
    auto opposite = oppositeOfAct(*act, table);
    if (!opposite) return std::nullopt;
    out.acts.push_back(std::move(*opposite));
  }
  return out;
}

}  // namespace iterandum
