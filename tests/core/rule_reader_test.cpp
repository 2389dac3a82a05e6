// What is learnt from CHECK rules, in the forms that the engines give them out.
#include "core/engines/common/rule_reader.h"

#include <gtest/gtest.h>

namespace iterandum::test {
namespace {

Column column(const char* name, TypeClass type) {
  Column c;
  c.name = name;
  c.type = type;
  return c;
}

class RuleReaderTest : public ::testing::Test {
 protected:
  // What n (whole number), d (decimal) and t (text) take after the rule: "n 0..5", "t a|b", "t <4"; then "all" when all
  // of it was understood.
  std::string learnt(const char* expression, RuleLanguage language = {{}, {"length", "char_length"}}) {
    std::vector<Column> columns{column("n", TypeClass::Integer), column("d", TypeClass::Decimal),
                                column("t", TypeClass::Text)};
    CheckRule rule;
    rule.expression = expression;
    learnFromRule(rule, columns, language);
    std::string out;
    for (const Column& c : columns) {
      if (c.minimum || c.maximum) {
        out += c.name + " " + (c.minimum ? canonicalText(*c.minimum) : "") + ".." +
               (c.maximum ? canonicalText(*c.maximum) : "") + " ";
      }
      if (c.maxLength) out += c.name + " <" + std::to_string(*c.maxLength) + " ";
      for (std::size_t i = 0; i < c.allowed.size(); ++i)
        out += (i == 0 ? c.name + " " : "|") + canonicalText(c.allowed[i]);
      if (!c.allowed.empty()) out += c.allowedIsAdvice ? "? " : " ";
    }
    return out + (rule.understood ? "all" : "not all");
  }
};

TEST_F(RuleReaderTest, AsAPersonWritesThem) {
  EXPECT_EQ("n 0..5 all", learnt("n BETWEEN 0 AND 5"));
  EXPECT_EQ("n 1..9 all", learnt("n > 0 AND n < 10"));
  EXPECT_EQ("n -3.. all", learnt("n IS NULL OR n >= -3"));
  EXPECT_EQ("n 0..5 d ..7.5 all", learnt("n between 0 and 5 and d <= 7.5"));
  EXPECT_EQ("t a|b'c all", learnt("t IN ('a', 'b''c')"));
  EXPECT_EQ("t <4 all", learnt("length(t) <= 4"));
  EXPECT_EQ("n 2.. all", learnt("n >= 2 AND n >= 1"));
}

TEST_F(RuleReaderTest, AsPostgreSqlGivesThemOut) {
  EXPECT_EQ("n 0..5 all", learnt("((n >= 0) AND (n <= 5))"));
  EXPECT_EQ("n -3.. all", learnt("((n IS NULL) OR (n >= '-3'::integer))"));
  EXPECT_EQ("n -3.. all", learnt("(n >= (- 3))"));
  EXPECT_EQ("d 0.5.. all", learnt("(d >= 0.5)"));
  EXPECT_EQ("d 0.. all", learnt("(d >= (0)::numeric)"));
  EXPECT_EQ("t a|b all", learnt("(t = ANY (ARRAY['a'::text, 'b'::text]))"));
  EXPECT_EQ("t a|b all", learnt("((t)::text = ANY ((ARRAY['a'::character varying, 'b'::character varying])::text[]))"));
  EXPECT_EQ("t <40 all", learnt("(char_length((t)::text) <= 40)"));
  EXPECT_EQ("n 1|2 all", learnt("(n = ANY (ARRAY[1, 2]))"));
}

TEST_F(RuleReaderTest, AsMariaDbGivesThemOut) {
  const RuleLanguage maria{{false, true}, {"char_length"}, [](const Column&) { return true; }};
  EXPECT_EQ("n 0..5 all", learnt("`n` between 0 and 5", maria));
  EXPECT_EQ("n -3.. all", learnt("`n` is null or `n` >= -3", maria));
  EXPECT_EQ("t a|b'c? not all", learnt("`t` in ('a','b\\'c')", maria)) << "the list is advice where 'A' passes for 'a'";
  EXPECT_EQ("t a? not all", learnt("`t` in (_utf8mb4'a')", maria));
  EXPECT_EQ("not all", learnt("length(`t`) <= 4", maria)) << "bytes, not characters";
}

TEST_F(RuleReaderTest, WhatIsNotPlainTeachesNothing) {
  for (const char* rule :
       {"n > 0 OR d > 0", "n + 1 > 5", "n > d", "lower(t) = 'a'", "t LIKE 'a%'", "NOT (n > 5)", "n IN (1, d)", "(n > 0",
        "", "n = ANY (ARRAY[", "t = ANY (SELECT x FROM y)", "n >= 'x'", "d > 0", "n BETWEEN 0", "(((("}) {
    EXPECT_EQ("not all", learnt(rule).substr(learnt(rule).size() < 7 ? 0 : learnt(rule).size() - 7)) << rule;
  }
  EXPECT_EQ("n 0.. not all", learnt("n >= 0 AND n < d")) << "what is plain is learnt all the same";
}

}  // namespace
}  // namespace iterandum::test
