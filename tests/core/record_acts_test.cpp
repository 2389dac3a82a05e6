// Acts over records against an oracle that knows the records and goes over them one by one: random expressions,
// replacements and lists, one act after the other, on every engine; what comes out is applied and read again.
#include "core/acts/act_run.h"

#include <gmock/gmock.h>

#include <functional>
#include <random>

#include "core/acts/text_replacement.h"
#include "core/files/value_list.h"
#include "core/value/decimal.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

__extension__ using Wide = __int128;

using ::testing::HasSubstr;

struct Item {
  int id = 0;
  std::optional<std::int64_t> count;
  std::optional<std::int64_t> quarters;  // of the price
  std::optional<std::string> word;
  std::optional<int> kind;
};

const char* const kKinds[] = {"", "lamp", "bench", "Post"};

// A number as the oracle has it: so many of the 4^-places.
struct Exact {
  Wide units = 0;
  int places = 0;
};
using Maybe = std::optional<Exact>;

Wide power(int base, int exponent) {
  Wide out = 1;
  while (exponent-- > 0) out *= base;
  return out;
}
Wide unitsAt(const Exact& e, int places) { return e.units * power(4, places - e.places); }

// 4^-p is 25^p / 100^p.
std::string written(const Exact& e) {
  Wide units = e.units * power(25, e.places);
  const bool negative = units < 0;
  if (negative) units = -units;
  std::string digits;
  for (; units > 0; units /= 10) digits.insert(digits.begin(), static_cast<char>('0' + static_cast<int>(units % 10)));
  while (static_cast<int>(digits.size()) <= 2 * e.places) digits.insert(digits.begin(), '0');
  digits.insert(digits.size() - static_cast<std::size_t>(2 * e.places), 1, '.');
  return normalDecimal((negative ? "-" : "") + digits + "0");
}

struct Said {
  std::string text;
  std::function<Maybe(const Item&)> of;
};

class NumberSpeaker {
 public:
  explicit NumberSpeaker(unsigned seed) : random_(seed) {}
  int pick(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }

  Said number(int depth) {
    if (depth == 0 || pick(5) == 0) return leaf();
    const Said a = number(depth - 1);
    switch (pick(8)) {
      case 0:
        return both(a, number(depth - 1), "+", [](Wide x, Wide y) { return x + y; });
      case 1:
        return both(a, number(depth - 1), "-", [](Wide x, Wide y) { return x - y; });
      case 2: {
        const Said b = number(depth - 1);
        return {"(" + a.text + ") * (" + b.text + ")", [a, b](const Item& i) -> Maybe {
                  const Maybe x = a.of(i);
                  const Maybe y = b.of(i);
                  return x && y ? Maybe({x->units * y->units, x->places + y->places}) : std::nullopt;
                }};
      }
      case 3: {
        const Said b = number(depth - 1);
        const bool least = pick(2) == 0;
        return {std::string(least ? "min(" : "MAX(") + a.text + ", " + b.text + ")",
                [a, b, least](const Item& i) -> Maybe {
                  const Maybe x = a.of(i);
                  const Maybe y = b.of(i);
                  if (!x || !y) return std::nullopt;
                  const int places = std::max(x->places, y->places);
                  const bool isLess = unitsAt(*x, places) < unitsAt(*y, places);
                  return isLess == least ? x : y;
                }};
      }
      case 4: {
        const Said b = number(depth - 1);
        return {"coalesce(" + a.text + ", " + b.text + ")", [a, b](const Item& i) {
                  const Maybe x = a.of(i);
                  return x ? x : b.of(i);
                }};
      }
      case 5: {
        const Said b = number(depth - 1);
        const int limit = pick(20) - 5;
        return {"if [count] > " + std::to_string(limit) + " then " + a.text + " else " + b.text,
                [a, b, limit](const Item& i) { return i.count && *i.count > limit ? a.of(i) : b.of(i); }};
      }
      case 6:
        return {"abs(" + a.text + ")", [a](const Item& i) -> Maybe {
                  const Maybe x = a.of(i);
                  return x ? Maybe({x->units < 0 ? -x->units : x->units, x->places}) : std::nullopt;
                }};
      default: {
        const Said b = number(depth - 1);
        const std::string kind = kKinds[1 + pick(3)];
        return {"if kind.name = " + kind + " then " + a.text + " else " + b.text,
                [a, b, kind](const Item& i) { return i.kind && kKinds[*i.kind] == kind ? a.of(i) : b.of(i); }};
      }
    }
  }

 private:
  template <typename Combine>
  static Said both(const Said& a, const Said& b, const std::string& sign, Combine combine) {
    return {"(" + a.text + ") " + sign + " (" + b.text + ")", [a, b, combine](const Item& i) -> Maybe {
              const Maybe x = a.of(i);
              const Maybe y = b.of(i);
              if (!x || !y) return std::nullopt;
              const int places = std::max(x->places, y->places);
              return Maybe({combine(unitsAt(*x, places), unitsAt(*y, places)), places});
            }};
  }
  Said leaf() {
    switch (pick(4)) {
      case 0:
        return {"[count]", [](const Item& i) { return i.count ? Maybe({*i.count, 0}) : std::nullopt; }};
      case 1:
        return {"[Price]", [](const Item& i) { return i.quarters ? Maybe({*i.quarters, 1}) : std::nullopt; }};
      case 2: {
        const int n = pick(40);
        const char* const quarters[] = {"", ".25", ".5", ".75"};
        return {std::to_string(n / 4) + quarters[n % 4], [n](const Item&) { return Maybe({n, 1}); }};
      }
      default:
        return {"length([word])", [](const Item& i) {
                  return i.word ? Maybe({static_cast<Wide>(i.word->size()), 0}) : std::nullopt;
                }};
    }
  }
  std::mt19937 random_;
};

constexpr const char* kTables = R"(
  CREATE TABLE kind (kind_id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL);
  INSERT INTO kind VALUES (1, 'lamp'), (2, 'bench'), (3, 'Post');
  CREATE TABLE item (item_id INTEGER PRIMARY KEY, count INTEGER, price DECIMAL(20, 2), word VARCHAR(60), result VARCHAR(200),
    kind_id INTEGER, CONSTRAINT item_kind FOREIGN KEY (kind_id) REFERENCES kind (kind_id));
  CREATE TABLE part (part_id INTEGER PRIMARY KEY, item_id INTEGER,
    CONSTRAINT part_item FOREIGN KEY (item_id) REFERENCES item (item_id));
)";

class RecordActsTest : public EngineTest {
 protected:
  RecordActsTest() {
    std::mt19937 random(8);
    const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    const char* const words[] = {"Old Steps", "steps", "stepSTEPs", "", "upstairs", "a.b", "Steps"};
    for (int id = 1; id <= 30; ++id) {
      Item i;
      i.id = id;
      if (pick(5) > 0) i.count = pick(30) - 8;
      if (pick(5) > 0) i.quarters = pick(200) - 60;
      if (pick(5) > 0) i.word = words[pick(7)];
      if (pick(5) > 0) i.kind = 1 + pick(3);
      db.run("INSERT INTO item VALUES (" + std::to_string(id) + ", " + (i.count ? std::to_string(*i.count) : "NULL") +
             ", " + (i.quarters ? written({*i.quarters, 1}) : "NULL") + ", " + (i.word ? "'" + *i.word + "'" : "NULL") +
             ", 'before', " + (i.kind ? std::to_string(*i.kind) : "NULL") + ")");
      items_.push_back(i);
    }
    db.run("INSERT INTO part VALUES (1, 3), (2, 3), (3, 5)");
  }

  static Act act(Act::Kind kind, const std::string& column, const std::string& text = "",
                 const std::string& with = "") {
    Act out;
    out.kind = kind;
    out.column = column;
    out.text = text;
    out.with = with;
    return out;
  }

  // Lines "id column=value" of what the acts change; "id: …" of what fails; or what is wrong with the acts.
  std::string run(const std::vector<Act>& acts, const std::string& where = "") {
    using namespace std::chrono;
    const ExpressionContext context{{&db.catalogue(), sys_days(2026y / November / 26)}, "2026-11-26 12:00:00", {}};
    const Table& table = *db.catalogue().find({"", "item"});
    const auto made = RecordActs::make(table, acts, context);
    if (!made) return made.error().text();
    Query which;
    which.table = &table;
    if (!where.empty()) which.where = *parseCondition(table, where, context.conditions);
    std::string out;
    changes_ = ChangeList();
    counts_ = ActCounts();
    Progress progress;
    const Status done = actOn(
        db.session(), which, *made,
        [&](std::span<ActedRecord> records) {
          for (const ActedRecord& record : records) {
            counts_.count(*made, record);
            if (record.failed()) out += canonicalText(record.key[0]) + ": " + record.failure->message + "\n";
            Change change;
            change.table = table.name;
            change.keyColumns = table.writeKeyColumns();
            change.key = record.key;
            for (std::size_t c = 0; !record.failed() && c < made->columns().size(); ++c) {
              if (!made->differs(record, c)) continue;
              const Value& to = record.values[made->places()[c]];
              change.cells.push_back({made->columns()[c]->name, true, record.before[c], to});
              out += canonicalText(record.key[0]) + " " + made->columns()[c]->name + "=" +
                     (to.isNull() ? "-" : canonicalText(to)) + "\n";
            }
            if (!change.cells.empty()) changes_.add(change);
          }
          return true;
        },
        progress);
    return done ? out : done.error().text();
  }
  // Applies what run() found.
  std::string apply() {
    Progress progress;
    LambdaKeeper keeper([](const Receipt&, ReceiptStage) { return Status(); });
    ApplyOptions options;
    options.keeper = &keeper;
    const auto applied = applyChanges(db.session(), db.catalogue(), changes_, options, progress);
    return !applied ? applied.error().text() : (applied->receipt ? "applied" : findingsText(applied->review));
  }

  TestDatabase db{kTables, GetParam()};
  std::vector<Item> items_;
  ChangeList changes_;
  ActCounts counts_;
};
ITERANDUM_ON_ALL_ENGINES(RecordActsTest);

TEST_P(RecordActsTest, RandomExpressionsGiveWhatTheySay) {
  NumberSpeaker speaker(17);
  for (int round = 0; round < (GetParam() == Engine::Sqlite ? 3000 : 300); ++round) {
    const Said said = speaker.number(3);
    std::string expected;
    for (const Item& i : items_) {
      const Maybe value = said.of(i);
      expected += std::to_string(i.id) + " result=" + (value ? written(*value) : "-") + "\n";
    }
    ASSERT_EQ(expected, run({act(Act::Kind::Compute, "result", "text(0 + (" + said.text + "))")})) << said.text;
  }
}

TEST_P(RecordActsTest, WhatComesOutIsAppliedAndIsThere) {
  NumberSpeaker speaker(19);
  for (int round = 0; round < 5; ++round) {
    const Said said = speaker.number(3);
    (void)run({act(Act::Kind::Compute, "result", "text(0 + (" + said.text + "))"), act(Act::Kind::To, "word", "done")});
    ASSERT_EQ("applied", apply());
    std::string expected;
    for (Item& i : items_) {
      const Maybe value = said.of(i);
      expected +=
          (expected.empty() ? "" : "\n") + std::to_string(i.id) + "|" + (value ? written(*value) : "-") + "|done";
      i.word = "done";
    }
    ASSERT_EQ(expected, db.rows("SELECT item_id, result, word FROM item ORDER BY item_id")) << said.text;
    // Done once more, all are so already.
    EXPECT_EQ("", run({act(Act::Kind::To, "word", "done")}));
    EXPECT_EQ(30U, counts_.already);
  }
}

TEST_P(RecordActsTest, EachActGoesOnFromWhatTheOnesBeforeLeft) {
  EXPECT_EQ("3 count=7\n3 result=7 7\n",
            run({act(Act::Kind::To, "count", "6"), act(Act::Kind::Compute, "count", "[count] + 1"),
                 act(Act::Kind::Compute, "result", "[count] & ' ' & (if count = 7 then '7' else 'no')")},
                "item_id = 3"));
  // What is borrowed follows the reference.
  db.run("UPDATE item SET kind_id = 2 WHERE item_id IN (3, 4)");
  EXPECT_EQ("3 result=bench, then lamp\n3 kind_id=1\n4 result=bench, then lamp\n4 kind_id=1\n",
            run({act(Act::Kind::Compute, "result", "[kind.name]"), act(Act::Kind::To, "kind_id", "1"),
                 act(Act::Kind::Compute, "result", "[result] & ', then ' & [kind.name]")},
                "item_id in (3, 4)"));
  EXPECT_THAT(
      run({act(Act::Kind::Clear, "kind_id"), act(Act::Kind::Compute, "result", "coalesce([kind.name], 'none')")},
          "item_id = 5"),
      HasSubstr("5 result=none\n"));
  EXPECT_EQ("3 result=parts\n4 result=none\n5 result=parts\n",
            run({act(Act::Kind::Compute, "result", "if any part then 'parts' else 'none'")}, "item_id in (3, 4, 5)"));
}

TEST_P(RecordActsTest, WhatFailsIsNamedAndStopsThatRecordAlone) {
  db.run("UPDATE item SET count = 0 WHERE item_id = 2");
  db.run("UPDATE item SET count = 5 WHERE item_id IN (1, 3)");
  EXPECT_EQ("1 count=2\n2: division by zero (position 4)\n3 count=2\n",
            run({act(Act::Kind::Compute, "count", "10 / [count]")}, "item_id in (1, 2, 3)"));
  EXPECT_EQ(1U, counts_.failed);
  EXPECT_EQ(2U, counts_.differ);
  EXPECT_EQ("1: a whole number is wanted in count, not 'many'\n",
            run({act(Act::Kind::To, "count", "many")}, "item_id = 1"));
  EXPECT_EQ("1: a whole number is wanted in count, not '2.5'\n",
            run({act(Act::Kind::Compute, "count", "[count] / 2")}, "item_id = 1"));
  EXPECT_THAT(run({act(Act::Kind::Clear, "item_id")}, "item_id = 1"), HasSubstr("must have a value"));
  EXPECT_EQ("--compute colour: 'colour' is no column of item; it has item_id, count, price, word, result, kind_id",
            run({act(Act::Kind::Compute, "colour", "1")}));
  EXPECT_EQ("--compute count, position 1: 'x' is no value; a text stands in single quotes, a column in brackets",
            run({act(Act::Kind::Compute, "COUNT", "x")}).replace(10, 5, "count"));
}

TEST_P(RecordActsTest, DaysAreSetAsTheyAreTyped) {
  db.run("CREATE TABLE planted (id INTEGER PRIMARY KEY, day DATE)");
  db.run("INSERT INTO planted VALUES (1, NULL)");
  db.forget();
  using namespace std::chrono;
  const ExpressionContext context{{&db.catalogue(), sys_days(2026y / November / 26)}, "2026-11-26 12:00:00", {}};
  const Table& table = *db.catalogue().find({"", "planted"});
  for (const auto& [typed, day] : std::vector<std::pair<std::string, std::string>>{
           {"today", "2026-11-26"}, {"in 3 days", "2026-11-29"}, {"2026-3-1", "2026-03-01"}, {"soon", "failed"}}) {
    const auto acts = RecordActs::make(table, {act(Act::Kind::To, "day", typed)}, context);
    ASSERT_TRUE(acts.has_value());
    ActedRecord record;
    record.values = {Value::integer(1), Value()};
    Progress progress;
    ASSERT_TRUE(acts->run(std::span(&record, 1), nullptr, progress));
    EXPECT_EQ(day, record.failed() ? "failed" : canonicalText(record.values[1])) << typed;
  }
}

TEST_P(RecordActsTest, ReplacingAndMapping) {
  db.run("UPDATE item SET word = 'Old Steps, STEPS' WHERE item_id = 1");
  db.run("UPDATE item SET word = NULL WHERE item_id = 2");
  db.run("UPDATE item SET word = '' WHERE item_id = 3");
  const std::string all = "item_id in (1, 2, 3)";
  EXPECT_EQ("1 word=Old Stairs, Stairs\n", run({act(Act::Kind::Replace, "word", "steps", "Stairs")}, all));
  Act exact = act(Act::Kind::Replace, "word", "STEPS", "x");
  exact.exactCase = true;
  EXPECT_EQ("1 word=Old Steps, x\n", run({exact}, all));
  Act pattern = act(Act::Kind::Replace, "word", "^(\\w+) (\\w+)", "$2 $1");
  pattern.where = Act::Where::Pattern;
  EXPECT_EQ("1 word=Steps Old, STEPS\n", run({pattern}, all));
  Act whole = act(Act::Kind::Replace, "word", "", "was empty");
  whole.where = Act::Where::Whole;
  EXPECT_EQ("3 word=was empty\n", run({whole}, all));
  Act map = act(Act::Kind::Map, "word");
  map.map = {{std::nullopt, "none"}, {"", std::nullopt}, {"Old Steps, STEPS", "Stairs"}};
  EXPECT_EQ("1 word=Stairs\n2 word=none\n3 word=-\n", run({map}, all));
  // What is not in the list stays; and values go by what the column holds, not by how they are written.
  db.run("UPDATE item SET price = 2.5 WHERE item_id = 1");
  Act prices = act(Act::Kind::Map, "price");
  prices.map = {{"2.500", "3"}, {"7", "8"}};
  EXPECT_EQ("1 price=3\n", run({prices}, "item_id = 1"));
  prices.map.push_back({"2.5", "4"});
  EXPECT_EQ("--map price: the list has '2.5' as an old value twice", run({prices}));
}

// Against what each record holds: texts with texts, and numbers with texts, which may be no numbers.
TEST_P(RecordActsTest, ColumnsAreExchanged) {
  const auto shown = [](const std::optional<std::string>& value) { return value.value_or("-"); };
  std::string texts;
  std::string numbers;
  for (Item& i : items_) {
    const std::string id = std::to_string(i.id);
    const std::optional<std::string> count = i.count ? std::optional(std::to_string(*i.count)) : std::nullopt;
    if (i.word != "before") texts += id + " word=before\n" + id + " result=" + shown(i.word) + "\n";
    const bool isNumber = !i.word || i.word->find_first_not_of("0123456789") == std::string::npos;
    const bool empty = i.word && i.word->empty();
    if (!isNumber) {
      numbers += id + ": a whole number is wanted in count, not '" + *i.word + "'\n";
    } else {
      const std::optional<std::string> word = empty ? std::nullopt : i.word;
      if (word != count) numbers += id + " count=" + shown(word) + "\n";
      if (i.word != count) numbers += id + " word=" + shown(count) + "\n";
    }
  }
  ASSERT_EQ(texts, run({act(Act::Kind::Swap, "word", "", "Result")}));
  ASSERT_EQ("applied", apply());
  const std::string after = db.rows("SELECT item_id, word, result FROM item ORDER BY item_id");
  std::string expected;
  for (const Item& i : items_)
    expected += (expected.empty() ? "" : "\n") + std::to_string(i.id) + "|before|" + i.word.value_or("-");
  EXPECT_EQ(expected, after);
  // Once more, and all is as it was; twice at once changes nothing.
  EXPECT_EQ("", run({act(Act::Kind::Swap, "word", "", "result"), act(Act::Kind::Swap, "result", "", "word")}));
  (void)run({act(Act::Kind::Swap, "result", "", "word")});
  ASSERT_EQ("applied", apply());
  EXPECT_EQ(numbers, run({act(Act::Kind::Swap, "count", "", "word")}));
  EXPECT_EQ("--swap word: a column is exchanged with another one, not with itself",
            run({act(Act::Kind::Swap, "word", "", "WORD")}));
  EXPECT_THAT(run({act(Act::Kind::Swap, "word", "", "colour")}), HasSubstr("'colour' is no column of item"));
  // What is borrowed by an act behind it follows the reference that was exchanged.
  db.run("UPDATE item SET kind_id = 2, count = 1 WHERE item_id = 3");
  EXPECT_EQ("3 kind_id=1\n3 count=2\n3 result=lamp\n",
            run({act(Act::Kind::Swap, "kind_id", "", "count"), act(Act::Kind::Compute, "result", "[kind.name]")},
                "item_id = 3"));
}

std::string replaced(Act::Where where, bool exact, const std::string& text, const std::string& find,
                     const std::string& with) {
  Act act;
  act.kind = Act::Kind::Replace;
  act.text = find;
  act.with = with;
  act.where = where;
  act.exactCase = exact;
  const auto made = TextReplacement::make(act);
  if (!made) return "error: " + made.error().message;
  std::string out;
  const auto changed = made->in(text, out);
  return !changed ? "error: " + changed.error().message : (*changed ? out : text);
}

// Against the simplest way: character by character, of letters whose small ones are told by hand.
TEST(TextReplacementTest, RandomTextsAgainstTheSimplestWay) {
  const std::vector<std::string> letters = {"a", "A", "b", "ä", "Ä", "σ", "ς", "Σ", " ", "ẞ", "ß"};
  const std::vector<std::string> small = {"a", "a", "b", "ä", "ä", "σ", "σ", "σ", " ", "ß", "ß"};
  std::mt19937 random(23);
  const auto pick = [&](std::size_t n) { return static_cast<std::size_t>(random() % n); };
  for (int round = 0; round < 20000; ++round) {
    std::vector<std::size_t> text(pick(8));
    std::vector<std::size_t> part(1 + pick(2));
    for (auto& one : text) one = pick(letters.size());
    for (auto& one : part) one = pick(letters.size());
    const bool exact = pick(2) == 0;
    const auto join = [&](const std::vector<std::size_t>& of) {
      std::string out;
      for (const std::size_t one : of) out += letters[one];
      return out;
    };
    const auto fits = [&](std::size_t at) {
      if (at + part.size() > text.size()) return false;
      for (std::size_t i = 0; i < part.size(); ++i) {
        const bool same = exact ? letters[text[at + i]] == letters[part[i]] : small[text[at + i]] == small[part[i]];
        if (!same) return false;
      }
      return true;
    };
    const auto plainly = [&](const auto& here) {
      std::string out;
      for (std::size_t at = 0; at < text.size();) {
        if (here(at) && fits(at)) {
          out += "<>";
          at += part.size();
        } else {
          out += letters[text[at++]];
        }
      }
      return out;
    };
    const std::string whole = join(text);
    ASSERT_EQ(plainly([](std::size_t) { return true; }), replaced(Act::Where::Inside, exact, whole, join(part), "<>"));
    ASSERT_EQ(plainly([](std::size_t at) { return at == 0; }),
              replaced(Act::Where::Start, exact, whole, join(part), "<>"));
    ASSERT_EQ(plainly([&](std::size_t at) { return at + part.size() == text.size(); }),
              replaced(Act::Where::End, exact, whole, join(part), "<>"));
    ASSERT_EQ(text.size() == part.size() && fits(0) ? "<>" : whole,
              replaced(Act::Where::Whole, exact, whole, join(part), "<>"));
  }
}

TEST(TextReplacementTest, PatternsThatAreNoneOrNeverEnd) {
  EXPECT_THAT(replaced(Act::Where::Pattern, false, "a", "(", "x"), HasSubstr("cannot be read"));
  EXPECT_THAT(replaced(Act::Where::Pattern, false, "a", "a", "$2"), HasSubstr("there is no $2"));
  EXPECT_EQ("error: the pattern takes too long on this text",
            replaced(Act::Where::Pattern, false, std::string(60, 'a') + "b", "^(a+)+$", "x"));
  EXPECT_EQ("$5 \\ 1", replaced(Act::Where::Pattern, false, "x", "x", "\\$5 \\\\ 1"));
  EXPECT_EQ("-a-b-", replaced(Act::Where::Pattern, false, "ab", "x*", "-"));
  EXPECT_EQ("ÄÄ b", replaced(Act::Where::Pattern, false, "Ä b", "(ä)", "$1$1"));
  EXPECT_THAT(replaced(Act::Where::Pattern, false, "\xff", "x", "y"), HasSubstr("UTF-8"));
  EXPECT_THAT(replaced(Act::Where::Inside, false, "a", "", "y"), HasSubstr("empty"));
}

TEST(ActTest, ListsAreReadWithTheirLines) {
  const auto map = readMap("\xEF\xBB\xBFold,new\r\n\"a,b\",\"say \"\"x\"\"\"\n,\"\"\n\"\",\n\n");
  ASSERT_TRUE(map.has_value());
  ASSERT_EQ(4U, map->size());
  EXPECT_EQ((std::pair<TypedOrNone, TypedOrNone>("a,b", "say \"x\"")), (*map)[1]);
  EXPECT_EQ((std::pair<TypedOrNone, TypedOrNone>(std::nullopt, "")), (*map)[2]);
  EXPECT_EQ((std::pair<TypedOrNone, TypedOrNone>("", std::nullopt)), (*map)[3]);
  EXPECT_EQ("line 2: two fields are wanted, old and new, not 1", readMap("a,b\nc\n").error().text());
  EXPECT_EQ("line 3", readMap("\"a\nb\",c\n\"d").error().place);
}

// Nothing crashes, whatever is written: pieces of expressions in any order.
TEST(ExpressionTest, AnyTextIsReadOrRefused) {
  TestDatabase db(kTables);
  const Table& table = *db.catalogue().find({"", "item"});
  const std::vector<std::string> pieces = {
      "[count]", "[word]", "[kind.name]", "1",   "2.5",      "'a'",     "(",    ")",     "+",     "-",
      "*",       "/",      "%",           "&",   ",",        "if",      "then", "else",  "count", "> 1",
      "months",  "3 days", "today",       "now", "no value", "min",     "pad(", "row()", "date(", "[",
      "'",       "{x}",    "not",         "and", "\"",       "length(", "."};
  std::mt19937 random(29);
  int read = 0;
  for (int round = 0; round < 20000; ++round) {
    std::string text;
    for (unsigned n = random() % 9; n > 0; --n)
      text += pieces[random() % pieces.size()] + (random() % 3 == 0 ? "" : " ");
    RecordNeeds needs;
    const auto expression = Expression::parse(table, text, expressionContextNow(contextNow(db.catalogue())), needs);
    if (!expression) {
      EXPECT_FALSE(expression.error().message.empty()) << text;
      continue;
    }
    ++read;
    ValueTuple values;
    for (std::size_t i = 0; i < needs.columns.size(); ++i)
      values.push_back(random() % 3 == 0 ? Value() : (i % 2 == 0 ? Value::integer(3) : Value::text("x")));
    const std::vector<char> facts(needs.facts.size(), 1);
    (void)expression->of({values, facts, 1});
  }
  EXPECT_GT(read, 300);
  RecordNeeds needs;
  const auto context = expressionContextNow(contextNow(db.catalogue()));
  const std::string deep = std::string(5000, '(') + "1" + std::string(5000, ')');
  EXPECT_THAT(Expression::parse(table, deep, context, needs).error().message, HasSubstr("nested too deep"));
  std::string sum = "1";
  for (int i = 0; i < 20000; ++i) sum += "+1";
  EXPECT_EQ("20001", textOf(*Expression::parse(table, sum, context, needs)->of({})));
}

}  // namespace
}  // namespace iterandum::test
