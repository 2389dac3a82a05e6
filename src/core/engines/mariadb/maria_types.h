// MariaDB's types: what a column of one takes, and values between the server's text form and ours.
#pragma once

#include <mysql.h>

#include <string>
#include <string_view>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/engines/mariadb/maria_handle.h"
#include "core/value/value.h"

namespace iterandum {

// What information_schema.COLUMNS tells of a column's type.
struct MariaType {
  std::string name;     // DATA_TYPE: varchar, bigint, …
  std::string full;     // COLUMN_TYPE: varchar(8), bigint(20) unsigned, enum('a','b')
  std::string charset;  // of texts; empty for others
  std::string collation;
  std::int64_t characters = 0;
  int digits = 0;
  int decimals = 0;
};

// Fills in what the type says: class, limits, listed values; and engineType, which the functions below read.
void describeMariaType(Column& column, const MariaType& type);

// The labels of enum('a','b') and set('a','b').
[[nodiscard]] std::vector<std::string> mariaLabels(const std::string& fullType);
// The type's name alone: varchar, bigint, float, …
[[nodiscard]] std::string_view mariaBaseType(const Column& column);
[[nodiscard]] bool isMariaText(const Column& column);

// How a column is asked for so that nothing of its value is lost (a FLOAT's digits).
[[nodiscard]] std::string mariaSelected(const Column& column, const std::string& expression);
// A value as the server sends it for an expression of mariaSelected().
[[nodiscard]] Value mariaValue(const MYSQL_FIELD& field, std::string_view text, const Column* column);

// How a column's values travel to the server inside of JSON, and what makes them values of the column again.
struct MariaTransport {
  std::string definition;  // of the column of JSON_TABLE
  std::string expression;  // over `name`
};
// `longest`: characters of the longest of them. For a key the server can look up through an index.
[[nodiscard]] MariaTransport mariaTransport(const Column* column, const std::string& name, std::size_t longest,
                                            bool asKey);
// The text that travels. False when no value of the column's type can be like that.
[[nodiscard]] bool mariaText(const Column* column, const Value& value, std::string& out);

// A value as a literal of a script that runs whatever the client's settings are.
[[nodiscard]] std::string mariaLiteral(const Value& value);

}  // namespace iterandum
