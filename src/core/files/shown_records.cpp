#include "core/files/shown_records.h"

#include "core/files/spreadsheet.h"
#include "core/scope/column_path.h"

namespace iterandum {

Result<ShownRecords> shownRecords(const ReadScope& read, const Session& session, const std::string& format) {
  ShownRecords out;
  out.query.table = read.table;
  out.query.where = read.where();
  out.query.order = read.order;
  out.from = askForColumns(read.columns, out.query);
  if (format == "sql" && !out.query.borrowed.empty()) {
    return fail(ErrorKind::InvalidInput, "columns of other records have no place in INSERT statements");
  }
  if (format == "xlsx" && read.columns.size() > kMostColumns) {
    return fail(ErrorKind::InvalidInput, "a sheet has 16 384 columns and no more; name fewer");
  }
  for (const ColumnPath& path : read.columns) {
    const Column* column = path.owner(*read.table).column(path.column);
    out.form.columns.push_back(column != nullptr ? *column : Column{});
    out.form.columns.back().name = columnPathText(path);
  }
  out.form.table = read.table;
  out.form.session = &session;
  const std::string where = conditionInWords(*read.table, out.query.where);
  out.form.title = displayName(read.table->name) + (where.empty() ? "" : " where " + where);
  return out;
}

void ShownRecords::showAs(ShownValues shown) {
  values = std::move(shown);
  for (std::size_t c = 0; c < form.columns.size(); ++c) {
    if (values->changes(c)) form.columns[c].type = TypeClass::Text;
  }
}

std::string recordBytes(const ValueTuple& key) {
  std::string out;
  for (const Value& part : key) appendSameBytes(part, out);
  return out;
}

void ShownRecords::onlyThose(std::unordered_set<std::string> keys) {
  // What is borrowed lies behind the table's own columns.
  const std::size_t own = query.columns.size();
  const std::vector<std::string> key = query.table->writeKeyColumns();
  for (std::size_t& place : from) place += place >= own ? key.size() : 0;
  for (const std::string& column : key) {
    keyFrom.push_back(query.columns.size());
    query.columns.push_back(column);
  }
  only = std::move(keys);
}

Result<std::uint64_t> writeRecords(Session& session, const ShownRecords& shown, RecordWriter& writer,
                                   Progress& progress) {
  ITERANDUM_TRY(writer.begin());
  Status written;
  std::uint64_t count = 0;
  ValueTuple record(shown.from.size());
  ITERANDUM_TRY(session.select(
      shown.query,
      [&](ValueTuple&& row) {
        if (shown.only) {
          ValueTuple key;
          for (const std::size_t place : shown.keyFrom) key.push_back(row[place]);
          if (!shown.only->contains(recordBytes(key))) return !progress.cancelled();
        }
        // Without borrowed columns they lie as they are asked for.
        if (shown.query.borrowed.empty() && !shown.values && !shown.only) {
          written = writer.record(row);
        } else {
          for (std::size_t c = 0; c < record.size(); ++c) {
            Value& value = row[shown.from[c]];
            record[c] = shown.values ? shown.values->shown(c, value) : std::move(value);
          }
          written = writer.record(record);
        }
        ++count;
        return written.has_value() && !progress.cancelled();
      },
      progress));
  ITERANDUM_TRY(std::move(written));
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped; nothing was written");
  ITERANDUM_TRY(writer.end());
  return count;
}

}  // namespace iterandum
