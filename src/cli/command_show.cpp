// tables and show: looking without touching.
#include <algorithm>

#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/record_output.h"
#include "cli/scope_call.h"
#include "core/scope/column_path.h"
#include "core/scope/scope.h"
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
  ITERANDUM_TRY(wantTable(a));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress;
  ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
  ITERANDUM_ASSIGN(const ReadScope read, readCalledScope(a, session->info().address, catalogue));
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
