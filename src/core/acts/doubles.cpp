#include "core/acts/doubles.h"

#include <algorithm>
#include <numeric>
#include <unordered_set>

#include "core/base/names.h"
#include "core/catalogue/record_words.h"
#include "core/scope/alike.h"
#include "core/scope/column_path.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

// What is held of them is a few hundred bytes each.
constexpr std::uint64_t kMostDoubles = 1000000;
// Spellings are compared with all others.
constexpr std::uint64_t kMostSpellings = 300000;
constexpr std::uint64_t kStep = 4096;

bool saysSomething(const Value& value) {
  return !value.isNull() && !(value.kind() == Value::Kind::Text && value.asString().empty());
}

class Search {
 public:
  Search(Session& session, const DoublesQuestion& question, Progress& progress)
      : session_(session), question_(question), table_(*question.which.table), progress_(progress) {}

  Result<FoundDoubles> run() {
    if (question_.columns.empty()) return fail(ErrorKind::InvalidInput, "no column says in what they are alike");
    for (const std::string& name : question_.columns) {
      if (table_.column(name) == nullptr) {
        return fail(ErrorKind::InvalidInput, "'" + name + "' is no column of " + displayName(table_.name));
      }
    }
    if (question_.compared == DoublesQuestion::Compared::Nearly) ITERANDUM_TRY(learnSpellings());
    ITERANDUM_TRY(readHashes());
    if (!twice_.empty()) ITERANDUM_TRY(readDoubles());
    dropSingles();
    ITERANDUM_TRY(readNames());
    return std::move(found_);
  }

 private:
  // Texts that are nearly alike go by the first of them.
  Status learnSpellings() {
    spellings_.resize(question_.columns.size());
    for (std::size_t c = 0; c < question_.columns.size(); ++c) {
      if (table_.column(question_.columns[c])->type != TypeClass::Text) continue;
      std::vector<std::string> texts;
      const auto take = [&](const Value& value) {
        if (value.kind() == Value::Kind::Text) texts.emplace_back(value.asString());
      };
      ITERANDUM_TRY(session_.distinctValues(
          question_.which, {{}, question_.columns[c]}, kMostSpellings + 1,
          [&](Value&& value, std::uint64_t) {
            take(value);
            return true;
          },
          progress_));
      if (texts.size() > kMostSpellings) {
        return fail(ErrorKind::InvalidInput, question_.columns[c] + " has more than " + std::to_string(kMostSpellings) +
                                                 " spellings; compare fewer records, or exactly");
      }
      if (question_.staged != nullptr) {
        for (const auto& [key, cells] : question_.staged->cells) {
          for (const auto& [column, value] : cells) {
            if (column == question_.columns[c]) take(value);
          }
        }
      }
      for (const std::vector<std::size_t>& group : alikeGroups(texts)) {
        for (const std::size_t member : group) spellings_[c].emplace(texts[member], texts[group.front()]);
      }
    }
    return {};
  }

  // What tells the records apart that are compared.
  [[nodiscard]] ValueTuple form(const ValueTuple& values) const {
    if (question_.compared == DoublesQuestion::Compared::Exactly) return values;
    ValueTuple out;
    out.reserve(values.size());
    for (std::size_t c = 0; c < values.size(); ++c) {
      const Value& value = values[c];
      if (value.kind() != Value::Kind::Text) {
        out.push_back(value);
      } else if (question_.compared == DoublesQuestion::Compared::Loosely) {
        out.push_back(Value::text(looseText(value.asString())));
      } else {
        const auto spelled = spellings_[c].find(std::string(value.asString()));
        out.push_back(spelled == spellings_[c].end() ? value : Value::text(spelled->second));
      }
    }
    return out;
  }

  // Each record of the question as it is staged. False from `take`: enough.
  Status eachRecord(const char* doing,
                    const std::function<bool(std::uint64_t number, ValueTuple&& key, ValueTuple&& values)>& take) {
    const std::vector<std::string> keyColumns = table_.writeKeyColumns();
    Query query = question_.which;
    query.borrowed.clear();
    query.columns = keyColumns;
    query.columns.insert(query.columns.end(), question_.columns.begin(), question_.columns.end());
    std::uint64_t number = 0;
    bool stop = false;
    ITERANDUM_TRY(session_.select(
        query,
        [&](ValueTuple&& row) {
          if (++number % kStep == 0 && !progress_.step(doing, number, 0)) stop = true;
          ValueTuple key(row.begin(), row.begin() + static_cast<std::ptrdiff_t>(keyColumns.size()));
          ValueTuple values(row.begin() + static_cast<std::ptrdiff_t>(keyColumns.size()), row.end());
          if (question_.staged != nullptr) {
            if (question_.staged->removed.contains(key)) return !stop;
            question_.staged->layOver(key, question_.columns, values);
          }
          if (!take(number, std::move(key), std::move(values))) stop = true;
          return !stop;
        },
        progress_));
    if (progress_.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
    return {};
  }

  // Few records are alike as a rule: only what may be is kept at the second reading.
  Status readHashes() {
    std::vector<std::uint64_t> hashes;
    ITERANDUM_TRY(eachRecord("looking for doubles", [&](std::uint64_t, ValueTuple&&, ValueTuple&& values) {
      ++found_.looked;
      if (std::none_of(values.begin(), values.end(), saysSomething)) {
        ++found_.silent;
      } else {
        hashes.push_back(TupleHash{}(form(values)));
      }
      return true;
    }));
    std::sort(hashes.begin(), hashes.end());
    for (std::size_t i = 1; i < hashes.size(); ++i) {
      if (hashes[i] == hashes[i - 1]) twice_.insert(hashes[i]);
    }
    return {};
  }

  Status readDoubles() {
    std::unordered_map<ValueTuple, std::size_t, TupleHash, TupleSame> groups;
    std::uint64_t held = 0;
    ITERANDUM_TRY(eachRecord("looking at doubles", [&](std::uint64_t number, ValueTuple&& key, ValueTuple&& values) {
      if (std::none_of(values.begin(), values.end(), saysSomething)) return true;
      ValueTuple by = form(values);
      if (!twice_.contains(TupleHash{}(by))) return true;
      const auto [at, isNew] = groups.try_emplace(std::move(by), found_.groups.size());
      if (isNew) found_.groups.emplace_back();
      found_.groups[at->second].push_back({std::move(key), std::move(values), {}, number, 0});
      return ++held <= kMostDoubles;
    }));
    if (held > kMostDoubles) {
      return fail(ErrorKind::InvalidInput, "more than " + std::to_string(kMostDoubles) +
                                               " records are alike in these columns; compare more columns, or fewer "
                                               "records");
    }
    return {};
  }

  // And those that no key tells apart.
  void dropSingles() {
    for (DoubleGroup& group : found_.groups) {
      std::unordered_map<ValueTuple, std::size_t, TupleHash, TupleSame> named;
      for (const DoubleRecord& record : group) ++named[record.key];
      found_.unnamed += std::erase_if(group, [&](const DoubleRecord& record) { return named[record.key] > 1; });
    }
    std::erase_if(found_.groups, [](const DoubleGroup& group) { return group.size() < 2; });
  }

  // How they are called, how much each says, and in what those of a group differ.
  Status readNames() {
    KeyRead read;
    read.table = &table_;
    read.keyColumns = table_.writeKeyColumns();
    read.mostPerKey = 1;
    for (const Column& column : table_.columns) {
      if (column.type != TypeClass::Bytes) read.columns.push_back(column.name);
    }
    std::vector<std::size_t> names;
    for (const std::string& name : readableColumns(table_)) {
      const auto at = std::find(read.columns.begin(), read.columns.end(), name);
      if (at != read.columns.end()) names.push_back(static_cast<std::size_t>(at - read.columns.begin()));
    }
    std::vector<DoubleRecord*> records;
    std::vector<std::size_t> groupOf;
    std::vector<ValueColumn> keys(read.keyColumns.size());
    for (std::size_t g = 0; g < found_.groups.size(); ++g) {
      for (DoubleRecord& record : found_.groups[g]) {
        records.push_back(&record);
        groupOf.push_back(g);
        for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(record.key[k]);
      }
    }
    std::vector<std::uint32_t> rows(records.size());
    std::iota(rows.begin(), rows.end(), 0U);
    read.keys = &keys;
    read.rows = rows;
    std::vector<ValueTuple> one(found_.groups.size());  // of each group, the first that was read
    std::vector<std::vector<bool>> differ(found_.groups.size(), std::vector<bool>(read.columns.size()));
    ITERANDUM_TRY(session_.readByKeys(
        read,
        [&](std::size_t row, ValueTuple&& values) {
          DoubleRecord& record = *records[row];
          if (question_.staged != nullptr) question_.staged->layOver(record.key, read.columns, values);
          record.filled = static_cast<std::uint32_t>(std::count_if(values.begin(), values.end(), saysSomething));
          for (const std::size_t at : names) record.name.push_back(values[at]);
          const std::size_t group = groupOf[row];
          for (std::size_t c = 0; !one[group].empty() && c < values.size(); ++c) {
            if (!sameValue(values[c], one[group][c])) differ[group][c] = true;
          }
          if (one[group].empty()) one[group] = std::move(values);
        },
        progress_));
    found_.differ.resize(found_.groups.size());
    for (std::size_t g = 0; g < differ.size(); ++g) {
      for (std::size_t c = 0; c < read.columns.size(); ++c) {
        if (differ[g][c] && !contains(read.keyColumns, read.columns[c])) found_.differ[g].push_back(read.columns[c]);
      }
    }
    return {};
  }

  Session& session_;
  const DoublesQuestion& question_;
  const Table& table_;
  Progress& progress_;
  std::vector<std::unordered_map<std::string, std::string>> spellings_;  // by column
  std::unordered_set<std::uint64_t> twice_;
  FoundDoubles found_;
};

// What the records of the groups that are decided hold now, by recordColumns(), in the order of the groups.
// Errors: one is not what it was any more.
Result<std::vector<ValueTuple>> readAgain(Session& session, const DoublesQuestion& question, const FoundDoubles& found,
                                          const DoublesDecision& decision, Progress& progress) {
  const Table& table = *question.which.table;
  std::vector<const DoubleRecord*> records;
  std::vector<ValueColumn> keys(table.writeKeyColumns().size());
  for (std::size_t g = 0; g < found.groups.size(); ++g) {
    if (!decision[g]) continue;
    for (const DoubleRecord& record : found.groups[g]) {
      records.push_back(&record);
      for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(record.key[k]);
    }
  }
  std::vector<std::uint32_t> rows(records.size());
  std::iota(rows.begin(), rows.end(), 0U);
  std::vector<ValueTuple> out(records.size());
  const std::vector<std::string> columns = table.recordColumns();
  const KeyRead read{&table, table.writeKeyColumns(), &keys, rows, columns, 1};
  ITERANDUM_TRY(session.readByKeys(
      read, [&](std::size_t row, ValueTuple&& record) { out[row] = std::move(record); }, progress));
  std::vector<std::size_t> compared;
  for (const std::string& name : question.columns) {
    compared.push_back(static_cast<std::size_t>(std::find(columns.begin(), columns.end(), name) - columns.begin()));
  }
  for (std::size_t r = 0; r < records.size(); ++r) {
    ValueTuple values;
    for (std::size_t c = 0; !out[r].empty() && c < compared.size(); ++c) values.push_back(out[r][compared[c]]);
    if (question.staged != nullptr && !values.empty()) {
      question.staged->layOver(records[r]->key, question.columns, values);
    }
    if (!values.empty() && sameTuple(values, records[r]->values)) continue;
    return fail(ErrorKind::NotFound, recordInWords(table.name, records[r]->key) +
                                         " was changed or removed meanwhile; look for doubles again");
  }
  return out;
}

}  // namespace

std::uint64_t FoundDoubles::records() const {
  return std::accumulate(groups.begin(), groups.end(), std::uint64_t{0},
                         [](std::uint64_t sum, const DoubleGroup& group) { return sum + group.size(); });
}

Result<FoundDoubles> findDoubles(Session& session, const DoublesQuestion& question, Progress& progress) {
  return Search(session, question, progress).run();
}

std::size_t keptOf(const DoubleGroup& group, Keep keep) {
  if (keep == Keep::First) return 0;
  if (keep == Keep::Last) return group.size() - 1;
  const auto fullest = std::max_element(
      group.begin(), group.end(), [](const DoubleRecord& a, const DoubleRecord& b) { return a.filled < b.filled; });
  return static_cast<std::size_t>(fullest - group.begin());
}

Result<ChangeList> withoutDoubles(Session& session, const DoublesQuestion& question, const FoundDoubles& found,
                                  const DoublesDecision& decision, Progress& progress) {
  const Table& table = *question.which.table;
  const std::string& why = !table.notEditable.empty() ? table.notEditable : table.cannotRemove;
  if (!why.empty()) return fail(ErrorKind::InvalidInput, displayName(table.name) + " cannot be changed: " + why);
  ITERANDUM_ASSIGN(std::vector<ValueTuple> records, readAgain(session, question, found, decision, progress));
  const std::vector<std::string> columns = table.recordColumns();
  ChangeList out;
  std::size_t at = 0;
  for (std::size_t g = 0; g < found.groups.size(); ++g) {
    if (!decision[g]) continue;
    for (std::size_t r = 0; r < found.groups[g].size(); ++r, ++at) {
      if (r == *decision[g]) continue;
      Change change;
      change.action = Action::Remove;
      change.table = table.name;
      change.keyColumns = table.writeKeyColumns();
      change.key = found.groups[g][r].key;
      for (std::size_t c = 0; c < table.columns.size(); ++c) {
        change.cells.push_back({columns[c], true, std::move(records[at][c]), {}});
      }
      out.add(change);
    }
  }
  return out;
}

Result<MergePlan> mergedDoubles(Session& session, const Catalogue& catalogue, const DoublesQuestion& question,
                                const FoundDoubles& found, const DoublesDecision& decision, bool dropDoubles,
                                Progress& progress) {
  ITERANDUM_TRY(readAgain(session, question, found, decision, progress));
  std::vector<MergeWish> wishes;
  for (std::size_t g = 0; g < found.groups.size(); ++g) {
    if (!decision[g]) continue;
    MergeWish wish;
    wish.table = question.which.table;
    wish.dropDoubles = dropDoubles;
    for (std::size_t r = 0; r < found.groups[g].size(); ++r) {
      if (r == *decision[g]) {
        wish.keep = found.groups[g][r].key;
      } else {
        wish.drop.push_back(found.groups[g][r].key);
      }
    }
    wishes.push_back(std::move(wish));
  }
  return planMerges(session, catalogue, wishes, progress);
}

}  // namespace iterandum
