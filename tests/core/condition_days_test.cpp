// Random stretches of days, said as people say them, over days and moments in whatever form they lie there, held
// against an oracle that counts seconds.
#include <functional>
#include <random>

#include "core/scope/condition_text.h"
#include "core/scope/period.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using std::chrono::days;
using std::chrono::sys_days;
using std::chrono::year;
using std::chrono::year_month_day;

constexpr std::int64_t kDay = 86400;

struct Lease {
  int id = 0;
  std::optional<std::int64_t> day;     // days since the epoch
  std::optional<std::int64_t> moment;  // seconds since the epoch
};

struct Stretch {
  std::string said;
  std::int64_t from = 0;  // days
  std::int64_t to = 0;    // the day after
};

class Calendar {
 public:
  explicit Calendar(unsigned seed) : random_(seed) {}
  int pick(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }

  std::int64_t anyDay() {
    const std::int64_t odd[] = {numberOf(year(9999) / 12 / 31), numberOf(year(9999) / 1 / 1), numberOf(year(1) / 1 / 1),
                                numberOf(year(2024) / 2 / 29), numberOf(year(2026) / 11 / 26)};
    if (pick(4) == 0) return odd[pick(5)];
    return numberOf(year(2024) / 1 / 1) + pick(1200);
  }
  Stretch stretch() {
    const sys_days day{days(anyDay())};
    const year_month_day date(day);
    switch (pick(4)) {
      case 0:
        return of(isoDay(day));
      case 1:
        return of(isoDay(day).substr(0, 7));
      case 2:
        return of(isoDay(day).substr(0, 4));
      default: {
        const char* const words[] = {"today",        "yesterday",    "this week",    "last month", "next year",
                                     "last 30 days", "next 2 weeks", "9 months ago", "in 10 days", "last 2 years"};
        return of(words[pick(10)]);
      }
    }
  }

 private:
  static std::int64_t numberOf(year_month_day date) { return sys_days(date).time_since_epoch().count(); }
  static Stretch of(const std::string& said) {
    const auto period = periodOf(said, sys_days(year(2026) / 11 / 26));
    return {said, period->from.time_since_epoch().count(), period->to.time_since_epoch().count()};
  }
  std::mt19937 random_;
};

std::string clock(std::int64_t seconds) {
  char text[16];
  std::snprintf(text, sizeof text, "%02d:%02d:%02d", static_cast<int>(seconds / 3600),
                static_cast<int>(seconds / 60 % 60), static_cast<int>(seconds % 60));
  return text;
}

// A moment in one of the forms that SQLite's databases hold; elsewhere the plain one.
std::string written(std::int64_t moment, int form) {
  const std::int64_t day = moment >= 0 ? moment / kDay : (moment - kDay + 1) / kDay;
  const std::int64_t seconds = moment - day * kDay;
  const auto at = [&](std::int64_t d) { return isoDay(sys_days{days(d)}); };
  if (form == 1) return at(day) + "T" + clock(seconds) + "Z";
  if (form == 2 && seconds % 60 == 0) return at(day) + "T" + clock(seconds).substr(0, 5);
  if (form == 3 && day < 2900000 && day > -700000) {
    const std::int64_t there = seconds + 2 * 3600;
    return at(day + there / kDay) + " " + clock(there % kDay) + "+02:00";
  }
  if (form == 4) return at(day) + " " + clock(seconds) + ".000";
  return at(day) + " " + clock(seconds);
}

class ConditionDaysTest : public EngineTest {
 protected:
  ConditionDaysTest() {
    Calendar calendar(5);
    for (int id = 1; id <= 60; ++id) {
      Lease lease{id, {}, {}};
      if (calendar.pick(8) != 0) lease.day = calendar.anyDay();
      if (calendar.pick(8) != 0)
        lease.moment = calendar.anyDay() * kDay + calendar.pick(24) * 3600 + calendar.pick(2) * 59;
      const int form = GetParam() == Engine::Sqlite ? calendar.pick(5) : 0;
      db.run("INSERT INTO lease VALUES (" + std::to_string(id) + ", " +
             (lease.day ? "'" + isoDay(sys_days{days(*lease.day)}) + "'" : "NULL") + ", " +
             (lease.moment ? "'" + written(*lease.moment, form) + "'" : "NULL") + ")");
      leases_.push_back(lease);
    }
  }

  std::string shown(const std::string& text) {
    const Table& table = *db.catalogue().find({"", "lease"});
    const ConditionContext context{&db.catalogue(), sys_days(year(2026) / 11 / 26)};
    const auto condition = parseCondition(table, text, context);
    if (!condition) return condition.error().text();
    Query query{&table, {"id"}, *condition, {{"id"}}, {}, {}};
    std::string out;
    Progress progress;
    const Status status = db.session().select(
        query,
        [&](ValueTuple&& row) {
          out += canonicalText(row[0]) + " ";
          return true;
        },
        progress);
    if (!status) return status.error().text();
    // Said in words, it is the same.
    const std::string words = conditionInWords(table, *condition);
    const auto again = parseCondition(table, words, context);
    return again && conditionInWords(table, *again) == words ? out : "said otherwise: " + words;
  }

  TestDatabase db{std::string("CREATE TABLE lease (id INTEGER PRIMARY KEY, day DATE, moment ") +
                      (GetParam() == Engine::MariaDb ? "DATETIME" : "TIMESTAMP") +
                      "); CREATE INDEX by_moment ON lease (moment)",
                  GetParam()};
  std::vector<Lease> leases_;
};
ITERANDUM_ON_ALL_ENGINES(ConditionDaysTest);

TEST_P(ConditionDaysTest, RandomStretchesFindWhatLiesInThem) {
  Calendar calendar(6);
  for (int round = 0; round < 600; ++round) {
    const bool ofDays = calendar.pick(2) == 0;
    const Stretch a = calendar.stretch();
    const Stretch b = calendar.stretch();
    const std::int64_t unit = ofDays ? 1 : kDay;
    using Holds = std::function<bool(std::int64_t)>;
    const Holds in = [&](std::int64_t v) { return v >= a.from * unit && v < a.to * unit; };
    const std::vector<std::tuple<std::string, Holds, bool>> tests = {
        {a.said, in, false},
        {"= " + a.said, in, false},
        {"is not " + a.said, [&](std::int64_t v) { return !in(v); }, true},
        {"< " + a.said, [&](std::int64_t v) { return v < a.from * unit; }, false},
        {a.said + " or earlier", [&](std::int64_t v) { return v < a.to * unit; }, false},
        {"after " + a.said, [&](std::int64_t v) { return v >= a.to * unit; }, false},
        {">= " + a.said, [&](std::int64_t v) { return v >= a.from * unit; }, false},
        {"is not before " + a.said, [&](std::int64_t v) { return v >= a.from * unit; }, true},
        {"between " + a.said + " and " + b.said, [&](std::int64_t v) { return v >= a.from * unit && v < b.to * unit; },
         false},
        {"in (" + a.said + ", " + b.said + ", no value)",
         [&](std::int64_t v) { return in(v) || (v >= b.from * unit && v < b.to * unit); }, true},
    };
    const auto& [test, holds, ofNothing] = tests[static_cast<std::size_t>(calendar.pick(10))];
    std::string expected;
    for (const Lease& lease : leases_) {
      const auto value = ofDays ? lease.day : lease.moment;
      if (value ? holds(*value) : ofNothing) expected += std::to_string(lease.id) + " ";
    }
    const std::string text = (ofDays ? "day " : "moment ") + test;
    ASSERT_EQ(expected, shown(text)) << text;
  }
}

}  // namespace
}  // namespace iterandum::test
