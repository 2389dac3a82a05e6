// The history of a record against a model: random change sets with additions, removals, new keys and cascades, applied
// one after the other; what each key's history tells is what the model remembers of it.
#include "core/store/record_history.h"

#include <gmock/gmock.h>

#include <map>
#include <random>
#include <set>

#include "core/store/receipt_keeper.h"
#include "core/store/receipt_search.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

constexpr const char* kWorld = R"(
  CREATE TABLE plot (plot_id INTEGER NOT NULL PRIMARY KEY, size INTEGER);
  CREATE TABLE bed (bed_id INTEGER NOT NULL PRIMARY KEY, plot_id INTEGER,
    CONSTRAINT bed_plot FOREIGN KEY (plot_id) REFERENCES plot (plot_id) ON DELETE CASCADE ON UPDATE CASCADE);
)";

class RecordHistoryTest : public EngineTest {
 protected:
  void SetUp() override {
    auto opened = Store::open(db.file("store.sqlite"));
    ASSERT_TRUE(opened) << opened.error().text();
    store = std::move(*opened);
  }
  void apply(const std::string& lines) {
    StoreReceiptKeeper keeper(*store);
    ApplyOptions options;
    options.keeper = &keeper;
    options.appliedBy = "ada";
    Progress progress;
    const auto applied = applyChanges(db.session(), db.catalogue(), TestDatabase::changes(lines), options, progress);
    ASSERT_TRUE(applied) << applied.error().text();
    ASSERT_TRUE(applied->receipt) << findingsText(applied->review) << lines;
  }
  // "edit 4>7", "add >4", "remove 4>": what was done under which keys, the latest first; of several in one receipt, in
  // any order.
  std::vector<std::string> history(const std::string& table, int key) {
    const std::string column = table + "_id";
    const NamedRecord record{{"", table}, {column}, {Value::integer(key)}};
    return history(&record, column);
  }
  std::vector<std::string> history(const NamedRecord* record, const std::string& column) {
    std::vector<std::string> out;
    const Status read = eachRecordChange(
        *store, db.session().info().address, record,
        [&](RecordChange&& change) {
          const ReceiptBlock& block = change.block;
          EXPECT_EQ(1U, block.rows());
          const auto at = std::find(block.columns.begin(), block.columns.end(), column) - block.columns.begin();
          const auto key = [&](const std::vector<ValueColumn>& values) {
            return values.empty() ? std::string() : canonicalText(values[static_cast<std::size_t>(at)].at(0));
          };
          out.push_back(std::to_string(change.receipt) + " " + actionName(block.action) + " " + key(block.before) +
                        ">" + key(block.after));
          return true;
        },
        [](const KeptReceipt&, const std::string& why) { ADD_FAILURE() << why; });
    EXPECT_TRUE(read);
    return out;
  }

  TestDatabase db{kWorld, GetParam()};
  std::unique_ptr<Store> store;
};
ITERANDUM_ON_ALL_ENGINES(RecordHistoryTest);

TEST_P(RecordHistoryTest, EveryKeyTellsWhatTheModelRemembers) {
  std::mt19937 random(20251127);
  const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
  const auto text = [](int n) { return std::to_string(n); };
  std::set<int> plots;
  // What was done, the latest first: receipt, action, key before, key after (0: none).
  struct Done {
    int receipt = 0;
    std::string action;
    int before = 0;
    int after = 0;
  };
  std::vector<Done> done;
  const int rounds = GetParam() == Engine::Sqlite ? 60 : 20;
  for (int receipt = 1; receipt <= rounds; ++receipt) {
    std::string lines;
    std::vector<Done> now;
    std::set<int> touched;
    std::set<int> taken = plots;
    for (int n = 1 + pick(3); n > 0; --n) {
      const int key = 1 + pick(9);
      if (touched.contains(key)) continue;
      touched.insert(key);
      if (!plots.contains(key)) {
        if (taken.contains(key)) continue;
        lines += "add plot plot_id=" + text(key) + " size=" + text(pick(50)) + "\n";
        now.push_back({receipt, "add", 0, key});
        taken.insert(key);
      } else if (pick(4) == 0) {
        lines += "remove plot plot_id=" + text(key) + "\n";
        now.push_back({receipt, "remove", key, 0});
      } else if (pick(3) == 0) {
        int other = 1 + pick(9);
        if (taken.contains(other) || touched.contains(other)) continue;
        touched.insert(other);
        taken.insert(other);
        lines += "edit plot plot_id=" + text(key) + " plot_id:" + text(key) + "->" + text(other) + "\n";
        now.push_back({receipt, "edit", key, other});
      } else {
        lines += "edit plot plot_id=" + text(key) + " size->" + text(100 + receipt) + "\n";
        now.push_back({receipt, "edit", key, key});
      }
    }
    if (lines.empty()) lines = "add bed bed_id=" + text(1000 + receipt) + "\n";
    ASSERT_NO_FATAL_FAILURE(apply(lines));
    for (const Done& one : now) {
      if (one.before != 0) plots.erase(one.before);
      if (one.after != 0) plots.insert(one.after);
    }
    done.insert(done.begin(), now.begin(), now.end());
  }
  for (int key = 1; key <= 9; ++key) {
    // Back in time: under this key, and under those that led to it.
    std::set<int> keys{key};
    std::multiset<std::string> wanted;
    for (std::size_t i = 0; i < done.size();) {
      std::set<int> further;
      const int receipt = done[i].receipt;
      for (; i < done.size() && done[i].receipt == receipt; ++i) {
        const Done& one = done[i];
        if (!keys.contains(one.before) && !keys.contains(one.after)) continue;
        if (one.before != 0) further.insert(one.before);
        wanted.insert(text(one.receipt) + " " + one.action + " " + (one.before != 0 ? text(one.before) : "") + ">" +
                      (one.after != 0 ? text(one.after) : ""));
      }
      keys.insert(further.begin(), further.end());
    }
    const std::vector<std::string> found = history("plot", key);
    EXPECT_EQ(wanted, std::multiset<std::string>(found.begin(), found.end())) << "plot " << key;
    EXPECT_TRUE(std::is_sorted(found.begin(), found.end(), [](const std::string& a, const std::string& b) {
      return std::stoi(a) > std::stoi(b);
    })) << "the latest first";
  }
}

TEST_P(RecordHistoryTest, WhatADatabaseDoesAlongIsToldOfTheRecordsItIsDoneTo) {
  apply("add plot plot_id=1 size=5\nadd bed bed_id=10 plot_id=1\nadd bed bed_id=11");
  apply("edit plot plot_id=1 plot_id:1->2");
  apply("remove plot plot_id=2");
  EXPECT_EQ((std::vector<std::string>{"3 remove 10>", "2 edit 10>10", "1 add >10"}), history("bed", 10));
  EXPECT_EQ((std::vector<std::string>{"1 add >11"}), history("bed", 11));
  EXPECT_EQ((std::vector<std::string>{"3 remove 2>", "2 edit 1>2", "1 add >1"}), history("plot", 2));
  EXPECT_TRUE(history("bed", 12).empty());
}

TEST_P(RecordHistoryTest, ReceiptsThatNobodyConfirmedAreLeftOutAndNamed) {
  apply("add plot plot_id=1 size=5");
  Receipt unsure;
  unsure.database = db.session().info().address;
  unsure.appliedAt = "2025-05-01T10:00:00Z";
  ASSERT_TRUE(store->keepReceipt(unsure));
  std::vector<std::string> leftOut;
  int told = 0;
  ASSERT_TRUE(eachRecordChange(
      *store, unsure.database, nullptr,
      [&](RecordChange&&) {
        ++told;
        return true;
      },
      [&](const KeptReceipt& receipt, const std::string& why) {
        leftOut.push_back(std::to_string(receipt.id) + " " + why);
      }));
  EXPECT_EQ(1, told);
  EXPECT_EQ((std::vector<std::string>{"2 whether it was applied is not known"}), leftOut);
}

TEST_P(RecordHistoryTest, ReceiptsAreFoundByWhatStandsInThem) {
  db.run(std::string("CREATE TABLE note (note_id INTEGER NOT NULL PRIMARY KEY, words ") +
         (GetParam() == Engine::MariaDb ? "VARCHAR(40) CHARACTER SET utf8mb4" : "TEXT") + ")");
  db.forget();
  apply("add plot plot_id=1 size=4040\nadd bed bed_id=1111 plot_id=1");
  apply("edit plot plot_id=1 size:4040->5555\nadd note note_id=1 words=\"ÄPFEL\"");
  apply("remove plot plot_id=1");
  Progress progress;
  const auto found = [&](const char* words) {
    const auto ids = receiptsWith(*store, db.session().info().address, words, progress);
    EXPECT_TRUE(ids);
    std::string out;
    for (const std::int64_t id : ids.value_or(std::vector<std::int64_t>())) out += std::to_string(id);
    return out;
  };
  EXPECT_EQ("321", found(""));
  EXPECT_EQ("321", found("ADA"));
  EXPECT_EQ("2", found("äpfel"));
  EXPECT_EQ("2", found("ada  ÄPFEL words"));
  EXPECT_EQ("2", found("size 4040 5555"));
  EXPECT_EQ("", found("äpfel 5555")) << "in one record together, not in one receipt";
  EXPECT_EQ("31", found("bed 1111")) << "what went along counts too";
  EXPECT_EQ("", found("bed 1212"));
  progress.cancel();
  EXPECT_FALSE(receiptsWith(*store, db.session().info().address, "bed", progress));
}

}  // namespace
}  // namespace iterandum::test
