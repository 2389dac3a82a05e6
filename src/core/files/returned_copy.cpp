#include "core/files/returned_copy.h"

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

#include "core/acts/record_acts.h"
#include "core/base/names.h"
#include "core/catalogue/column_rules.h"
#include "core/catalogue/record_words.h"
#include "core/files/spreadsheet.h"
#include "core/value/json.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

using Role = CopyColumn::Role;

constexpr std::int64_t kVersion = 1;

tl::unexpected<Error> altered(const std::string& what) {
  return fail(ErrorKind::InvalidFile, "what the working copy keeps out of sight is not as it was handed out (" + what +
                                          "): nothing of it can be told; hand it out anew");
}

Result<JsonNode> nodeOf(const FileLine& line, std::size_t at) {
  if (at >= line.cells.size()) return altered("row " + std::to_string(line.number) + " is too short");
  auto node = parseJson(cellText(line.cells[at]));
  if (!node) return altered("row " + std::to_string(line.number));
  return node;
}

Result<Value> valueOf(const FileLine& line, std::size_t at) {
  ITERANDUM_ASSIGN(const JsonNode node, nodeOf(line, at));
  auto value = valueFromJson(node, {});
  if (!value || value->kind() == Value::Kind::PendingKey) return altered("row " + std::to_string(line.number));
  return value;
}

std::string stringOf(const JsonNode& node, std::string_view name) {
  const JsonNode* found = node.find(name);
  return found == nullptr || found->type != JsonNode::Type::String ? std::string() : found->text;
}

// Nothing: it is no whole number from 0.
std::optional<std::uint64_t> countOf(const JsonNode& node, std::string_view name) {
  const JsonNode* found = node.find(name);
  if (found == nullptr || found->type != JsonNode::Type::Number || found->text.size() > 9) return std::nullopt;
  if (found->text.find_first_not_of("0123456789") != std::string::npos) return std::nullopt;
  return std::stoull(found->text);
}

// A column that came back: what the table has under it, and what it can be chosen from.
struct Known {
  CopyColumn said;
  const Column* column = nullptr;        // Key, Open
  std::optional<std::size_t> list;       // Open: the cell holds how the value is called
  std::size_t kept = 0;                  // where it lies in what is kept of a record
  std::optional<std::size_t> seen = {};  // where it stands in the sheet; nothing: it is not there any more
};

// What a column can be chosen from, found by name and by what is stored.
struct ChoiceList {
  std::vector<CopyList::Entry> entries;
  std::unordered_multimap<std::string, std::size_t> byName;
  std::unordered_multimap<std::string, std::size_t> loosely;
  std::unordered_map<std::string, std::size_t> byStored;

  void add(CopyList::Entry entry) {
    byName.emplace(entry.called, entries.size());
    loosely.emplace(looseText(entry.called), entries.size());
    byStored.emplace(canonicalText(entry.stored), entries.size());
    entries.push_back(std::move(entry));
  }
};

class CopyReader {
 public:
  CopyReader(const Catalogue& catalogue, Progress& progress) : catalogue_(catalogue), progress_(progress) {}

  Result<ReturnedCopy> read(std::string_view content, const std::string& name) {
    out_.name = name;
    ITERANDUM_ASSIGN(book_, Spreadsheet::open(content));
    ITERANDUM_TRY(readKept());
    ITERANDUM_TRY(readLists());
    ITERANDUM_TRY(readSeen());
    out_.handedOut = records_.size();
    return std::move(out_);
  }

 private:
  Result<std::unique_ptr<TableSource>> sheetCalled(const std::string& name) {
    const auto& names = book_->sheets();
    const auto found = std::find(names.begin(), names.end(), name);
    if (found == names.end()) return altered("its sheet '" + name + "' is missing");
    return book_->sheet(static_cast<std::size_t>(found - names.begin()));
  }

  Status readKept() {
    ITERANDUM_ASSIGN(const auto source, sheetCalled(kCopySheet));
    FileLine line;
    ITERANDUM_ASSIGN(bool more, source->next(line));
    if (!more) return altered("it is empty");
    std::uint64_t columns = 0;
    ITERANDUM_TRY(readHead(line, columns));
    for (std::uint64_t i = 0; i < columns; ++i) {
      ITERANDUM_ASSIGN(more, source->next(line));
      if (!more) return altered("columns are missing");
      ITERANDUM_TRY(readColumn(line));
    }
    while (true) {
      ITERANDUM_ASSIGN(more, source->next(line));
      if (!more) break;
      ITERANDUM_TRY(readRecord(line));
      if (!progress_.step("reading the working copy", records_.size(), 0))
        return fail(ErrorKind::Cancelled, "it was stopped");
    }
    return {};
  }

  Status readHead(const FileLine& line, std::uint64_t& columns) {
    ITERANDUM_ASSIGN(const JsonNode node, nodeOf(line, 0));
    if (stringOf(node, "format") != "iterandum-working-copy") return altered("its head");
    const auto version = countOf(node, "version");
    if (!version) return altered("its version");
    if (*version > kVersion) {
      return fail(ErrorKind::InvalidFile, "the working copy was made by a newer Iterandum (version " +
                                              std::to_string(*version) + "); use that one");
    }
    CopyHead& head = out_.head;
    ITERANDUM_ASSIGN(head.table, parseTableName(stringOf(node, "table")));
    head.database = stringOf(node, "database");
    head.at = stringOf(node, "at");
    head.title = stringOf(node, "title");
    head.sheet = stringOf(node, "sheet");
    const auto count = countOf(node, "columns");
    if (!count || *count == 0 || *count > kMostColumns) return altered("its columns");
    columns = *count;
    out_.table = catalogue_.find(head.table);
    if (out_.table == nullptr) {
      return fail(ErrorKind::NotFound, "the working copy is of " + displayName(head.table) + " of " + head.database +
                                           ", and there is no such table here");
    }
    return {};
  }

  Status readColumn(const FileLine& line) {
    ITERANDUM_ASSIGN(const JsonNode node, nodeOf(line, 0));
    Known known;
    known.said.heading = stringOf(node, "heading");
    known.said.column = stringOf(node, "column");
    const std::string role = stringOf(node, "role");
    if (known.said.heading.empty() || known.said.column.empty()) return altered("a column");
    if (role == "shown") {
      out_.head.columns.push_back(std::move(known.said));
      return {};
    }
    if (role != "key" && role != "open") return altered("a column");
    known.said.role = role == "key" ? Role::Key : Role::Open;
    known.kept = known_.size();
    known.column = out_.table->column(known.said.column);
    if (known.column == nullptr) {
      return fail(ErrorKind::NotFound, "the working copy has a column " + known.said.column + ", which " +
                                           displayName(out_.table->name) + " has not any more");
    }
    if (node.find("list") != nullptr) {
      const auto list = countOf(node, "list");
      if (!list || *list >= kMostColumns) return altered("a list");
      known.list = *list;
    }
    out_.head.columns.push_back(known.said);
    known_.push_back(std::move(known));
    return {};
  }

  // What a record held, and its key.
  Status readRecord(const FileLine& line) {
    ValueTuple key;
    ValueTuple held;
    for (const Known& known : known_) {
      ITERANDUM_ASSIGN(Value value, valueOf(line, known.kept));
      value = comparableForm(*known.column, value);
      if (known.said.role == Role::Key) key.push_back(value);
      held.push_back(std::move(value));
    }
    if (key.empty()) return altered("its key");
    if (!records_.try_emplace(std::move(key), Kept{std::move(held), 0}).second) return altered("a key is there twice");
    return {};
  }

  Status readLists() {
    for (const Known& known : known_) {
      if (known.list) lists_[*known.list];
    }
    if (lists_.empty()) return {};
    ITERANDUM_ASSIGN(const auto source, sheetCalled(kCopyLists));
    FileLine line;
    while (true) {
      ITERANDUM_ASSIGN(const bool more, source->next(line));
      if (!more) return {};
      for (const Known& known : known_) {
        const std::size_t at = known.list ? 2 * *known.list : line.cells.size();
        if (at + 1 >= line.cells.size() || line.cells[at + 1].kind == FileCell::Kind::None) continue;
        ITERANDUM_ASSIGN(Value stored, valueOf(line, at + 1));
        lists_[*known.list].add({cellText(line.cells[at]), comparableForm(*known.column, stored)});
      }
    }
  }

  Status readSeen() {
    std::vector<std::string> names = book_->sheets();
    // The one that was handed out, else any.
    std::stable_partition(names.begin(), names.end(), [&](const std::string& n) { return n == out_.head.sheet; });
    for (const std::string& name : names) {
      if (name == kCopySheet || name == kCopyLists) continue;
      ITERANDUM_ASSIGN(const auto source, sheetCalled(name));
      ITERANDUM_ASSIGN(const bool found, findHeads(*source));
      if (found) return readRows(*source);
    }
    std::string wanted;
    for (const Known& known : known_) {
      if (known.said.role == Role::Key) wanted += (wanted.empty() ? "" : ", ") + known.said.heading;
    }
    return fail(ErrorKind::InvalidFile, "no row of the working copy names the columns that say which record it is: " +
                                            wanted + "; put the heads back as they were");
  }

  Result<bool> findHeads(TableSource& source) {
    FileLine line;
    for (int i = 0; i < kMostLinesAbove; ++i) {
      ITERANDUM_ASSIGN(const bool more, source.next(line));
      if (!more) return false;
      bool all = true;
      for (Known& known : known_) {
        known.seen.reset();
        for (std::size_t at = 0; at < line.cells.size(); ++at) {
          if (trimmed(cellText(line.cells[at])) != trimmed(known.said.heading)) continue;
          if (known.seen) {
            return fail(ErrorKind::InvalidFile, "the column " + known.said.heading + " is there twice",
                        "row " + std::to_string(line.number));
          }
          known.seen = at;
        }
        all = all && (known.seen || known.said.role != Role::Key);
      }
      if (!all) continue;
      takeHeads(line);
      return true;
    }
    return false;
  }

  void takeHeads(const FileLine& line) {
    for (const Known& known : known_) {
      if (!known.seen) out_.missing.push_back(known.said.heading);
    }
    for (const FileCell& cell : line.cells) {
      const std::string name = trimmed(cellText(cell));
      const bool handedOut = std::any_of(out_.head.columns.begin(), out_.head.columns.end(),
                                         [&](const CopyColumn& column) { return trimmed(column.heading) == name; });
      if (!name.empty() && !handedOut) out_.leftAlone.push_back(name);
    }
  }

  Status readRows(TableSource& source) {
    FileLine line;
    while (true) {
      ITERANDUM_ASSIGN(const bool more, source.next(line));
      if (!more) break;
      if (!line.isBlank()) readRow(line);
      if (!progress_.step("reading the working copy", out_.rows.size(), 0))
        return fail(ErrorKind::Cancelled, "it was stopped");
    }
    // Of rows that name one record none can be told to be the right one.
    std::unordered_set<std::uint64_t> twice;
    for (const LineOutcome& row : out_.rows) {
      if (row.kind == LineOutcome::Kind::Twice) twice.insert(row.line);
    }
    std::erase_if(out_.changed, [&](const ReturnedRecord& record) { return twice.contains(record.row); });
    return {};
  }

  struct Kept {
    ValueTuple held;
    std::uint64_t row = 0;  // where it stands in the sheet; 0: not met yet
    std::size_t outcome = 0;
  };

  void readRow(FileLine& line) {
    LineOutcome outcome;
    outcome.line = line.number;
    ReturnedRecord record;
    record.row = line.number;
    auto kept = recordOf(line, record.key);
    if (!kept) {
      outcome.kind = LineOutcome::Kind::Refused;
      outcome.words = kept.error().message;
    } else if ((*kept)->row != 0) {
      LineOutcome& first = out_.rows[(*kept)->outcome];
      if (first.kind != LineOutcome::Kind::Twice) {
        first.kind = LineOutcome::Kind::Twice;
        first.words = std::to_string(line.number);
      }
      outcome.kind = LineOutcome::Kind::Twice;
      outcome.words = std::to_string((*kept)->row);
    } else {
      (*kept)->row = line.number;
      (*kept)->outcome = out_.rows.size();
      compare(line, (*kept)->held, record, outcome);
    }
    if (!record.cells.empty() && !outcome.failed()) out_.changed.push_back(std::move(record));
    out_.rows.push_back(std::move(outcome));
  }

  Result<Kept*> recordOf(const FileLine& line, ValueTuple& key) {
    for (const Known& known : known_) {
      if (known.said.role != Role::Key) continue;
      const FileCell* cell = cellAt(line, known);
      if (cell == nullptr) return fail(ErrorKind::InvalidInput, known.said.heading + " is blank: it names no record");
      auto value = valueOfCell(*known.column, *cell, {});
      if (!value) return fail(std::move(value.error()));
      key.push_back(comparableForm(*known.column, *value));
    }
    const auto found = records_.find(key);
    if (found == records_.end())
      return fail(ErrorKind::InvalidInput, "no record that was handed out has this key; keys are not to be changed");
    return &found->second;
  }

  // Null where the cell is blank.
  static const FileCell* cellAt(const FileLine& line, const Known& known) {
    if (!known.seen || *known.seen >= line.cells.size()) return nullptr;
    const FileCell& cell = line.cells[*known.seen];
    return cell.kind == FileCell::Kind::None || cell.kind == FileCell::Kind::Absent ? nullptr : &cell;
  }

  void compare(const FileLine& line, const ValueTuple& held, ReturnedRecord& record, LineOutcome& outcome) {
    for (const Known& known : known_) {
      if (known.said.role != Role::Open || !known.seen) continue;
      const Value& from = held[known.kept];
      auto to = changedTo(known, cellAt(line, known), from);
      if (!to) {
        outcome.kind = LineOutcome::Kind::Refused;
        outcome.words = to.error().message;
        return;
      }
      if (!*to) continue;
      if (!known.column->notEditable.empty()) {
        outcome.kind = LineOutcome::Kind::Refused;
        outcome.words = known.column->name + " cannot be set: " + known.column->notEditable;
        return;
      }
      outcome.kind = LineOutcome::Kind::Changes;
      outcome.words = outcome.words.text() + (outcome.words.text().empty() ? "" : ", ") + known.column->name;
      record.cells.push_back({known.column->name, from, std::move(**to)});
    }
  }

  // What a cell has become; nothing: it is as it was handed out.
  Result<std::optional<Value>> changedTo(const Known& known, const FileCell* cell, const Value& from) {
    if (cell == nullptr) {
      if (from.isNull()) return std::optional<Value>();
      ITERANDUM_ASSIGN(Value none, storedForm(*known.column, Value()));
      return std::optional(std::move(none));
    }
    if (cell->kind != FileCell::Kind::Error && known.list) return chosen(known, cellText(*cell), from);
    if (saysTheSame(*known.column, *cell, from)) return std::optional<Value>();
    ITERANDUM_ASSIGN(Value value, valueOfCell(*known.column, *cell, {}));
    if (!from.isNull() && meansTheSame(*known.column, *cell, value, from)) return std::optional<Value>();
    return std::optional(std::move(value));
  }

  Result<std::optional<Value>> chosen(const Known& known, const std::string& text, const Value& from) const {
    const ChoiceList& list = lists_.at(*known.list);
    if (!from.isNull()) {
      const auto asHandedOut = list.byStored.find(canonicalText(from));
      const std::string& was =
          asHandedOut == list.byStored.end() ? canonicalText(from) : list.entries[asHandedOut->second].called;
      if (text == was) return std::optional<Value>();
    }
    const CopyList::Entry* meant = entryCalled(list, text);
    if (meant != nullptr) {
      if (!from.isNull() && sameValue(meant->stored, from)) return std::optional<Value>();
      return std::optional(meant->stored);
    }
    return fail(ErrorKind::InvalidInput, "nothing that " + known.column->name + " could be chosen from is called '" +
                                             text + "'; take one of its list");
  }

  // By how it is called, else by that but for capitals and blanks, else by what is stored; null: none, or several.
  static const CopyList::Entry* entryCalled(const ChoiceList& list, const std::string& text) {
    for (const auto& [names, said] : {std::pair(&list.byName, text), std::pair(&list.loosely, looseText(text))}) {
      const auto [first, end] = names->equal_range(said);
      if (first != end && std::next(first) == end) return &list.entries[first->second];
    }
    const auto stored = list.byStored.find(trimmed(text));
    return stored == list.byStored.end() ? nullptr : &list.entries[stored->second];
  }

  const Catalogue& catalogue_;
  Progress& progress_;
  std::unique_ptr<Spreadsheet> book_;
  ReturnedCopy out_;
  std::vector<Known> known_;  // Key and Open, in the order of what is kept of a record
  std::unordered_map<ValueTuple, Kept, TupleHash, TupleSame> records_;
  std::map<std::size_t, ChoiceList> lists_;
};

}  // namespace

bool isWorkingCopy(std::string_view content) {
  if (!looksLikeSpreadsheet(content)) return false;
  const auto book = Spreadsheet::open(content);
  return book && contains((*book)->sheets(), kCopySheet);
}

Result<ReturnedCopy> readWorkingCopy(std::string_view content, const std::string& name, const Catalogue& catalogue,
                                     Progress& progress) {
  if (!isWorkingCopy(content)) return fail(ErrorKind::InvalidFile, "it is no working copy that was handed out", name);
  auto out = CopyReader(catalogue, progress).read(content, name);
  if (!out && out.error().kind != ErrorKind::Cancelled)
    out.error().place = name + (out.error().place.empty() ? "" : ", " + out.error().place);
  return out;
}

}  // namespace iterandum
