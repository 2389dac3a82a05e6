// PostgreSQL's types: what a column of one takes, and values between the server's text form and ours.
#pragma once

#include <libpq-fe.h>

#include <optional>
#include <string>
#include <string_view>

#include "core/catalogue/catalogue.h"
#include "core/value/value.h"

namespace iterandum {

// What pg_type tells of a column's type, a domain already followed to what it is made of.
struct PgType {
  Oid base = 0;
  char kind = 'b';      // pg_type.typtype of the base: b, c, e, m, r
  char category = 'U';  // pg_type.typcategory
  int modifier = -1;    // pg_attribute.atttypmod, or the domain's
};

// Fills in what the type says: class, limits, padding.
void describePgType(Column& column, const PgType& type);
// A value as the server writes it; `type` as the result says.
[[nodiscard]] Value pgValue(Oid type, std::string_view text);
// A value as the server reads it; nothing for NULL.
[[nodiscard]] std::optional<std::string> pgText(const Value& value);
// A value as a literal of a script, cast to the column's type.
[[nodiscard]] std::string pgLiteral(const Value& value, const std::string& castTo);
// Whether a text looks like a pattern, in which 0 stands for a digit and a for a small hexadecimal one.
[[nodiscard]] bool isPgLike(std::string_view text, std::string_view pattern);
inline constexpr std::string_view kPgDay = "0000-00-00";
inline constexpr std::string_view kPgUuid = "aaaaaaaa-aaaa-aaaa-aaaa-aaaaaaaaaaaa";

// Whether a value can be one of the column's at all: a batch with one that cannot would fail as a whole.
enum class PgFit { Yes, No, OnlyTheServerKnows };
[[nodiscard]] PgFit pgFit(const Column* column, const Value& value);
// The type of array in which such values travel: of whole numbers the column's own, which spares the server reading
// texts; else text. REQUIRES: none of them is PgFit::No.
[[nodiscard]] std::string pgArrayType(const Column* column);
// Whether equality of the type is missing, or is something else than sameness (boxes are compared by their area).
[[nodiscard]] bool hasNoEquality(const Column& column);
// Whether sameness of two values has to be found by their texts.
[[nodiscard]] bool isComparedAsText(const Column& column);

}  // namespace iterandum
