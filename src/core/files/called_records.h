// How records that something points at are called, for files that people write and read: a reference said by name.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/engines/session.h"

namespace iterandum {

// By displayName() of a table, the columns by which its records are called; one that is not named here is called by
// the first of readableColumns().
using CalledBy = std::map<std::string, std::vector<std::string>>;

// A column that is a reference by itself, and what the record there is called by.
struct CalledReference {
  const Table* target = nullptr;  // not owned: the catalogue's
  std::string key;                // the column there that is pointed at
  std::vector<std::string> called;
  // The records are called by something else than the key.
  [[nodiscard]] bool hasNames() const { return called != std::vector{key}; }
};

// Nothing: the column is no reference, or what it points at cannot be read.
[[nodiscard]] std::optional<CalledReference> calledReference(const Table& table, const Column& column,
                                                             const Catalogue& catalogue, const CalledBy& calledBy);

// Each record with its key and how it is called, in the order of the latter; at most so many. `take` returns false to
// stop.
[[nodiscard]] Status eachCalled(Session& session, const CalledReference& reference, std::uint64_t most,
                                const std::function<bool(Value&& key, std::string&& called)>& take, Progress& progress);

// The keys that names stand for.
class NamedKeys {
 public:
  // More records than these are not read for their names.
  static constexpr std::uint64_t kMost = 500000;

  // `text` as it was typed; `typed`: what it is as a key, if it can be one. A key that is there is meant before a name.
  // A name counts exactly, else in any capitals and blanks where one record is called so.
  // Errors: InvalidInput, no record or several are called so; the session's.
  [[nodiscard]] Result<Value> keyOf(const CalledReference& reference, const std::string& text,
                                    const Result<Value>& typed, Session& session, Progress& progress);

 private:
  struct Names {
    std::map<std::string, std::vector<Value>> exactly;  // two tell that several are called so
    std::map<std::string, std::vector<Value>> loosely;
    std::map<std::string, bool> keys;  // as texts
    bool tooMany = false;
  };
  [[nodiscard]] Result<const Names*> namesOf(const CalledReference& reference, Session& session, Progress& progress);
  std::map<std::pair<const Table*, std::string>, Names> names_;
};

}  // namespace iterandum
