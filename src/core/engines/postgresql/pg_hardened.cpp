// Statements of ours whose words mean the server's own operators, functions and types, whatever the search path says:
// an operator = or a function lower that somebody made in a schema of the path would else run with the user's rights,
// and could answer anything.
#include <algorithm>
#include <cctype>

#include "core/engines/postgresql/pg_session.h"

namespace iterandum {
namespace {

constexpr std::string_view kOperatorLetters = "+-*/<>=~!@#%^&|`?";

// Functions that our own statements call; what looks like a call besides is grammar.
constexpr std::string_view kFunctions[] = {"abs",    "btrim", "char_length",    "count", "host",   "length",
                                           "lower",  "now",   "regexp_replace", "right", "strpos", "to_regclass",
                                           "unnest", "upper", "round",          "floor", "trunc"};

// Types that are words of the grammar, and so nobody else's.
constexpr std::string_view kGrammarTypes[] = {"bigint",  "bit",   "boolean",  "char",    "character", "decimal",
                                              "double",  "float", "int",      "integer", "interval",  "nchar",
                                              "numeric", "real",  "smallint", "time",    "timestamp", "varchar"};

template <std::size_t N>
bool isOneOf(std::string_view word, const std::string_view (&words)[N]) {
  return std::find(std::begin(words), std::end(words), word) != std::end(words);
}

bool startsWord(char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0 || c == '_'; }
bool isWordPart(char c) { return startsWord(c) || (c >= '0' && c <= '9') || c == '$'; }

class Hardener {
 public:
  explicit Hardener(std::string_view sql) : sql_(sql) {}

  std::string text() {
    while (at_ < sql_.size()) {
      const char c = sql_[at_];
      if (c == '\'' || c == '"') {
        takeQuoted(c);
      } else if (startsWord(c)) {
        takeWord();
      } else if (c == ':' && sql_.substr(at_, 2) == "::") {
        take(2);
        if (at_ < sql_.size() && startsWord(sql_[at_])) takeType();
      } else if (kOperatorLetters.find(c) != std::string_view::npos) {
        takeOperator();
      } else {
        take(1);
        if (c != ' ') dotted_ = c == '.';
      }
    }
    return std::move(out_);
  }

 private:
  void take(std::size_t count) {
    out_ += sql_.substr(at_, count);
    at_ += count;
  }

  [[nodiscard]] std::size_t wordEnd() const {
    std::size_t end = at_;
    while (end < sql_.size() && isWordPart(sql_[end])) ++end;
    return end;
  }

  // A text or a quoted name, doubled quotes inside; behind an E, backslashes escape.
  void takeQuoted(char quote) {
    const bool escapes = quote == '\'' && at_ > 0 && (sql_[at_ - 1] == 'E' || sql_[at_ - 1] == 'e') &&
                         (at_ < 2 || !isWordPart(sql_[at_ - 2]));
    std::size_t end = at_ + 1;
    while (end < sql_.size()) {
      const bool doubled = sql_[end] == quote && end + 1 < sql_.size() && sql_[end + 1] == quote;
      if (doubled || (escapes && sql_[end] == '\\')) {
        end += 2;
      } else if (sql_[end] != quote) {
        ++end;
      } else {
        break;
      }
    }
    take(std::min(end + 1, sql_.size()) - at_);
    dotted_ = false;
  }

  void takeWord() {
    const std::size_t end = wordEnd();
    const bool call = end < sql_.size() && sql_[end] == '(' && !dotted_;
    if (call && sql_.substr(at_, end - at_) == "unnest") return takeUnnest(end);
    if (call && isOneOf(sql_.substr(at_, end - at_), kFunctions)) out_ += "pg_catalog.";
    // OPERATOR(pg_catalog.=) is spelled out already.
    if (sql_.substr(at_, end - at_) == "OPERATOR" && end < sql_.size()) {
      take(sql_.find(')', end) - at_);
    } else {
      take(end - at_);
    }
    dotted_ = false;
  }

  // unnest over several arrays is a form of the grammar, which goes by the bare name: spelled out in its longer one.
  void takeUnnest(std::size_t open) {
    const std::size_t close = std::min(sql_.find(')', open), sql_.size() - 1);
    std::string calls;
    for (std::size_t at = open + 1; at < close;) {
      const std::size_t end = std::min(sql_.find(", ", at), close);
      calls += (calls.empty() ? "" : ", ") + ("pg_catalog.unnest(" + Hardener(sql_.substr(at, end - at)).text() + ")");
      at = end + 2;
    }
    out_ += "ROWS FROM (" + calls + ")";
    at_ = close + 1;
    dotted_ = false;
  }

  void takeType() {
    const std::size_t end = wordEnd();
    const bool elsewhere = end < sql_.size() && sql_[end] == '.';
    if (!elsewhere && !isOneOf(sql_.substr(at_, end - at_), kGrammarTypes)) out_ += "pg_catalog.";
    take(end - at_);
    dotted_ = false;
  }

  void takeOperator() {
    std::size_t end = at_;
    while (end < sql_.size() && kOperatorLetters.find(sql_[end]) != std::string_view::npos) ++end;
    const std::string_view name = sql_.substr(at_, end - at_);
    // count(*), and a sign before a number, which is part of it.
    const bool star = name == "*" && at_ > 0 &&
                      (sql_[at_ - 1] == '(' || sql_[at_ - 1] == '.' || sql_[at_ - 1] == ' ') &&
                      (end == sql_.size() || sql_[end] == ')' || sql_[end] == ' ');
    const bool sign = name == "-" && end < sql_.size() && sql_[end] >= '0' && sql_[end] <= '9';
    if (star || sign) return take(end - at_);
    out_ += "OPERATOR(pg_catalog." + std::string(name) + ")";
    at_ = end;
    dotted_ = false;
  }

  std::string_view sql_;
  std::size_t at_ = 0;
  bool dotted_ = false;
  std::string out_;
};

}  // namespace

std::string pgHardened(std::string_view sql) { return Hardener(sql).text(); }

}  // namespace iterandum
