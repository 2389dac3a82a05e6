#include "core/engines/mariadb/maria_storage.h"

#include <algorithm>
#include <map>

#include "core/catalogue/database_code.h"

namespace iterandum {
namespace {

std::string small(std::string s) {
  std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return c >= 'A' && c <= 'Z' ? c + 32 : c; });
  return s;
}

constexpr const char* kNotTheServersOwn = " NOT IN ('mysql', 'information_schema', 'performance_schema', 'sys')";

class Reader {
 public:
  Reader(MariaHandle& handle, Progress& progress) : handle_(handle), progress_(progress) {}

  Result<StayingStorage> read() {
    ITERANDUM_TRY(
        each(std::string(
                 "SELECT TABLE_SCHEMA, TABLE_NAME FROM information_schema.TABLES LEFT JOIN information_schema.ENGINES "
                 "USING (ENGINE) WHERE TABLE_TYPE NOT IN ('VIEW', 'SEQUENCE', 'SYSTEM VIEW') AND NOT "
                 "coalesce(TRANSACTIONS, 'NO') = 'YES' AND ENGINE IS NOT NULL AND TABLE_SCHEMA") +
                 kNotTheServersOwn,
             [&](const MariaRow& row) { staying_.insert(nameOf(row)); }));
    // As a rule there is none, and nothing else to look at.
    if (staying_.empty()) return StayingStorage({});
    ITERANDUM_TRY(each(
        std::string("SELECT ROUTINE_SCHEMA, ROUTINE_NAME, ROUTINE_DEFINITION FROM information_schema.ROUTINES WHERE "
                    "ROUTINE_SCHEMA") +
            kNotTheServersOwn,
        [&](const MariaRow& row) {
          // What it names without a schema is in its own.
          const std::string text = row.string(2);
          routines_.add(row.string(1), text.empty() ? text : row.string(0) + " " + text);
        }));
    ITERANDUM_TRY(
        each(std::string(
                 "SELECT TABLE_SCHEMA, TABLE_NAME, VIEW_DEFINITION FROM information_schema.VIEWS WHERE TABLE_SCHEMA") +
                 kNotTheServersOwn,
             [&](const MariaRow& row) { addCode(row); }));
    ITERANDUM_TRY(each(
        std::string(
            "SELECT EVENT_OBJECT_SCHEMA, EVENT_OBJECT_TABLE, ACTION_STATEMENT FROM information_schema.TRIGGERS WHERE "
            "EVENT_OBJECT_SCHEMA") +
            kNotTheServersOwn,
        [&](const MariaRow& row) { addCode(row); }));
    follow();
    return StayingStorage(std::move(staying_));
  }

 private:
  Status each(const std::string& sql, const std::function<void(const MariaRow&)>& take) {
    return handle_.each(sql, take, progress_);
  }

  static StayingStorage::Names::value_type nameOf(const MariaRow& row) {
    return {small(row.string(0)), small(row.string(1))};
  }

  void addCode(const MariaRow& row) {
    const std::string text = row.string(2);
    // What cannot be read may do anything.
    const std::string all = text.empty() ? text : routines_.withCalled(text);
    if (all.empty()) staying_.insert(nameOf(row));
    code_.emplace_back(nameOf(row), all);
  }

  void follow() {
    for (bool news = true; news;) {
      news = false;
      for (const auto& [name, text] : code_) {
        if (staying_.contains(name)) continue;
        const bool reaches = std::any_of(staying_.begin(), staying_.end(), [&n = name, &t = text](const auto& other) {
          return mentionsName(t, other.second) && (other.first == n.first || mentionsName(t, other.first));
        });
        if (reaches) news = staying_.insert(name).second;
      }
    }
  }

  MariaHandle& handle_;
  Progress& progress_;
  StayingStorage::Names staying_;
  Routines routines_;
  std::vector<std::pair<StayingStorage::Names::value_type, std::string>> code_;  // of a table or view
};

}  // namespace

bool StayingStorage::reaches(const std::string& schema, const std::string& table) const {
  return names_.contains({small(schema), small(table)});
}

Result<StayingStorage> readStayingStorage(MariaHandle& handle, Progress& progress) {
  return Reader(handle, progress).read();
}

}  // namespace iterandum
