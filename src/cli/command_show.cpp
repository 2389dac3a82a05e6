// tables and show: looking without touching.
#include <algorithm>

#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/record_output.h"
#include "core/scope/column_path.h"
#include "core/scope/scope.h"
#include "core/store/store.h"
#include "core/value/json.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

const char* kindName(TableKind kind) {
  switch (kind) {
    case TableKind::Table:
      return "table";
    case TableKind::View:
      return "view";
    case TableKind::VirtualTable:
      return "virtual table";
    case TableKind::Internal:
      break;
  }
  return "internal";
}

std::string keyWords(const Table& table) {
  switch (table.identity.kind) {
    case Identity::Kind::None:
      return "nothing names a record";
    case Identity::Kind::WholeRecord:
      return "the whole record";
    default:
      break;
  }
  std::string out;
  for (const std::string& c : table.identity.columns) out += (out.empty() ? "" : ", ") + quotedIfOdd(c);
  return out;
}

std::optional<std::uint64_t> countOf(Session& session, const Table& table, Progress& progress) {
  // Counting a view is running it, which may take for ever, or do something: only whoever asks for it gets that.
  if (!table.unusable.empty() || table.kind == TableKind::View) return std::nullopt;
  Query query;
  query.table = &table;
  auto count = session.count(query, progress);
  return count ? std::optional(*count) : std::nullopt;
}

void tableJson(JsonWriter& out, const Table& table, std::optional<std::uint64_t> count) {
  out.compactNext()
      .beginObject()
      .name("name")
      .string(displayName(table.name))
      .name("kind")
      .string(kindName(table.kind));
  if (table.kind != TableKind::View) {
    out.name("records");
    count ? out.number(static_cast<std::int64_t>(*count)) : out.null();
  }
  out.name("key").beginArray();
  for (const std::string& c : table.identity.columns) out.string(c);
  out.endArray();
  out.name("editable").boolean(table.notEditable.empty());
  if (!table.notEditable.empty()) out.name("reason").string(table.notEditable);
  if (!table.comment.empty()) out.name("comment").string(table.comment);
  out.name("columns").beginArray();
  for (const Column& c : table.columns) {
    out.beginObject()
        .name("name")
        .string(c.name)
        .name("type")
        .string(c.declaredType)
        .name("nullable")
        .boolean(c.nullable);
    if (!c.comment.empty()) out.name("comment").string(c.comment);
    out.name("editable").boolean(c.notEditable.empty()).endObject();
  }
  out.endArray().name("references").beginArray();
  for (const Reference& r : table.references) {
    out.beginObject().name("columns").beginArray();
    for (const std::size_t c : r.columns) out.string(table.columns[c].name);
    out.endArray().name("table").string(displayName(r.target)).endObject();
  }
  out.endArray().endObject();
}

Result<std::vector<std::string>> splitColumns(const std::string& list) {
  std::vector<std::string> out;
  std::string name;
  bool quoted = false;
  for (std::size_t i = 0; i <= list.size(); ++i) {
    if (i == list.size() || (list[i] == ',' && !quoted)) {
      if (quoted) return fail(ErrorKind::InvalidInput, "a quote in --columns is not closed");
      if (name.empty()) return fail(ErrorKind::InvalidInput, "--columns has an empty name in it");
      out.push_back(std::move(name));
      name.clear();
    } else if (list[i] == '"') {
      if (quoted && i + 1 < list.size() && list[i + 1] == '"') {
        name += list[i++];
      } else {
        quoted = !quoted;
      }
    } else {
      name += list[i];
    }
  }
  return out;
}

Result<ScopeOrder> readSort(const std::string& text) {
  ScopeOrder order;
  std::string name = text;
  const auto takeTail = [&](std::string_view tail) {
    if (name.size() <= tail.size() || !name.ends_with(tail)) return false;
    name.resize(name.size() - tail.size());
    return true;
  };
  for (bool more = true; more;) {
    const bool descending = takeTail(":desc");
    const bool natural = takeTail(":natural");
    order.descending = order.descending || descending;
    order.natural = order.natural || natural;
    more = descending || natural || takeTail(":asc");
  }
  ITERANDUM_ASSIGN(const std::vector<std::string> names, splitColumns(name));
  if (names.size() != 1) return fail(ErrorKind::InvalidInput, "--sort takes one column; give it again for the next");
  order.column = names[0];
  return order;
}

// A scope that was saved in the window, by its name.
Result<Scope> savedScope(const Arguments& a, const std::string& address) {
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(const std::vector<SavedScope> scopes, store->scopes(address));
  std::string known;
  for (const SavedScope& saved : scopes) {
    if (saved.name == a.scope) return saved.scope;
    known += (known.empty() ? "" : ", ") + saved.name;
  }
  return fail(ErrorKind::NotFound, "no scope '" + a.scope + "' is saved for this database; " +
                                       (known.empty() ? "there is none" : "there are " + known));
}

Result<Scope> scopeFile(const std::string& path) {
  ITERANDUM_ASSIGN(const std::string document, readWhole(path));
  auto scope = scopeFromJson(document);
  if (!scope) {
    scope.error().place = path + ", " + scope.error().place;
    return fail(std::move(scope.error()));
  }
  return std::move(scope->second);
}

// What the call asks for: a saved scope, if any, with what its words add.
Result<Scope> readCall(const Arguments& a, const std::string& address) {
  Scope scope;
  if (!a.scope.empty()) {
    ITERANDUM_ASSIGN(scope, savedScope(a, address));
  } else if (!a.scopeFile.empty()) {
    ITERANDUM_ASSIGN(scope, scopeFile(a.scopeFile));
  }
  if (!a.table.empty()) scope.table = a.table;
  if (!a.columns.empty()) {
    ITERANDUM_ASSIGN(scope.columns, splitColumns(a.columns));
  }
  if (!a.sort.empty()) scope.order.clear();
  for (const std::string& text : a.sort) {
    ITERANDUM_ASSIGN(ScopeOrder order, readSort(text));
    scope.order.push_back(std::move(order));
  }
  for (const std::string& text : a.where) scope.filters.push_back({{}, text});
  return scope;
}

// The words of the call, or the part of the saved scope, that cannot be read.
Error namedPlace(const Scope& scope, const ScopeProblem& problem) {
  Error error = problem.error;
  if (!problem.filter) return error;
  const ScopeFilter& filter = scope.filters[*problem.filter];
  const std::string head = filter.column.empty() ? "--where '" + filter.condition + "'"
                                                 : "filter of " + filter.column + " '" + filter.condition + "'";
  error.place = head + (error.place.empty() ? "" : ", " + error.place);
  return error;
}

Result<ReadScope> readTable(const Scope& scope, const Catalogue& catalogue) {
  std::vector<ScopeProblem> problems;
  ITERANDUM_ASSIGN(ReadScope read, readScope(scope, contextNow(catalogue), problems));
  if (!read.table->unusable.empty()) {
    return fail(ErrorKind::CannotOpen, displayName(read.table->name) + " cannot be read: " + read.table->unusable);
  }
  if (!problems.empty()) return fail(namedPlace(scope, problems.front()));
  return read;
}

// The columns as they are asked for, and where each lies in the query's rows, which hold the borrowed ones last.
struct ShownColumns {
  std::vector<Column> described;
  std::vector<std::size_t> from;
};

ShownColumns askFor(const ReadScope& read, Query& query) {
  ShownColumns out;
  const auto own = static_cast<std::size_t>(
      std::count_if(read.columns.begin(), read.columns.end(), [](const ColumnPath& p) { return !p.isBorrowed(); }));
  for (const ColumnPath& path : read.columns) {
    const Column* column = path.owner(*read.table).column(path.column);
    out.described.push_back(column != nullptr ? *column : Column{});
    out.described.back().name = columnPathText(path);
    if (path.isBorrowed()) {
      out.from.push_back(own + query.borrowed.size());
      query.borrowed.push_back(path);
    } else {
      out.from.push_back(query.columns.size());
      query.columns.push_back(path.column);
    }
  }
  return out;
}

Status show(const Arguments& a) {
  if (a.table.empty() && a.scope.empty() && a.scopeFile.empty()) {
    return fail(ErrorKind::InvalidInput, "TABLE is missing; name a table, or a saved scope with --scope");
  }
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress;
  ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
  ITERANDUM_ASSIGN(const Scope scope, readCall(a, session->info().address));
  ITERANDUM_ASSIGN(const ReadScope read, readTable(scope, catalogue));
  Query query;
  query.table = read.table;
  query.where = read.where();
  query.order = read.order;
  query.limit = a.limit;
  const ShownColumns columns = askFor(read, query);
  Status written;
  const auto writer = makeRecordWriter(a.format, columns.described, a.null, [&](const std::string& text) {
    written = writeOut(text);
    return written.has_value();
  });
  if (!writer->begin()) return written;
  ValueTuple shown(columns.from.size());
  ITERANDUM_TRY(session->select(
      query,
      [&](ValueTuple&& row) {
        if (query.borrowed.empty()) return writer->record(row);
        for (std::size_t c = 0; c < shown.size(); ++c) shown[c] = std::move(row[columns.from[c]]);
        return writer->record(shown);
      },
      progress));
  if (written && !writer->end()) return written;
  return written;
}

Status tables(const Arguments& a) {
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress;
  ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
  JsonWriter json(true);
  TextTable text({"table", "records", "kind", "named by", "editable"}, {false, true, false, false, false});
  json.beginArray();
  for (const Table& table : catalogue.tables()) {
    if (table.kind == TableKind::Internal) continue;
    const auto count = countOf(*session, table, progress);
    tableJson(json, table, count);
    text.add({visibleText(displayName(table.name)), count ? std::to_string(*count) : "–", kindName(table.kind),
              visibleText(keyWords(table)),
              table.notEditable.empty() ? "yes" : visibleText("no: " + table.notEditable)});
  }
  json.endArray();
  return writeOut(a.format == "json" ? json.take() + "\n" : text.text());
}

}  // namespace

Exit runShow(const Arguments& arguments) {
  const Status status = show(arguments);
  return status ? Exit::Done : report(status.error());
}

Exit runTables(const Arguments& arguments) {
  const Status status = tables(arguments);
  return status ? Exit::Done : report(status.error());
}

}  // namespace iterandum::cli
