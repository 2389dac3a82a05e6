#include "core/engines/sqlite/create_statements.h"

#include "core/engines/common/sql_tokens.h"

namespace iterandum {
namespace {
constexpr SqlDialect kSqlite{true, false};
}

std::vector<CheckRule> checkRulesOf(std::string_view createTable) {
  const std::vector<SqlToken> tokens = sqlTokens(createTable, kSqlite);
  std::vector<CheckRule> out;
  int depth = 0;
  for (std::size_t i = 0; i < tokens.size(); ++i) {
    if (isSymbol(tokens[i], "(")) ++depth;
    if (isSymbol(tokens[i], ")")) --depth;
    if (depth != 1 || !isWord(tokens[i], "check") || i + 1 >= tokens.size() || !isSymbol(tokens[i + 1], "(")) continue;
    const std::size_t close = closing(tokens, i + 1, tokens.size());
    if (close == tokens.size()) break;
    CheckRule rule;
    rule.expression = createTable.substr(tokens[i + 1].end, tokens[close].begin - tokens[i + 1].end);
    if (i >= 2 && isWord(tokens[i - 2], "constraint")) rule.name = tokens[i - 1].text;
    out.push_back(std::move(rule));
    i = close;
  }
  return out;
}

std::vector<NamedReference> namedReferencesOf(std::string_view createTable) {
  const std::vector<SqlToken> tokens = sqlTokens(createTable, kSqlite);
  std::vector<NamedReference> out;
  int depth = 0;
  std::size_t begin = 0;  // of the column or rule that is being read
  std::string constraint;
  std::vector<std::string> columns;  // of FOREIGN KEY
  for (std::size_t i = 0; i < tokens.size(); ++i) {
    if (isSymbol(tokens[i], ")")) --depth;
    if (depth == 1 && isWord(tokens[i], "constraint") && i + 1 < tokens.size()) constraint = tokens[i + 1].text;
    if (depth == 1 && isWord(tokens[i], "key") && i > 0 && isWord(tokens[i - 1], "foreign")) {
      const std::size_t close = i + 1 < tokens.size() ? closing(tokens, i + 1, tokens.size()) : tokens.size();
      for (std::size_t c = i + 1; c < close; ++c) {
        if (isName(tokens[c])) columns.push_back(tokens[c].text);
      }
    }
    if (depth == 1 && isWord(tokens[i], "references") && i + 1 < tokens.size()) {
      if (columns.empty()) columns = {tokens[begin].text};
      if (!constraint.empty()) out.push_back({constraint, columns, tokens[i + 1].text});
      constraint.clear();
      columns.clear();
    }
    // A name belongs to the rule behind it, not to the next one.
    const bool rule = isWord(tokens[i], "check") || isWord(tokens[i], "unique") || isWord(tokens[i], "primary") ||
                      isWord(tokens[i], "null") || isWord(tokens[i], "default") || isWord(tokens[i], "collate");
    if (depth == 1 && (rule || isSymbol(tokens[i], ","))) constraint.clear();
    if (isSymbol(tokens[i], "(")) ++depth;
    if (depth == 1 && (isSymbol(tokens[i], "(") || isSymbol(tokens[i], ","))) begin = i + 1;
  }
  return out;
}

InsteadOfTrigger insteadOfTrigger(std::string_view createTrigger) {
  const std::vector<SqlToken> tokens = sqlTokens(createTrigger, kSqlite);
  InsteadOfTrigger out;
  for (std::size_t i = 0; i + 2 < tokens.size(); ++i) {
    if (!isWord(tokens[i], "instead") || !isWord(tokens[i + 1], "of")) continue;
    if (isWord(tokens[i + 2], "insert")) out.event = InsteadOfTrigger::Event::Insert;
    if (isWord(tokens[i + 2], "delete")) out.event = InsteadOfTrigger::Event::Delete;
    if (!isWord(tokens[i + 2], "update")) return out;
    out.event = InsteadOfTrigger::Event::Update;
    if (i + 3 < tokens.size() && isWord(tokens[i + 3], "of")) {
      for (std::size_t c = i + 4; c < tokens.size() && !isWord(tokens[c], "on"); ++c) {
        if (isName(tokens[c])) out.updateOf.push_back(tokens[c].text);
      }
    }
    return out;
  }
  return out;
}

}  // namespace iterandum
