// tables and show: looking without touching.
#include <algorithm>

#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/record_output.h"
#include "cli/scope_call.h"
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

std::unique_ptr<RecordWriter> writerFor(const Arguments& a, const ShownRecords& shown, RecordWriter::Sink sink) {
  if (a.format.empty() || a.format == "table") return makeTableWriter(shown.form.columns, std::move(sink));
  return makeRecordWriter(a.format, shown.form, std::move(sink));
}

Status show(const Arguments& a) {
  ITERANDUM_TRY(wantTable(a));
  ITERANDUM_TRY(refuseTargets({a.output}, {a.scopeFile}, a.database));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress;
  ITERANDUM_ASSIGN(const auto called, readCalledRecords(a, *session, progress));
  const auto write = [&](RecordWriter::Sink sink) -> Status {
    const auto writer = writerFor(a, called->shown, std::move(sink));
    ITERANDUM_TRY(writeRecords(*session, called->shown, *writer, progress));
    return {};
  };
  if (a.output.empty() || a.output == "-") return write([](std::string_view piece) { return writeOut(piece); });
  ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.output));
  ITERANDUM_TRY(write([&](std::string_view piece) { return file->append(piece); }));
  ITERANDUM_TRY(file->finish());
  return file->putInPlace();
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
