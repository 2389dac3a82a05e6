// docs/conditions.md is the contract of the language: every line of its tables is written, read and run on every engine
// over the records that the document shows.
#include "core/scope/condition_check.h"
#include "core/scope/condition_text.h"
#include "support/document.h"

namespace iterandum::test {
namespace {

class ConditionDocumentTest : public EngineTest {
 protected:
  ConditionContext context() {
    using namespace std::chrono;
    return {&db.catalogue(), sys_days(2026y / November / 26)};
  }
  std::string shown(const Condition& condition) {
    Query query;
    query.table = &tree;
    query.columns = {"tree_id"};
    query.where = condition;
    std::string out;
    Progress progress;
    const Status status = db.session().select(
        query,
        [&](ValueTuple&& row) {
          out += (out.empty() ? "" : " ") + canonicalText(row[0]);
          return true;
        },
        progress);
    if (!status) return "failed: " + status.error().text();
    return out.empty() ? "none" : out;
  }
  std::string shown(const std::string& text) {
    const auto condition = parseCondition(tree, text, context());
    return condition ? shown(*condition) : "error: " + condition.error().text();
  }
  // The same told by the core alone, record by record.
  std::string checked(const Condition& condition) {
    RecordNeeds needs;
    const auto check = ConditionCheck::make(tree, condition, needs);
    if (!check) return "error: " + check.error().text();
    std::string out;
    for (const KnownTree& known : readTrees(db, tree, needs)) {
      if (check->holds({known.columns, known.facts, 1})) out += (out.empty() ? "" : " ") + known.id;
    }
    return out.empty() ? "none" : out;
  }

  TestDatabase db{documentTables(GetParam()), GetParam()};
  const Table& tree = *db.catalogue().find({"", "tree"});
};
ITERANDUM_ON_ALL_ENGINES(ConditionDocumentTest);

TEST_P(ConditionDocumentTest, EveryLineShowsWhatItSays) {
  const std::vector<Cells> lines = linesUnder("conditions.md", "written");
  ASSERT_GT(lines.size(), 130U);
  for (const Cells& cells : lines) {
    ASSERT_EQ(3U, cells.size()) << cells[0];
    const std::string text = cells[0].substr(1, cells[0].size() - 2);
    // As the document says, there are only 0 and 1 there.
    if (GetParam() == Engine::MariaDb && text.starts_with("felled")) continue;
    EXPECT_EQ(cells[1], shown(text)) << text;
  }
}

TEST_P(ConditionDocumentTest, TheCoreTellsTheSameOfRecordsAsTheDatabase) {
  for (const Cells& cells : linesUnder("conditions.md", "written")) {
    const std::string text = cells[0].substr(1, cells[0].size() - 2);
    const auto condition = parseCondition(tree, text, context());
    if (!condition || (GetParam() == Engine::MariaDb && text.starts_with("felled"))) continue;
    EXPECT_EQ(cells[1], checked(*condition)) << text;
  }
}

TEST_P(ConditionDocumentTest, TheSentenceOfEveryLineMeansTheSame) {
  for (const Cells& cells : linesUnder("conditions.md", "written")) {
    const std::string text = cells[0].substr(1, cells[0].size() - 2);
    const auto condition = parseCondition(tree, text, context());
    if (!condition) continue;
    const std::string words = conditionInWords(tree, *condition);
    EXPECT_EQ(cells[1], shown(words)) << text << "\nsaid: " << words;
    // Said again it is the same sentence: words do not drift.
    const auto again = parseCondition(tree, words, context());
    EXPECT_EQ(words, again ? conditionInWords(tree, *again) : again.error().text()) << text;
  }
}

}  // namespace
}  // namespace iterandum::test
