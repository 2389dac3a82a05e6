// docs/expressions.md is the contract of expressions: every line of its tables is computed on every engine, of the
// records that the document speaks of.
#include "core/expression/expression.h"
#include "support/document.h"

namespace iterandum::test {
namespace {

class ExpressionDocumentTest : public EngineTest {
 protected:
  std::vector<std::string> computed(const std::string& text) {
    using namespace std::chrono;
    const ExpressionContext context{{&db.catalogue(), sys_days(2026y / November / 26)}, "2026-11-26 12:00:00", {}};
    RecordNeeds needs;
    const auto expression = Expression::parse(tree, text, context, needs);
    if (!expression) return std::vector<std::string>(3, "error: " + expression.error().text());
    std::vector<std::string> out;
    for (const KnownTree& known : readTrees(db, tree, needs)) {
      if (out.size() == 3) break;
      const auto value = expression->of({known.columns, known.facts, out.size() + 1});
      if (!value) {
        out.push_back("error: " + value.error().text());
      } else if (value->kind == Computed::Kind::None) {
        out.push_back("*no value*");
      } else {
        // The document cannot show blanks at the end.
        const std::string shown = stripped(textOf(*value));
        out.push_back(shown.empty() ? "*empty text*" : shown);
      }
    }
    return out;
  }

  TestDatabase db{documentTables(GetParam()), GetParam()};
  const Table& tree = *db.catalogue().find({"", "tree"});
};
ITERANDUM_ON_ALL_ENGINES(ExpressionDocumentTest);

TEST_P(ExpressionDocumentTest, EveryLineGivesWhatItSays) {
  const std::vector<Cells> lines = linesUnder("expressions.md", "written");
  ASSERT_GT(lines.size(), 90U);
  for (const Cells& cells : lines) {
    ASSERT_EQ(5U, cells.size()) << cells[0];
    const std::string text = cells[0].substr(1, cells[0].size() - 2);
    EXPECT_EQ(std::vector<std::string>(cells.begin() + 1, cells.begin() + 4), computed(text)) << text;
  }
}

}  // namespace
}  // namespace iterandum::test
