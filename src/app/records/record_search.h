// How records are looked for by what people call them: by their key, by another unique value, by a part of their name.
#pragma once

#include <QString>
#include <string>
#include <vector>

#include "core/scope/query.h"

namespace iterandum {

// Some of these columns has the text in it, whatever its capitals.
[[nodiscard]] Condition calledLike(const std::vector<std::string>& readable, const QString& text);
// The key is this one; the parts of a key are said one after the other, with commas. Errors: Constraint, InvalidInput,
// with what is wanted.
[[nodiscard]] Result<Condition> keyIs(const Table& table, const QString& text);
// The key is this one, or another unique column holds it. All: the text can be none of them.
[[nodiscard]] Condition namedExactly(const Table& table, const QString& text);

}  // namespace iterandum
