// tables and show: looking without touching.
#include <algorithm>

#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/record_output.h"
#include "core/scope/condition_text.h"
#include "core/value/json.h"

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
  if (!table.unusable.empty()) return std::nullopt;
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
  out.name("records");
  count ? out.number(static_cast<std::int64_t>(*count)) : out.null();
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

Status checkColumn(const Table& table, const std::string& name) {
  if (table.column(name) != nullptr || (!table.rowIdName.empty() && name == table.rowIdName)) return {};
  std::string known;
  for (const Column& c : table.columns) known += (known.empty() ? "" : ", ") + quotedIfOdd(c.name);
  return fail(ErrorKind::InvalidInput, displayName(table.name) + " has no column '" + name + "'; it has " + known);
}

Result<SortKey> readSort(const Table& table, const std::string& text) {
  SortKey key;
  std::string name = text;
  const auto endsWith = [&](const std::string& tail) { return name.size() > tail.size() && name.ends_with(tail); };
  if (endsWith(":desc")) {
    key.descending = true;
    name.resize(name.size() - 5);
  } else if (endsWith(":asc")) {
    name.resize(name.size() - 4);
  }
  ITERANDUM_ASSIGN(const std::vector<std::string> names, splitColumns(name));
  if (names.size() != 1) return fail(ErrorKind::InvalidInput, "--sort takes one column; give it again for the next");
  ITERANDUM_TRY(checkColumn(table, names[0]));
  key.column = names[0];
  return key;
}

Result<const Table*> findTable(const Catalogue& catalogue, const std::string& text) {
  ITERANDUM_ASSIGN(const TableName name, parseTableName(text));
  const Table* table = catalogue.find(name);
  if (table == nullptr) {
    const std::string close = catalogue.closestName(name.name);
    return fail(ErrorKind::NotFound,
                "there is no table " + displayName(name) + (close.empty() ? "" : "; did you mean " + close + "?"));
  }
  if (!table->unusable.empty()) {
    return fail(ErrorKind::CannotOpen, displayName(table->name) + " cannot be read: " + table->unusable);
  }
  return table;
}

Result<Query> readQuery(const Arguments& a, const Catalogue& catalogue, const Table& table) {
  const ConditionContext context = contextNow(catalogue);
  Query query;
  query.table = &table;
  if (a.columns.empty()) {
    for (const Column& c : table.columns) query.columns.push_back(c.name);
  } else {
    ITERANDUM_ASSIGN(query.columns, splitColumns(a.columns));
    for (const std::string& c : query.columns) ITERANDUM_TRY(checkColumn(table, c));
  }
  for (const std::string& text : a.where) {
    auto condition = parseCondition(table, text, context);
    if (!condition) {
      condition.error().place = "--where '" + text + "', " + condition.error().place;
      return fail(condition.error());
    }
    query.where = bothHold(std::move(query.where), std::move(*condition));
  }
  for (const std::string& text : a.sort) {
    ITERANDUM_ASSIGN(SortKey key, readSort(table, text));
    query.order.push_back(std::move(key));
  }
  query.limit = a.limit;
  return query;
}

Status show(const Arguments& a) {
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress;
  ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
  ITERANDUM_ASSIGN(const Table* table, findTable(catalogue, a.table));
  ITERANDUM_ASSIGN(const Query query, readQuery(a, catalogue, *table));
  std::vector<Column> columns;
  for (const std::string& name : query.columns) {
    const Column* column = table->column(name);
    columns.push_back(column != nullptr ? *column : Column{});
    columns.back().name = name;
  }
  Status written;
  const auto writer = makeRecordWriter(a.format, columns, a.null, [&](const std::string& text) {
    written = writeOut(text);
    return written.has_value();
  });
  if (!writer->begin()) return written;
  ITERANDUM_TRY(session->select(
      query, [&](ValueTuple&& row) { return writer->record(row); }, progress));
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
    text.add({forTerminal(displayName(table.name)), count ? std::to_string(*count) : "–", kindName(table.kind),
              forTerminal(keyWords(table)),
              table.notEditable.empty() ? "yes" : forTerminal("no: " + table.notEditable)});
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
