#include "cli/shown_records.h"

#include <algorithm>

#include "core/scope/column_path.h"

namespace iterandum::cli {
namespace {

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

}  // namespace

Result<Shown> readShown(const Arguments& a, const Session& session, const ReadScope& read) {
  Shown out;
  out.query.table = read.table;
  out.query.where = read.where();
  out.query.order = read.order;
  out.query.limit = a.limit;
  out.columns = askFor(read, out.query);
  if (a.format == "sql" && !out.query.borrowed.empty()) {
    return fail(ErrorKind::InvalidInput, "columns of other records have no place in INSERT statements", "--columns");
  }
  if (out.columns.described.size() > 16384 && a.format == "xlsx") {
    return fail(ErrorKind::InvalidInput, "a sheet has 16 384 columns and no more; name fewer", "--columns");
  }
  out.form.columns = out.columns.described;
  out.form.noValue = a.null;
  out.form.table = read.table;
  out.form.session = &session;
  const std::string where = conditionInWords(*read.table, out.query.where);
  out.form.title = displayName(read.table->name) + (where.empty() ? "" : " where " + where);
  return out;
}

Status writeRecords(Session& session, const Shown& shown, RecordWriter& writer, Progress& progress) {
  ITERANDUM_TRY(writer.begin());
  Status written;
  ValueTuple record(shown.columns.from.size());
  ITERANDUM_TRY(session.select(
      shown.query,
      [&](ValueTuple&& row) {
        if (shown.query.borrowed.empty()) {
          written = writer.record(row);
        } else {
          for (std::size_t c = 0; c < record.size(); ++c) record[c] = std::move(row[shown.columns.from[c]]);
          written = writer.record(record);
        }
        return written.has_value();
      },
      progress));
  ITERANDUM_TRY(std::move(written));
  return writer.end();
}

}  // namespace iterandum::cli
