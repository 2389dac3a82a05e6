#include "core/files/working_copy.h"

#include <algorithm>
#include <optional>
#include <set>

#include "core/base/names.h"
#include "core/catalogue/column_rules.h"
#include "core/files/spreadsheet.h"
#include "core/files/xlsx_book.h"
#include "core/scope/column_path.h"
#include "core/value/json.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

constexpr std::uint32_t kHeadRow = 2;
constexpr const char* kWords =
    "Change the white cells only. The grey ones say which record it is. Send the file back as it is.";

// What is known of a column of the copy while it is written.
struct Planned {
  CopyColumn said;
  Column column;                    // what its values are
  std::optional<std::size_t> list;  // Open: what it can be chosen from
  std::size_t from = 0;             // where it lies in the query's rows
};

std::string jsonOf(const Column& column, const Value& value) {
  JsonWriter out;
  out.value(value, column.type == TypeClass::Any || column.storesOffType);
  return out.take();
}

class CopyWriter {
 public:
  CopyWriter(Session& session, const Catalogue& catalogue, const ReadScope& scope, const WorkingCopyOptions& options,
             Progress& progress)
      : session_(session),
        catalogue_(catalogue),
        scope_(scope),
        table_(*scope.table),
        options_(options),
        progress_(progress) {}

  Result<std::uint64_t> write(const RecordWriter::Sink& sink) {
    ITERANDUM_TRY(plan());
    const std::string where = conditionInWords(table_, scope_.where());
    title_ = displayName(table_.name) + (where.empty() ? "" : " where " + where);
    ITERANDUM_ASSIGN(book_, XlsxBook::begin(title_));
    ITERANDUM_ASSIGN(seen_, book_->addSheet(seenName()));
    ITERANDUM_ASSIGN(lists_sheet_, book_->addSheet(kCopyLists));
    ITERANDUM_ASSIGN(kept_, book_->addSheet(kCopySheet));
    ITERANDUM_TRY(writeHead());
    ITERANDUM_TRY(writeRecords());
    ITERANDUM_TRY(writeLists());
    finishSheets();
    ITERANDUM_TRY(book_->finish(sink));
    return records_;
  }

 private:
  Status plan() {
    const std::vector<std::string>& key = table_.identity.columns;
    const bool hasKey =
        !key.empty() && table_.identity.kind != Identity::Kind::WholeRecord &&
        std::all_of(key.begin(), key.end(), [&](const std::string& name) { return table_.column(name) != nullptr; });
    if (!hasKey) {
      return fail(ErrorKind::InvalidInput,
                  "records of " + displayName(table_.name) +
                      " have no key of their own, by which a working copy could bring them back");
    }
    if (!table_.notEditable.empty() || !table_.cannotEdit.empty()) {
      return fail(ErrorKind::InvalidInput, "nothing of " + displayName(table_.name) + " can be changed: " +
                                               (table_.notEditable.empty() ? table_.cannotEdit : table_.notEditable));
    }
    std::vector<ColumnPath> paths;
    for (const std::string& name : key) paths.push_back({{}, name});
    for (const ColumnPath& path : scope_.columns) {
      if (path.isBorrowed() || !contains(key, path.column)) paths.push_back(path);
    }
    // What is masked leaves only where somebody asked for it.
    std::erase_if(paths, [&](const ColumnPath& path) {
      return isMasked(path) && (path.isBorrowed() || !contains(options_.open, path.column)) &&
             (path.isBorrowed() || !contains(key, path.column));
    });
    if (paths.size() > kMostColumns) {
      return fail(ErrorKind::InvalidInput, "a sheet has 16 384 columns and no more; name fewer");
    }
    query_.table = &table_;
    query_.where = scope_.where();
    query_.order = scope_.order;
    const std::vector<std::size_t> from = askForColumns(paths, query_);
    for (std::size_t i = 0; i < paths.size(); ++i) ITERANDUM_TRY(planColumn(paths[i], from[i]));
    return openNamed();
  }

  // Of the sheet that is seen: the table's, unless that is what one out of sight is called.
  [[nodiscard]] std::string seenName() const {
    const std::string name = XlsxBook::sheetName(table_.name.name);
    return lowerCase(name).starts_with(kCopySheet) ? "records of " + name.substr(0, 20) : name;
  }

  [[nodiscard]] bool isMasked(const ColumnPath& path) const {
    const std::string owner = displayName(path.owner(table_).name);
    return std::any_of(options_.lenses.begin(), options_.lenses.end(), [&](const Lens& lens) {
      return lens.kind == LensKind::Masked && lens.table == owner && lens.column == path.column;
    });
  }

  Status planColumn(const ColumnPath& path, std::size_t from) {
    Planned out;
    const Column* column = path.owner(table_).column(path.column);
    if (column != nullptr) out.column = *column;
    out.from = from;
    out.said.column = columnPathText(path);
    out.said.heading = out.said.column;
    const bool own = !path.isBorrowed() && column != nullptr;
    if (own && contains(table_.identity.columns, path.column)) {
      out.said.role = CopyColumn::Role::Key;
    } else if (own && column->notEditable.empty() && (options_.open.empty() || contains(options_.open, path.column))) {
      out.said.role = CopyColumn::Role::Open;
      ITERANDUM_TRY(planList(*column, out));
    }
    columns_.push_back(std::move(out));
    return {};
  }

  // That all that was asked for is there to be changed.
  [[nodiscard]] Status openNamed() const {
    const auto isOpen = [&](const std::string& name) {
      return std::any_of(columns_.begin(), columns_.end(), [&](const Planned& one) {
        return one.said.role == CopyColumn::Role::Open && one.said.column == columnPathText({{}, name});
      });
    };
    for (const std::string& name : options_.open) {
      if (isOpen(name)) continue;
      const Column* column = table_.column(name);
      std::string why = "it is no column of " + displayName(table_.name);
      if (column != nullptr) {
        why = !column->notEditable.empty()              ? column->notEditable
              : contains(table_.identity.columns, name) ? "it says which record it is"
                                                        : "it is not among the columns that are handed out";
      }
      return fail(ErrorKind::InvalidInput, "'" + name + "' cannot be opened for changes: " + why);
    }
    const bool any = std::any_of(columns_.begin(), columns_.end(),
                                 [](const Planned& one) { return one.said.role == CopyColumn::Role::Open; });
    if (any) return {};
    return fail(ErrorKind::InvalidInput, "nothing in this working copy could be changed: none of its columns can");
  }

  // What a column can be chosen from: a lens's labels, the records that it points at, the values that are allowed.
  Status planList(const Column& column, Planned& out) {
    CopyList list;
    for (const Lens& lens : options_.lenses) {
      if (lens.kind != LensKind::Labels || lens.table != displayName(table_.name) || lens.column != column.name)
        continue;
      for (const LensLabel& label : lens.labels) {
        auto stored = typedValue(column, label.stored);
        if (stored) list.entries.push_back({label.shown, std::move(*stored)});
      }
      list.named = true;
      list.only = false;
    }
    if (list.entries.empty()) list.only = true;
    if (list.entries.empty()) ITERANDUM_TRY(listRecords(column, list));
    if (list.entries.empty() && !column.allowed.empty()) {
      list.named = false;
      list.only = !column.allowedIsAdvice;
      for (const Value& value : column.allowed) list.entries.push_back({canonicalText(value), value});
    }
    if (list.entries.empty()) return {};
    if (list.named) tellApart(list);
    out.list = lists_.size();
    lists_.push_back(std::move(list));
    return {};
  }

  Status listRecords(const Column& column, CopyList& list) {
    const auto reference = calledReference(table_, column, catalogue_, options_.calledBy);
    if (!reference) return {};
    list.named = reference->hasNames();
    ITERANDUM_TRY(eachCalled(
        session_, *reference, kMostChoices + 1,
        [&](Value&& key, std::string&& called) {
          list.entries.push_back({std::move(called), std::move(key)});
          return true;
        },
        progress_));
    // A reference to more than can be chosen from is typed; what a sheet cannot hold is no name in it.
    const bool fits = list.entries.size() <= kMostChoices &&
                      std::all_of(list.entries.begin(), list.entries.end(), [](const CopyList::Entry& entry) {
                        return entry.called.size() <= 255 && isValidUtf8(entry.called);
                      });
    if (!fits) list.entries.clear();
    return {};
  }

  // Two that are called alike get their keys behind them.
  static void tellApart(CopyList& list) {
    std::map<std::string, std::size_t> times;
    for (const CopyList::Entry& entry : list.entries) ++times[entry.called];
    std::set<std::string> taken;
    for (CopyList::Entry& entry : list.entries) {
      if (times[entry.called] > 1) entry.called += " (" + canonicalText(entry.stored) + ")";
      while (!taken.insert(entry.called).second) entry.called += " (" + canonicalText(entry.stored) + ")";
    }
  }

  Status writeHead() {
    ITERANDUM_TRY(seen_->title(0, title_, XlsxLook{.bold = true}));
    ITERANDUM_TRY(seen_->title(1, kWords));
    JsonWriter head;
    head.beginObject()
        .name("format")
        .string("iterandum-working-copy")
        .name("version")
        .number(1)
        .name("table")
        .string(displayName(table_.name))
        .name("database")
        .string(session_.info().address)
        .name("at")
        .string(options_.at)
        .name("title")
        .string(title_)
        .name("sheet")
        .string(seenName())
        .name("columns")
        .number(static_cast<std::int64_t>(columns_.size()))
        .endObject();
    ITERANDUM_TRY(kept_->text(keptRow_++, 0, head.take()));
    std::uint16_t at = 0;
    std::uint16_t keys = 0;
    for (const Planned& one : columns_) {
      const bool open = one.said.role == CopyColumn::Role::Open;
      keys += one.said.role == CopyColumn::Role::Key ? 1 : 0;
      ITERANDUM_TRY(seen_->text(kHeadRow, at++, one.said.heading, XlsxLook{.bold = true, .shaded = true}));
      ITERANDUM_TRY(writeColumn(one, open));
    }
    seen_->freeze(kHeadRow + 1, keys);
    return {};
  }

  Status writeColumn(const Planned& one, bool open) {
    JsonWriter out;
    out.beginObject()
        .name("heading")
        .string(one.said.heading)
        .name("column")
        .string(one.said.column)
        .name("role")
        .string(open ? "open" : (one.said.role == CopyColumn::Role::Key ? "key" : "shown"));
    if (one.list && lists_[*one.list].named) out.name("list").number(static_cast<std::int64_t>(*one.list));
    out.endObject();
    return kept_->text(keptRow_++, 0, out.take());
  }

  Status writeRecords() {
    Status written;
    ITERANDUM_TRY(session_.select(
        query_,
        [&](ValueTuple&& row) {
          written = writeRecord(row);
          ++records_;
          return written.has_value() && !progress_.cancelled();
        },
        progress_));
    ITERANDUM_TRY(std::move(written));
    if (progress_.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped; nothing was written");
    return {};
  }

  Status writeRecord(const ValueTuple& row) {
    const std::uint64_t at = kHeadRow + 1 + records_;
    if (std::max<std::uint64_t>(at, keptRow_) >= XlsxSheet::kMostRows) {
      return fail(ErrorKind::InvalidFile, "a sheet has 1 048 576 rows and no more; hand out fewer records");
    }
    std::uint16_t kept = 0;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      const Planned& one = columns_[i];
      const Value& value = row[one.from];
      const bool open = one.said.role == CopyColumn::Role::Open;
      Status put = writeSeen(static_cast<std::uint32_t>(at), static_cast<std::uint16_t>(i), one, value, open);
      if (put && one.said.role != CopyColumn::Role::Shown)
        put = kept_->text(keptRow_, kept++, jsonOf(one.column, value));
      if (put) continue;
      put.error().place = "record " + std::to_string(records_ + 1) + ", " + one.said.heading;
      return put;
    }
    ++keptRow_;
    return {};
  }

  Status writeSeen(std::uint32_t row, std::uint16_t at, const Planned& one, const Value& value, bool open) {
    XlsxLook look;
    look.unlocked = open;
    look.shaded = !open;
    if (one.list && lists_[*one.list].named && !value.isNull()) {
      return seen_->text(row, at, called(*one.list, value), look);
    }
    // A day that is typed where there is none is shown as one.
    if (open && value.isNull() && one.column.type == TypeClass::Date) look.shown = XlsxLook::Shown::Day;
    if (open && value.isNull() && one.column.type == TypeClass::Timestamp) look.shown = XlsxLook::Shown::Moment;
    return seen_->value(row, at, one.column, value, look);
  }

  // How a value is called; what is in no list is called by itself.
  std::string called(std::size_t list, const Value& value) {
    if (names_.size() <= list) names_.resize(list + 1);
    auto& names = names_[list];
    if (names.empty()) {
      for (const CopyList::Entry& entry : lists_[list].entries) names.try_emplace(canonicalText(entry.stored), &entry);
    }
    const std::string text = canonicalText(value);
    const auto found = names.find(text);
    return found == names.end() ? text : found->second->called;
  }

  Status writeLists() {
    std::size_t rows = 0;
    for (const CopyList& list : lists_) rows = std::max(rows, list.entries.size());
    for (std::size_t r = 0; r < rows; ++r) {
      for (std::size_t l = 0; l < lists_.size(); ++l) {
        if (r >= lists_[l].entries.size()) continue;
        const CopyList::Entry& entry = lists_[l].entries[r];
        const auto row = static_cast<std::uint32_t>(r);
        const auto at = static_cast<std::uint16_t>(2 * l);
        if (!lists_[l].named) {
          ITERANDUM_TRY(lists_sheet_->value(row, at, Column{}, entry.stored));
          continue;
        }
        ITERANDUM_TRY(lists_sheet_->text(row, at, entry.called));
        ITERANDUM_TRY(lists_sheet_->text(row, at + 1, jsonOf(Column{}, entry.stored)));
      }
    }
    return {};
  }

  void finishSheets() {
    const auto last = static_cast<std::uint32_t>(kHeadRow + std::max<std::uint64_t>(records_, 1));
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      if (!columns_[i].list) continue;
      const CopyList& list = lists_[*columns_[i].list];
      seen_->choices(static_cast<std::uint16_t>(i), kHeadRow + 1, last, "'" + std::string(kCopyLists) + "'",
                     static_cast<std::uint16_t>(2 * *columns_[i].list), static_cast<std::uint32_t>(list.entries.size()),
                     list.only);
    }
    seen_->filterBy(kHeadRow, last, static_cast<std::uint16_t>(columns_.size() - 1));
    seen_->fitColumns();
    for (XlsxSheet* sheet : {seen_, lists_sheet_, kept_}) sheet->protect();
    lists_sheet_->hide();
    kept_->hide();
  }

  Session& session_;
  const Catalogue& catalogue_;
  const ReadScope& scope_;
  const Table& table_;
  const WorkingCopyOptions& options_;
  Progress& progress_;
  Query query_;
  std::string title_;
  std::vector<Planned> columns_;
  std::vector<CopyList> lists_;
  std::vector<std::map<std::string, const CopyList::Entry*>> names_;  // by what is stored, for each list
  std::unique_ptr<XlsxBook> book_;
  XlsxSheet* seen_ = nullptr;  // the book's, like the others
  XlsxSheet* lists_sheet_ = nullptr;
  XlsxSheet* kept_ = nullptr;
  std::uint32_t keptRow_ = 0;
  std::uint64_t records_ = 0;
};

}  // namespace

Result<std::uint64_t> writeWorkingCopy(Session& session, const Catalogue& catalogue, const ReadScope& scope,
                                       const WorkingCopyOptions& options, const RecordWriter::Sink& sink,
                                       Progress& progress) {
  return CopyWriter(session, catalogue, scope, options, progress).write(sink);
}

}  // namespace iterandum
