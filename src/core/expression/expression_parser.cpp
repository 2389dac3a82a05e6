// Reading expressions: a descent over the grammar of docs/expressions.md.
#include <algorithm>
#include <array>

#include "core/expression/expression.h"
#include "core/expression/expression_node.h"
#include "core/scope/column_path.h"
#include "core/scope/condition_tokens.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

// What is nested deeper, or longer, nobody wrote.
constexpr int kDeepest = 100;
constexpr std::size_t kLongest = 100'000;

using Node = ExpressionNode;

struct Unit {
  std::string_view name;
  std::int64_t months = 0;
  std::int64_t days = 0;
  std::int64_t seconds = 0;
};
constexpr std::array<Unit, 7> kUnits{{{"day", 0, 1, 0},
                                      {"week", 0, 7, 0},
                                      {"month", 1, 0, 0},
                                      {"year", 12, 0, 0},
                                      {"hour", 0, 0, 3600},
                                      {"minute", 0, 0, 60},
                                      {"second", 0, 0, 1}}};

const Unit* unitCalled(std::string word) {
  word = smallLetters(word);
  if (word.ends_with('s')) word.pop_back();
  const auto found = std::find_if(kUnits.begin(), kUnits.end(), [&](const Unit& u) { return u.name == word; });
  return found == kUnits.end() ? nullptr : &*found;
}

bool isLetter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; }
bool isDigit(char c) { return c >= '0' && c <= '9'; }

class ExpressionReader {
 public:
  ExpressionReader(const Table& table, std::string_view text, const ExpressionContext& context, RecordNeeds& needs)
      : table_(table), text_(text), context_(context), needs_(needs) {}

  Result<Node> run() {
    if (text_.size() > kLongest) return wrong(0, "this is too long for an expression");
    ITERANDUM_ASSIGN(Node out, expression());
    skipBlanks();
    if (at_ != text_.size()) return wrong(at_, "+, -, *, /, %, & or the end is wanted here");
    return out;
  }

 private:
  static tl::unexpected<Error> wrong(std::size_t at, const std::string& message) {
    return fail(ErrorKind::InvalidInput, message, "position " + std::to_string(at + 1));
  }
  void skipBlanks() {
    while (at_ < text_.size() && (text_[at_] == ' ' || (text_[at_] >= '\t' && text_[at_] <= '\r'))) ++at_;
  }
  // The word that begins here, in small letters; empty: none does.
  [[nodiscard]] std::string wordAhead() {
    skipBlanks();
    std::size_t end = at_;
    while (end < text_.size() && (isLetter(text_[end]) || (end > at_ && isDigit(text_[end])))) ++end;
    return smallLetters(text_.substr(at_, end - at_));
  }
  bool takeWord(std::string_view word) {
    if (wordAhead() != word) return false;
    at_ += word.size();
    return true;
  }
  bool takeSign(char sign) {
    skipBlanks();
    if (at_ == text_.size() || text_[at_] != sign) return false;
    ++at_;
    return true;
  }

  Result<Node> expression() {
    if (++depth_ > kDeepest) return wrong(at_, "this is nested too deep");
    Result<Node> out = wordAhead() == "if" ? choice() : chain("+-&", &ExpressionReader::product);
    --depth_;
    return out;
  }

  // if … then … else if … then … else …
  Result<Node> choice() {
    Node node;
    node.kind = Node::Kind::Choice;
    node.position = at_;
    while (takeWord("if")) {
      ITERANDUM_ASSIGN(const auto read, parseConditionWithin(table_, text_, at_, "then", context_.conditions));
      const std::size_t begin = std::exchange(at_, read.second);
      if (!takeWord("then")) return wrong(text_.size(), "'then' is wanted behind the condition");
      auto check = ConditionCheck::make(table_, read.first, needs_);
      if (!check) return wrong(begin, check.error().message);
      node.conditions.push_back(std::move(*check));
      ITERANDUM_ASSIGN(Node taken, expression());
      node.parts.push_back(std::move(taken));
      skipBlanks();
      if (!takeWord("else")) return wrong(at_, "'else' is wanted here; 'else no value' where there is nothing to say");
      if (wordAhead() != "if") break;
    }
    ITERANDUM_ASSIGN(Node otherwise, expression());
    node.parts.push_back(std::move(otherwise));
    return node;
  }

  Result<Node> chain(std::string_view signs, Result<Node> (ExpressionReader::*part)()) {
    Node node;
    node.kind = Node::Kind::Chain;
    skipBlanks();
    node.position = at_;
    while (true) {
      ITERANDUM_ASSIGN(Node one, (this->*part)());
      node.parts.push_back(std::move(one));
      skipBlanks();
      if (at_ == text_.size() || signs.find(text_[at_]) == std::string_view::npos) break;
      node.signs.push_back({text_[at_], at_});
      ++at_;
    }
    if (node.parts.size() > 1) return node;
    Node only = std::move(node.parts.front());
    return only;
  }
  Result<Node> product() { return chain("*/%", &ExpressionReader::signedOne); }

  Result<Node> signedOne() {
    skipBlanks();
    const std::size_t here = at_;
    if (!takeSign('-')) return primary();
    Node node;
    node.kind = Node::Kind::Negative;
    node.position = here;
    ITERANDUM_ASSIGN(Node one, primary());
    node.parts.push_back(std::move(one));
    return node;
  }

  Result<Node> primary() {
    skipBlanks();
    if (at_ == text_.size()) return wrong(at_, "a value is wanted here");
    const char c = text_[at_];
    if (isDigit(c) || c == '.') return number();
    if (c == '\'') return quoted();
    if (c == '[') return column();
    if (c == '{') return askedFor();
    if (c == '"') return wrong(at_, "a text stands in single quotes, a column in square brackets");
    if (c == '(') {
      const std::size_t here = at_++;
      ITERANDUM_ASSIGN(Node inner, expression());
      if (!takeSign(')')) return wrong(at_, "a bracket that opens at " + std::to_string(here + 1) + " is not closed");
      return inner;
    }
    if (isLetter(c)) return word();
    return wrong(at_, "a value is wanted here: a number, a 'text', a [column] or a function");
  }

  Node literal(std::size_t position, Computed value) {
    Node node;
    node.position = position;
    node.literal = std::move(value);
    return node;
  }

  Result<Node> number() {
    const std::size_t begin = at_;
    while (at_ < text_.size() && (isDigit(text_[at_]) || text_[at_] == '.')) ++at_;
    const std::string_view digits = text_.substr(begin, at_ - begin);
    auto number = ExactNumber::read(digits);
    const bool stuck = at_ < text_.size() && isLetter(text_[at_]);
    if (!number || !isDigit(digits.back()) || !isDigit(digits.front())) return wrong(begin, "this is no number");
    const Unit* unit = unitCalled(wordAhead());
    if (unit == nullptr && stuck) return wrong(begin, "this is no number");
    if (unit == nullptr) return literal(begin, Computed::ofNumber(std::move(*number)));
    at_ += wordAhead().size();
    constexpr std::int64_t kNanoseconds = 1'000'000'000;
    const auto stretch = times({unit->months, unit->days, unit->seconds * kNanoseconds, unit->seconds > 0}, *number);
    if (!stretch) return wrong(begin, stretch.error().message);
    return literal(begin, Computed::ofStretch(*stretch));
  }

  Result<Node> quoted() {
    const std::size_t begin = at_;
    ITERANDUM_ASSIGN(std::string text, enclosedText(text_, at_, '\'', "quote"));
    return literal(begin, Computed::ofText(std::move(text)));
  }

  Result<Node> column() {
    Node node;
    node.kind = Node::Kind::Column;
    node.position = at_;
    ITERANDUM_ASSIGN(const std::string name, enclosedText(text_, at_, ']', "bracket"));
    const auto path = namedColumn(name);
    if (!path) return wrong(node.position, path.error().message);
    if (const std::string why = cannotBorrow(*path); !why.empty()) return wrong(node.position, why);
    node.column = path->owner(table_).column(path->column);
    if (node.column == nullptr) return wrong(node.position, "'" + name + "' is no column");
    node.slot = needs_.column(*path);
    return node;
  }

  // As conditions take what stands in brackets; a name with odd signs in it may be quoted there.
  Result<ColumnPath> namedColumn(const std::string& name) const {
    if (name.find('"') != std::string::npos && table_.column(name) == nullptr) {
      const auto tokens = conditionTokens(name);
      if (tokens && tokens->size() == 2 && !tokens->front().path.empty()) {
        return readColumnPath(table_, tokens->front().path, context_.conditions.catalogue);
      }
      if (tokens && tokens->size() == 2) {
        return readColumnPath(table_, std::vector{tokens->front().text}, context_.conditions.catalogue);
      }
    }
    return readColumnPath(table_, name, context_.conditions.catalogue);
  }

  Result<Node> askedFor() {
    const std::size_t begin = at_;
    ITERANDUM_ASSIGN(const std::string name, enclosedText(text_, at_, '}', "bracket"));
    auto value = context_.asked ? context_.asked(name) : std::nullopt;
    if (!value) return wrong(begin, "nothing is asked for under the name '" + name + "'");
    return literal(begin, std::move(*value));
  }

  Result<Node> word() {
    const std::size_t begin = at_;
    const std::string name = wordAhead();
    at_ += name.size();
    if (name == "no" && takeWord("value")) return literal(begin, {});
    const bool called = takeSign('(');
    if (!called && name == "today") return literal(begin, Computed::ofDay(context_.conditions.today));
    if (!called && name == "now") {
      auto moment = calendarOf(context_.now);
      return moment ? Result<Node>(literal(begin, std::move(*moment))) : wrong(begin, "nobody knows what time it is");
    }
    if (called && name != "if") return call(begin, name);
    if (name == "if") return wrong(begin, "an if inside of something stands in brackets");
    const bool isColumn = columnCalled(table_, name) != nullptr;
    return wrong(begin, isColumn ? "a column stands in square brackets: [" + name + "]"
                                 : "'" + name + "' is no value; a text stands in single quotes, a column in brackets");
  }

  Result<Node> call(std::size_t begin, const std::string& name) {
    Node node;
    node.position = begin;
    if (name == "row") {
      node.kind = Node::Kind::Row;
      if (!takeSign(')')) return wrong(at_, "row() takes nothing");
      return node;
    }
    node.kind = Node::Kind::Call;
    node.function = expressionFunction(name);
    if (node.function == nullptr) {
      return wrong(begin, "there is no function '" + name + "'; there are " + expressionFunctionNames());
    }
    if (!takeSign(')')) {
      do {
        ITERANDUM_ASSIGN(Node argument, expression());
        node.parts.push_back(std::move(argument));
      } while (takeSign(','));
      if (!takeSign(')')) return wrong(at_, "',' or a closing bracket is wanted here");
    }
    const std::size_t count = node.parts.size();
    if (count < node.function->least || count > node.function->most) {
      const bool exactly = node.function->least == node.function->most;
      return wrong(begin, name + " takes " + (exactly ? "" : "at least ") + std::to_string(node.function->least) +
                              (node.function->least == 1 ? " value" : " values") + ", not " + std::to_string(count));
    }
    return node;
  }

  const Table& table_;
  std::string_view text_;
  const ExpressionContext& context_;
  RecordNeeds& needs_;
  std::size_t at_ = 0;
  int depth_ = 0;
};

}  // namespace

Result<Expression> Expression::parse(const Table& table, std::string_view text, const ExpressionContext& context,
                                     RecordNeeds& needs) {
  ITERANDUM_ASSIGN(ExpressionNode root, ExpressionReader(table, text, context, needs).run());
  Expression out;
  out.root_ = std::make_shared<const ExpressionNode>(std::move(root));
  return out;
}

}  // namespace iterandum
