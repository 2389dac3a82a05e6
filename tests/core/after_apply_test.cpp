// What is staged behind something that was applied meanwhile comes to the same as all of it at once.
#include "core/changes/after_apply.h"

#include <random>

#include "support/test_database.h"

namespace iterandum::test {
namespace {

constexpr const char* kSchema =
    "CREATE TABLE t (id INTEGER PRIMARY KEY AUTOINCREMENT, a INTEGER, b INTEGER, up INTEGER REFERENCES t (id));"
    "INSERT INTO t WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 9) SELECT i, i * 10, i * "
    "100, "
    "NULL FROM n";

// Gestures as the window makes them: `from` is what the database held when the work began.
class RandomGestures {
 public:
  explicit RandomGestures(unsigned seed) : random_(seed) {}

  Gesture next(const ChangeSet& set) {
    switch (below(6)) {
      case 0:
        return addition(set);
      case 1:
        return added_.empty() ? edit(set) : editAdded();
      case 2:
        return removal(set);
      case 3:
        return putBack(set);
      default:
        return edit(set);
    }
  }

 private:
  int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
  static GesturePart part(GesturePart::Kind kind) {
    GesturePart out;
    out.kind = kind;
    out.table = {"", "t"};
    out.keyColumns = {"id"};
    out.keys.resize(1);
    return out;
  }
  static std::int64_t stored(const std::string& column, int id) { return column == "a" ? id * 10 : id * 100; }
  [[nodiscard]] static bool isRemoved(const ChangeSet& set, int id) {
    const TableChanges* table = set.table({"", "t"});
    const auto record = table == nullptr ? std::nullopt : table->find({Value::integer(id)});
    return record && table->isRemoved(*record);
  }

  Gesture edit(const ChangeSet& set) {
    const int id = 1 + below(9);
    GesturePart p = part(GesturePart::Kind::Edit);
    if (isRemoved(set, id)) return {"nothing", {}};
    p.keys[0].push(Value::integer(id));
    if (!added_.empty() && below(3) == 0) {
      p.column = "up";
      p.from.push(Value());
      p.to.push(
          Value::pendingKey(addedLabel(added_[static_cast<std::size_t>(below(static_cast<int>(added_.size())))])));
      return {"edit", {p}};
    }
    p.column = below(2) == 0 ? "a" : "b";
    p.from.push(Value::integer(stored(p.column, id)));
    p.to.push(Value::integer(below(50)));
    return {"edit", {p}};
  }
  Gesture addition(const ChangeSet& set) {
    GesturePart add = part(GesturePart::Kind::Add);
    add.addedIds = {set.nextAddedId()};
    added_.push_back(add.addedIds[0]);
    GesturePart cell = part(GesturePart::Kind::EditAdded);
    cell.addedIds = add.addedIds;
    cell.column = "a";
    cell.to.push(Value::integer(1000 + static_cast<std::int64_t>(add.addedIds[0])));
    return {"add", {add, cell}};
  }
  Gesture editAdded() {
    GesturePart cell = part(GesturePart::Kind::EditAdded);
    cell.addedIds = {added_[static_cast<std::size_t>(below(static_cast<int>(added_.size())))]};
    cell.column = "b";
    cell.to.push(Value::integer(below(50)));
    return {"edit new", {cell}};
  }
  Gesture removal(const ChangeSet& set) {
    const int id = 1 + below(9);
    if (isRemoved(set, id)) return {"nothing", {}};
    GesturePart p = part(GesturePart::Kind::Remove);
    p.keys[0].push(Value::integer(id));
    p.recordColumns = {"a", "b"};
    p.records = {ValueColumn(1, Value::integer(stored("a", id))), ValueColumn(1, Value::integer(stored("b", id)))};
    return {"remove", {p}};
  }
  Gesture putBack(const ChangeSet& set) {
    const int id = 1 + below(9);
    // What was applied cannot be put back any more; only what the second part staged itself may be.
    if (set.table({"", "t"}) != nullptr && set.table({"", "t"})->find({Value::integer(id)})) return {"nothing", {}};
    GesturePart p = part(GesturePart::Kind::PutBack);
    p.keys[0].push(Value::integer(id));
    return {"put back", {p}};
  }

  std::mt19937 random_;
  std::vector<std::uint64_t> added_;
};

Receipt applyAll(TestDatabase& db, const ChangeSet& set) {
  Progress progress;
  const auto result = applyChanges(db.session(), db.catalogue(), set.toChangeList(""), {}, progress);
  EXPECT_TRUE(result.has_value()) << result.error().text();
  if (!result) return {};
  EXPECT_TRUE(result->receipt.has_value()) << findingsText(result->review);
  return result->receipt ? *result->receipt : Receipt();
}

AppliedAdditions additionsOf(const ChangeSet& set, const Receipt& receipt) {
  AppliedAdditions out;
  std::vector<std::uint64_t> ids;
  for (const TableChanges* table : set.tables()) {
    for (const auto& [id, record] : table->added()) ids.push_back(id);
  }
  std::map<std::uint32_t, const ReceiptBlock*> byChange;
  std::map<std::uint32_t, std::size_t> rowOf;
  for (const ReceiptBlock& block : receipt.blocks) {
    for (std::size_t r = 0; block.action == Action::Add && r < block.rows(); ++r) {
      byChange[block.changeIndex[r]] = &block;
      rowOf[block.changeIndex[r]] = r;
    }
  }
  std::size_t next = 0;
  for (const auto& [change, block] : byChange) {
    AppliedAddition& record = out[ids[next++]];
    record.keyColumns = block->keyColumns;
    record.key = {block->keys[0].at(rowOf[change])};
    record.columns = block->columns;
    for (const ValueColumn& column : block->after) record.values.push_back(column.at(rowOf[change]));
  }
  return out;
}

TEST(AfterApplyTest, TwoPartsComeToTheSameAsAllAtOnce) {
  for (unsigned seed = 1; seed <= 150 && !::testing::Test::HasFailure(); ++seed) {
    SCOPED_TRACE("seed " + std::to_string(seed));
    RandomGestures random(seed);
    ChangeSet set;
    for (unsigned i = 0; i < 4 + seed % 9; ++i) set.apply(random.next(set));
    const std::size_t first = set.position();
    ChangeSet part;
    part.restore(set.gestures(), first);
    for (unsigned i = 0; i < 3 + seed % 7; ++i) set.apply(random.next(set));

    TestDatabase once(kSchema);
    applyAll(once, set);
    TestDatabase twice(kSchema);
    const Receipt receipt = applyAll(twice, part);
    ChangeSet rest;
    rest.restore(set.gestures(), set.position());
    rest.forgetApplied(first, additionsOf(part, receipt));
    EXPECT_EQ(set.position() - first, rest.position());
    applyAll(twice, rest);
    // The numbers that new records get are the database's affair.
    const char* const all =
        "SELECT CASE WHEN t.id > 9 THEN 0 ELSE t.id END, t.a, t.b, u.a FROM t LEFT JOIN t u ON u.id = t.up ORDER BY 1, "
        "2, 3, 4";
    EXPECT_EQ(once.rows(all), twice.rows(all));
  }
}

}  // namespace
}  // namespace iterandum::test
