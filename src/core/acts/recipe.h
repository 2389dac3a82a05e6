// Recipe: acts that are kept under a name, with what they ask for each time. A document of its own (docs/formats.md),
// kept in the store and exchanged as a file.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/acts/act.h"
#include "core/expression/expression.h"
#include "core/scope/scope.h"

namespace iterandum {

// What is asked for when the recipe is used; in the acts it stands as {name}.
struct RecipeQuestion {
  enum class Kind { Text, Number, Day };
  std::string name;
  std::string says;  // to a person; empty: the name
  Kind kind = Kind::Text;
  std::optional<std::string> usual;  // what is taken where nothing is said
  friend bool operator==(const RecipeQuestion&, const RecipeQuestion&) = default;
};

struct Recipe {
  std::string name;
  std::string table;           // as parseTableName() takes it
  std::optional<Scope> scope;  // over which records, where nothing else is said; of the same table
  std::vector<RecipeQuestion> questions;
  std::vector<Act> acts;
  friend bool operator==(const Recipe&, const Recipe&) = default;
};

[[nodiscard]] std::string recipeToJson(const Recipe& recipe);
// Errors: InvalidFile with the JSON Pointer.
[[nodiscard]] Result<Recipe> recipeFromJson(std::string_view document);

// A recipe with its questions answered.
struct AnsweredRecipe {
  std::vector<Act> acts;
  std::map<std::string, Computed, std::less<>> answers;  // for expressions

  [[nodiscard]] ExpressionContext context(ExpressionContext around) const;
};

// Errors: InvalidInput, a question without an answer, an answer to none, or one that is not of the kind.
[[nodiscard]] Result<AnsweredRecipe> answered(const Recipe& recipe, const std::map<std::string, std::string>& answers);

// The recipe that takes back what this one does, where that can be told: one act that sets yes or no, or one of two
// values that the column allows; a list that leads from each value to another; or two columns that are exchanged.
[[nodiscard]] std::optional<Recipe> oppositeOf(const Recipe& recipe, const Table& table);

}  // namespace iterandum
