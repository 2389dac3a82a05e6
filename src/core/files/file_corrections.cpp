#include "core/files/file_corrections.h"

#include <algorithm>
#include <map>
#include <numeric>
#include <span>
#include <unordered_map>
#include <unordered_set>

#include "core/acts/record_acts.h"
#include "core/base/names.h"
#include "core/catalogue/column_rules.h"
#include "core/files/line_keys.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

using LineKind = LineOutcome::Kind;

constexpr std::size_t kBatch = 4096;

// Most files come in the order of their keys.
template <typename Before>
void sortRows(std::vector<std::uint32_t>& rows, const Before& before) {
  if (!std::is_sorted(rows.begin(), rows.end(), before)) std::sort(rows.begin(), rows.end(), before);
}

// A line as values, waiting for its record. Used again, so that its room is.
struct WaitingLine {
  FileLine line;
  ValueTuple key;
  std::vector<ValueTuple> records;  // found: at most two
};

class Corrections {
 public:
  Corrections(const FileHeader& header, Session& session, const Table& table, const CorrectionOptions& options,
              Progress& progress)
      : header_(header), session_(session), table_(table), options_(options), progress_(progress) {
    for (const std::size_t at : header.match) match_.push_back(header.columns[at]->name);
    const auto wanted = [&](const std::string& name) {
      const auto at = std::find(read_.begin(), read_.end(), name);
      if (at != read_.end()) return static_cast<std::size_t>(at - read_.begin());
      read_.push_back(name);
      return read_.size() - 1;
    };
    keyColumns_ = table.writeKeyColumns();
    for (const std::string& name : keyColumns_) (void)wanted(name);
    for (const Column* column : header.columns) placeOf_.push_back(column != nullptr ? wanted(column->name) : 0);
    for (const Column* column : header.columns) {
      const bool named = column != nullptr && options.catalogue != nullptr;
      references_.push_back(named ? calledReference(table, *column, *options.catalogue, options.calledBy)
                                  : std::nullopt);
      lenses_.push_back(column == nullptr ? nullptr : lensOf(*column));
    }
  }

  Result<FileCorrections> run(TableSource& source) {
    lineWord_ = source.lineWord();
    if (!options_.file.digest.empty()) {
      out_.changes.origins.files.push_back(options_.file);
      out_.changes.origins.files.back().lineWord = lineWord_;
    }
    std::vector<WaitingLine> room(kBatch);
    std::size_t used = 0;
    while (true) {
      ITERANDUM_ASSIGN(const bool more, source.next(room[used].line));
      if (more && !room[used].line.isBlank()) {
        if (room[used].line.number > UINT32_MAX) return fail(ErrorKind::InvalidFile, "it has too many lines");
        used += take(room[used]) ? 1 : 0;
      }
      if (used > 0 && (!more || used == kBatch)) {
        const std::span<WaitingLine> waiting(room.data(), used);
        ITERANDUM_TRY(find(waiting));
        for (WaitingLine& one : waiting) judge(one);
        used = 0;
      }
      if (!more) break;
      if (!progress_.step("reading the file", out_.counts.lines, 0))
        return fail(ErrorKind::Cancelled, "it was stopped");
    }
    settleTwice();
    if (options_.removeMissing) ITERANDUM_TRY(removeMissing());
    count();
    return std::move(out_);
  }

 private:
  // A change that a line asks for.
  void stage(const FileLine& line, const Change& change) {
    put(out_.changes, static_cast<std::uint32_t>(line.number), change);
  }
  static void put(ChangeList& changes, std::uint32_t line, const Change& change) {
    if (!changes.origins.files.empty()) changes.origins.note(changes.count(), {1, line, false});
    changes.add(change);
  }

  // That a line is there twice may turn out after it was judged.
  void settleTwice() {
    if (!twice_.empty()) {
      std::vector<std::uint32_t> changedBy;  // for each change, its line
      for (const LineOutcome& line : out_.lines) {
        const bool changes = line.kind == LineKind::Changes || line.kind == LineKind::New;
        if (changes) changedBy.push_back(static_cast<std::uint32_t>(line.line));
      }
      std::vector<std::uint32_t> lines;
      for (const auto& [line, other] : twice_) lines.push_back(line);
      ChangeList kept;
      kept.origins.files = out_.changes.origins.files;
      for (const auto& [index, change] : out_.changes.inOrder()) {
        if (!twice_.contains(changedBy[index])) put(kept, changedBy[index], change);
      }
      out_.changes = std::move(kept);
      out_.lines.erase(lines);
      for (const auto& [line, other] : twice_) out_.lines.add(line, LineKind::Twice, std::to_string(other));
    }
    out_.lines.sort();
  }

  // What is not so already.
  void note(const FileLine& line, LineKind kind, std::string words = {}) {
    out_.lines.add(static_cast<std::uint32_t>(line.number), kind, std::move(words));
  }
  void refuse(const FileLine& line, std::string words) { note(line, LineKind::Refused, std::move(words)); }

  [[nodiscard]] const Lens* lensOf(const Column& column) const {
    for (const Lens& lens : options_.lenses) {
      if (lens.table == displayName(table_.name) && lens.column == column.name && lensUnsuited(lens, column).empty())
        return &lens;
    }
    return nullptr;
  }

  // Errors: InvalidInput where it cannot be told; the file's.
  Result<WrittenForms::Days> orderOfDays(const std::string& column) {
    if (!daysRead_) {
      ITERANDUM_ASSIGN(const std::unique_ptr<TableSource> lines, options_.again());
      ITERANDUM_ASSIGN(out_.days, daysFound(*lines, header_, progress_));
      daysRead_ = true;
    }
    const auto at =
        std::find_if(out_.days.begin(), out_.days.end(), [&](const ColumnDays& d) { return d.column == column; });
    if (at != out_.days.end() && at->order == WrittenForms::Days::AsTyped)
      return fail(ErrorKind::InvalidInput, "whether the day or the month comes first in " + column + " cannot be told");
    // What is no day in either order is refused as what it is.
    return at == out_.days.end() ? WrittenForms::Days::AsTyped : at->order;
  }

  // What a cell means: through the lens of its column; as a value that people write; as the name of a record.
  Result<Value> meant(std::size_t at, const FileCell& cell) {
    const Column& column = *header_.columns[at];
    const bool isText = cell.kind == FileCell::Kind::Text || cell.kind == FileCell::Kind::Number;
    if (lenses_[at] != nullptr && isText) return typedThrough(*lenses_[at], column, cell.text);
    WrittenForms forms = options_.forms;
    if (forms.days == WrittenForms::Days::AsTyped && options_.again && needsDayOrder(column, cell)) {
      ITERANDUM_ASSIGN(forms.days, orderOfDays(column.name));
    }
    Result<Value> value = valueOfCell(column, cell, forms);
    if (!references_[at] || !references_[at]->hasNames() || !isText) return value;
    return names_.keyOf(*references_[at], cell.text, value, session_, progress_);
  }

  // Reads its key. True where that can be read and is not another line's: then the line waits for its record.
  bool take(WaitingLine& out) {
    FileLine& line = out.line;
    ++out_.counts.lines;
    const bool more =
        line.cells.size() > header_.columns.size() &&
        std::any_of(line.cells.begin() + static_cast<std::ptrdiff_t>(header_.columns.size()), line.cells.end(),
                    [](const FileCell& cell) { return cell.kind != FileCell::Kind::None; });
    const bool isText = std::string_view(lineWord_) == "line";
    if (more || (isText && line.cells.size() < header_.columns.size())) {
      keysUnread_ = true;
      refuse(line, "it has " + std::to_string(line.cells.size()) + " fields, the header has " +
                       std::to_string(header_.columns.size()));
      return false;
    }
    line.cells.resize(header_.columns.size());
    out.key.clear();
    out.records.clear();
    for (const std::size_t at : header_.match) {
      const FileCell& cell = line.cells[at];
      const bool none = cell.kind == FileCell::Kind::None || cell.kind == FileCell::Kind::Absent;
      auto value = none ? Result<Value>(Value()) : meant(at, cell);
      if (!value) {
        keysUnread_ = true;
        refuse(line, value.error().message);
        return false;
      }
      out.key.push_back(keyForm(*header_.columns[at], *value));
    }
    const bool isNamed = !std::all_of(out.key.begin(), out.key.end(), [](const Value& v) { return v.isNull(); });
    if (isNamed) {
      if (const auto first = seen_.put(out.key, static_cast<std::uint32_t>(line.number))) {
        twice(*first, static_cast<std::uint32_t>(line.number));
        return false;
      }
    }
    return true;
  }

  // As keys are compared.
  [[nodiscard]] Value keyForm(const Column& column, const Value& value) const {
    Value out = comparableForm(column, value);
    if (!options_.looseMatch || out.isNull()) return out;
    return Value::text(looseText(canonicalText(out)));
  }

  // Which other one was seen first is said.
  void twice(std::uint32_t first, std::uint32_t second) {
    twice_.try_emplace(first, second);
    twice_.try_emplace(second, first);
  }

  Status find(std::span<WaitingLine> waiting) {
    return options_.looseMatch ? findLoosely(waiting) : findExactly(waiting);
  }

  // The keys of all records by what names them, read once.
  Status readLooseKeys() {
    if (looseRead_) return {};
    looseRead_ = true;
    Query query;
    query.table = &table_;
    query.columns = keyColumns_;
    std::vector<std::size_t> at;
    for (const std::string& name : match_) {
      const auto found = std::find(query.columns.begin(), query.columns.end(), name);
      at.push_back(static_cast<std::size_t>(found - query.columns.begin()));
      if (found == query.columns.end()) query.columns.push_back(name);
    }
    return session_.select(
        query,
        [&](ValueTuple&& record) {
          ValueTuple name;
          for (std::size_t m = 0; m < at.size(); ++m) name.push_back(keyForm(*table_.column(match_[m]), record[at[m]]));
          record.resize(keyColumns_.size());
          std::vector<ValueTuple>& keys = looseKeys_[std::move(name)];
          if (keys.size() < 2 || options_.removeMissing) keys.push_back(std::move(record));
          return true;
        },
        progress_);
  }

  Status findLoosely(std::span<WaitingLine> waiting) {
    ITERANDUM_TRY(readLooseKeys());
    std::vector<ValueColumn> keys(keyColumns_.size());
    std::vector<std::size_t> whose;
    for (std::size_t i = 0; i < waiting.size(); ++i) {
      const auto found = looseKeys_.find(waiting[i].key);
      if (found == looseKeys_.end()) continue;
      for (const ValueTuple& key : found->second) {
        for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(key[k]);
        whose.push_back(i);
      }
    }
    std::vector<std::uint32_t> rows(whose.size());
    std::iota(rows.begin(), rows.end(), 0U);
    sortRows(rows, [&](std::uint32_t a, std::uint32_t b) {
      for (const ValueColumn& column : keys) {
        const int order = compareValues(column.at(a), column.at(b));
        if (order != 0) return order < 0;
      }
      return false;
    });
    const KeyRead read{&table_, keyColumns_, &keys, rows, read_, 2};
    return session_.readByKeys(
        read, [&](std::size_t row, ValueTuple&& record) { takeRecord(waiting[whose[row]], std::move(record)); },
        progress_);
  }

  void takeRecord(WaitingLine& line, ValueTuple&& record) {
    if (options_.removeMissing) {
      named_.insert(ValueTuple(record.begin(), record.begin() + static_cast<std::ptrdiff_t>(keyColumns_.size())));
    }
    if (line.records.size() < 2) line.records.push_back(std::move(record));
  }

  Status findExactly(std::span<WaitingLine> waiting) {
    std::vector<ValueColumn> keys(match_.size());
    std::vector<std::uint32_t> rows;
    for (std::uint32_t i = 0; i < waiting.size(); ++i) {
      for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(waiting[i].key[k]);
      const bool none =
          std::any_of(waiting[i].key.begin(), waiting[i].key.end(), [](const Value& v) { return v.isNull(); });
      // By a whole record, no value names one too.
      if (!none || match_.size() > 1) rows.push_back(i);
    }
    sortRows(rows, [&](std::uint32_t a, std::uint32_t b) {
      for (std::size_t k = 0; k < keys.size(); ++k) {
        const int order = compareValues(waiting[a].key[k], waiting[b].key[k]);
        if (order != 0) return order < 0;
      }
      return false;
    });
    // Two tell that a line names several; what is named at all is not missing, however many there are.
    const std::uint64_t most = options_.removeMissing ? UINT64_MAX : 2;
    const KeyRead read{&table_, match_, &keys, rows, read_, most};
    return session_.readByKeys(
        read, [&](std::size_t row, ValueTuple&& record) { takeRecord(waiting[row], std::move(record)); }, progress_);
  }

  void judge(const WaitingLine& one) {
    if (one.records.size() > 1) {
      note(one.line, LineKind::Several);
    } else if (one.records.empty()) {
      options_.addMissing ? judgeNew(one) : void(note(one.line, LineKind::NoRecord));
    } else {
      judgeFound(one, one.records.front());
    }
  }

  // What the file has in a column of a record. Nothing: it is left as it is. An error: it is refused.
  [[nodiscard]] Result<std::optional<Value>> wanted(const WaitingLine& one, std::size_t at, const Value& stored) {
    const FileCell& cell = one.line.cells[at];
    const Column& column = *header_.columns[at];
    if (cell.kind == FileCell::Kind::Absent) return std::optional<Value>();
    if (cell.kind == FileCell::Kind::None) {
      if (options_.blankLeaves || stored.isNull()) return std::optional<Value>();
      auto none = storedForm(column, Value());
      if (!none) return fail(std::move(none.error()));
      return std::optional(std::move(*none));
    }
    if (lenses_[at] == nullptr && saysTheSame(column, cell, stored)) return std::optional<Value>();
    ITERANDUM_ASSIGN(Value value, meant(at, cell));
    if (meansTheSame(column, cell, value, stored)) return std::optional<Value>();
    return std::optional(std::move(value));
  }

  void judgeFound(const WaitingLine& one, const ValueTuple& record) {
    Change change;
    std::string columns;
    change.table = table_.name;
    change.keyColumns = keyColumns_;
    change.key.assign(record.begin(), record.begin() + static_cast<std::ptrdiff_t>(keyColumns_.size()));
    for (std::size_t at = 0; at < header_.columns.size(); ++at) {
      const Column* column = header_.columns[at];
      const bool isKey = std::find(header_.match.begin(), header_.match.end(), at) != header_.match.end();
      if (column == nullptr || isKey) continue;
      const Value& stored = record[placeOf_[at]];
      auto value = wanted(one, at, stored);
      if (!value) return refuse(one.line, value.error().message);
      if (!*value) continue;
      if (!column->notEditable.empty()) {
        return refuse(one.line, column->name + " cannot be set: " + column->notEditable);
      }
      columns += (columns.empty() ? "" : ", ") + column->name;
      change.cells.push_back({column->name, true, stored, std::move(**value)});
    }
    if (change.cells.empty()) return;
    note(one.line, LineKind::Changes, std::move(columns));
    stage(one.line, change);
  }

  void judgeNew(const WaitingLine& one) {
    Change change;
    change.action = Action::Add;
    change.table = table_.name;
    for (std::size_t at = 0; at < header_.columns.size(); ++at) {
      const Column* column = header_.columns[at];
      if (column == nullptr || !column->notEditable.empty()) continue;
      const FileCell& cell = one.line.cells[at];
      const bool none = cell.kind == FileCell::Kind::None;
      // A blank is left to the database where it gives out a number, or where no value may be there.
      const bool left = none && (options_.blankLeaves || column->generatedKey || !column->nullable);
      if (cell.kind == FileCell::Kind::Absent || left) continue;
      auto value = none ? Result<Value>(Value()) : meant(at, cell);
      if (!value) return refuse(one.line, value.error().message);
      change.cells.push_back({column->name, false, Value(), std::move(*value)});
    }
    note(one.line, LineKind::New);
    stage(one.line, change);
  }

  // What the file does not name. A line whose key cannot be read may name any of them.
  Status removeMissing() {
    if (keysUnread_) {
      out_.cannotRemove = "which records are missing in it cannot be told: not every " + std::string(lineWord_) +
                          " says which record it means";
      return {};
    }
    Query query;
    query.table = &table_;
    query.columns = table_.recordColumns();
    std::vector<std::size_t> keyAt;
    for (const std::string& name : keyColumns_) {
      keyAt.push_back(static_cast<std::size_t>(std::find(query.columns.begin(), query.columns.end(), name) -
                                               query.columns.begin()));
      if (keyAt.back() == query.columns.size()) query.columns.push_back(name);
    }
    return session_.select(
        query,
        [&](ValueTuple&& record) {
          ValueTuple key;
          for (const std::size_t at : keyAt) key.push_back(record[at]);
          if (named_.contains(key)) return true;
          Change change;
          change.action = Action::Remove;
          change.table = table_.name;
          change.keyColumns = keyColumns_;
          change.key = std::move(key);
          for (std::size_t c = 0; c < query.columns.size(); ++c) {
            if (table_.column(query.columns[c]) == nullptr) continue;
            change.cells.push_back({query.columns[c], true, std::move(record[c]), Value()});
          }
          out_.changes.add(change);
          ++out_.counts.removed;
          return true;
        },
        progress_);
  }

  void count() {
    CorrectionCounts& counts = out_.counts;
    for (const ChangeBlock& block : out_.changes.blocks()) {
      if (block.action == Action::Edit) counts.cells += block.cells.size() * block.rows();
    }
    for (const LineOutcome& line : out_.lines) {
      counts.failed += line.failed() ? 1 : 0;
      counts.changing += line.kind == LineKind::Changes ? 1 : 0;
      counts.added += line.kind == LineKind::New ? 1 : 0;
    }
    counts.already = counts.lines - out_.lines.size();
  }

  const FileHeader& header_;
  Session& session_;
  const Table& table_;
  const CorrectionOptions& options_;
  Progress& progress_;
  std::vector<std::string> match_;
  std::vector<std::string> keyColumns_;
  std::vector<std::string> read_;                           // the columns of a record: its key, then what the file has
  std::vector<std::size_t> placeOf_;                        // for each column of the header, where it lies in them
  std::vector<std::optional<CalledReference>> references_;  // for each column of the header
  std::vector<const Lens*> lenses_;                         // likewise; null: none
  NamedKeys names_;
  bool looseRead_ = false;
  std::unordered_map<ValueTuple, std::vector<ValueTuple>, TupleHash, TupleSame> looseKeys_;
  bool daysRead_ = false;
  const char* lineWord_ = "line";
  bool keysUnread_ = false;
  LineKeys seen_;
  std::unordered_set<ValueTuple, TupleHash, TupleSame> named_;
  std::map<std::uint32_t, std::uint32_t> twice_;  // a line and another one that names the same record
  FileCorrections out_;
};

}  // namespace

Result<FileCorrections> correctionsFrom(TableSource& source, const FileHeader& header, Session& session,
                                        const Table& table, const CorrectionOptions& options, Progress& progress) {
  return Corrections(header, session, table, options, progress).run(source);
}

std::string inWords(const CorrectionCounts& c, const char* lineWord) {
  const std::string lines = lineWord;
  std::string out = several(c.lines, lines, lines + "s") + ": " +
                    several(c.changing, "record changes", "records change") + " in " +
                    several(c.cells, "cell", "cells") + ", " + several(c.already, "is", "are") + " so already";
  if (c.added > 0) out += ", " + several(c.added, "is", "are") + " new";
  if (c.removed > 0) out += ", " + several(c.removed, "record missing in it goes", "records missing in it go");
  return out + ", " + several(c.failed, "fails", "fail");
}

}  // namespace iterandum
