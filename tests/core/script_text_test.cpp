// The script under hostile contents: random values of every kind, with quotes, backslashes, line ends, signs that
// clients take for commands of their own, numbers at the edge of their types. Run by the plain client on one database
// it comes to what applying comes to on its twin; and where somebody changed a record meanwhile, it writes nothing at
// all.
#include <random>

#include "support/test_database.h"

namespace iterandum::test {
namespace {

std::string schemaOf(Engine engine) {
  const std::string columns = "id INTEGER PRIMARY KEY, word TEXT, label VARCHAR(80), price ";
  switch (engine) {
    case Engine::Sqlite:
      return "CREATE TABLE ware (" + columns + "DECIMAL(12,3), weight REAL, made DATE, stuff BLOB)";
    case Engine::PostgreSql:
      return "CREATE TABLE ware (" + columns + "NUMERIC(12,3), weight DOUBLE PRECISION, made DATE, stuff BYTEA)";
    default:
      return "CREATE TABLE ware (" + columns + "DECIMAL(12,3), weight DOUBLE, made DATE, stuff BLOB)";
  }
}

class ScriptTextTest : public EngineTest {
 protected:
  int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }

  std::string text() {
    static const char* const kParts[] = {"Oak",          "'",
                                         "''",           "\"",
                                         "\\",           "\\'",
                                         "\\n",          "\n",
                                         "\r\n",         "\t",
                                         "--",           "/*",
                                         "*/",           ";",
                                         "$$",           "$1",
                                         "%s",           ":name",
                                         "\\q",          "\\!",
                                         ".quit",        "`",
                                         "NULL",         "e'x'",
                                         "\xC3\xA9",     "\xF0\x9F\x8C\xB3",
                                         "\xE2\x80\xAE", " ",
                                         "0x41",         "DELIMITER ;",
                                         "\\.",          "@a",
                                         "{}",           "&amp;",
                                         "\x01",         "\x1b[0m"};
    std::string out;
    for (int i = below(6); i > 0; --i) out += kParts[below(static_cast<int>(std::size(kParts)))];
    return out;
  }
  // By the column's position.
  Value value(std::size_t column) {
    if (below(6) == 0) return Value();
    static const char* const kPrices[] = {"0.000", "-0.001", "999999999.999", "-999999999.999", "12.500", "7.000"};
    static const double kWeights[] = {0, -0.5, 1e300, 5e-324, 0.1, 1.0 / 3, -123456789.123};
    static const char* const kDays[] = {"2026-02-28", "2024-02-29", "9999-12-31", "1000-01-01"};
    switch (column) {
      case 1:
      case 2:
        return Value::text(text());
      case 3:
        return Value::ofString(Value::Kind::Decimal, kPrices[below(6)]);
      case 4:
        return Value::real(kWeights[below(7)]);
      case 5:
        return Value::text(kDays[below(4)]);
      default: {
        std::string bytes = text();
        bytes += std::string(1, '\0') + "\xff\x80";
        return Value::ofString(Value::Kind::Bytes, bytes.substr(0, static_cast<std::size_t>(below(9))));
      }
    }
  }

  static std::vector<ValueTuple> records(TestDatabase& db) {
    Query query;
    query.table = db.catalogue().find({"", "ware"});
    query.columns = query.table->recordColumns();
    std::vector<ValueTuple> out;
    Progress progress;
    EXPECT_TRUE(db.session()
                    .select(
                        query,
                        [&](ValueTuple&& row) {
                          out.push_back(std::move(row));
                          return true;
                        },
                        progress)
                    .has_value());
    return out;
  }
  Change change(char action, const ValueTuple& record) {
    static const char* const kColumns[] = {"id", "word", "label", "price", "weight", "made", "stuff"};
    Change out;
    out.table = {"", "ware"};
    out.action = action == 'e' ? Action::Edit : action == 'a' ? Action::Add : Action::Remove;
    if (action == 'a') {
      out.cells.push_back({"id", false, Value(), Value::integer(++nextId_)});
    } else {
      out.keyColumns = {"id"};
      out.key = {record[0]};
    }
    for (std::size_t c = 1; c < std::size(kColumns); ++c) {
      if (action == 'e' && below(3) != 0) continue;
      CellChange cell{kColumns[c], action != 'a', action == 'a' ? Value() : record[c], Value()};
      if (action != 'r') cell.to = value(c);
      out.cells.push_back(std::move(cell));
    }
    if (action == 'e' && out.cells.empty()) out.cells.push_back({"word", true, record[1], Value::text(text())});
    return out;
  }
  ChangeList changes() {
    ChangeList out;
    const std::vector<ValueTuple> now = records(applied_);
    for (const ValueTuple& record : now) {
      const int what = below(10);
      if (what < 4) out.add(change('e', record));
      if (what == 4) out.add(change('r', record));
    }
    for (int n = now.empty() ? 8 : below(3); n > 0; --n) out.add(change('a', {}));
    return out;
  }
  std::string scriptFor(const ChangeList& list, TestDatabase& db) {
    Progress progress;
    ReviewOptions options;
    options.rehearse = false;
    const auto review = reviewChanges(db.session(), db.catalogue(), list, options, progress);
    EXPECT_TRUE(review.has_value());
    return review ? reviewScript(*review) : std::string();
  }

  TestDatabase applied_{schemaOf(GetParam()), GetParam()};
  TestDatabase scripted_{schemaOf(GetParam()), GetParam()};
  std::mt19937 random_;
  std::int64_t nextId_ = 0;
};
ITERANDUM_ON_ALL_ENGINES(ScriptTextTest);

TEST_P(ScriptTextTest, TheScriptComesToWhatApplyingComesTo) {
  random_.seed(5);
  for (int round = 0; round < 25 && !HasFailure(); ++round) {
    const ChangeList list = changes();
    SCOPED_TRACE(writeChangeFile(list));
    const std::string script = scriptFor(list, scripted_);
    Progress progress;
    const auto result = applyChanges(applied_.session(), applied_.catalogue(), list, {}, progress);
    ASSERT_TRUE(result && result->receipt) << (result ? findingsText(result->review) : result.error().text());
    scripted_.forget();
    ASSERT_EQ("", scripted_.runInPlainClient(script)) << script;
    EXPECT_EQ(applied_.dump(), scripted_.dump()) << script;
    EXPECT_EQ(records(applied_).size(), records(scripted_).size());
  }
  EXPECT_LT(5U, records(applied_).size());
}

TEST_P(ScriptTextTest, WhereSomebodyWasThereMeanwhileItWritesNothing) {
  random_.seed(6);
  int stopped = 0;
  for (int round = 0; round < 16 && !HasFailure(); ++round) {
    const ChangeList list = changes();
    Progress progress;
    const auto result = applyChanges(scripted_.session(), scripted_.catalogue(), list, {}, progress);
    ASSERT_TRUE(result && result->receipt);
    const auto again = applyChanges(applied_.session(), applied_.catalogue(), list, {}, progress);
    ASSERT_TRUE(again && again->receipt);
    const ChangeList next = changes();
    std::optional<Change> victim;
    for (const auto& [index, change] : next.inOrder()) {
      // Not for what is so already: nothing is written for it, and nothing stops because of it.
      const bool looked =
          change.action == Action::Remove ||
          (change.action == Action::Edit && !sameValue(change.cells.back().from, change.cells.back().to));
      if (looked) victim = change;
    }
    if (!victim) continue;
    SCOPED_TRACE(writeChangeFile(next));
    const std::string script = scriptFor(next, scripted_);
    // A cell that the script looks at, or the record itself.
    const CellChange& cell = victim->cells.back();
    ChangeList meanwhile;
    Change other = *victim;
    other.action = Action::Edit;
    const Value strange = cell.column == "stuff"    ? Value::ofString(Value::Kind::Bytes, "strange")
                          : cell.column == "price"  ? Value::ofString(Value::Kind::Decimal, "1.125")
                          : cell.column == "weight" ? Value::real(77.25)
                          : cell.column == "made"   ? Value::text("2001-01-01")
                                                    : Value::text("strange");
    other.cells = {{cell.column, true, cell.from, strange}};
    meanwhile.add(other);
    ASSERT_TRUE(applyChanges(scripted_.session(), scripted_.catalogue(), meanwhile, {}, progress)->receipt);
    const std::string before = scripted_.dump();
    scripted_.forget();
    EXPECT_NE("", scripted_.runInPlainClient(script)) << "it says why it stopped";
    EXPECT_EQ(before, scripted_.dump()) << script;
    ++stopped;
    // The twins are alike again.
    const auto same = applyChanges(applied_.session(), applied_.catalogue(), meanwhile, {}, progress);
    ASSERT_TRUE(same && same->receipt);
  }
  EXPECT_LT(5, stopped);
}

}  // namespace
}  // namespace iterandum::test
