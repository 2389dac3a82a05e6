#include "app/sheet/record_export.h"

#include <QSaveFile>
#include <algorithm>

#include "core/files/record_writer.h"
#include "core/scope/column_path.h"

namespace iterandum {

Result<std::uint64_t> exportRecords(Session& session, const ReadScope& read, const QString& path,
                                    const std::string& format, Progress& progress) {
  Query query;
  query.table = read.table;
  query.where = read.where();
  query.order = read.order;
  RecordForm form;
  form.table = read.table;
  form.session = &session;
  const std::string where = conditionInWords(*read.table, query.where);
  form.title = displayName(read.table->name) + (where.empty() ? "" : " where " + where);
  std::vector<std::size_t> from;
  const auto own = static_cast<std::size_t>(
      std::count_if(read.columns.begin(), read.columns.end(), [](const ColumnPath& p) { return !p.isBorrowed(); }));
  for (const ColumnPath& column : read.columns) {
    if (column.isBorrowed() && format == "sql") {
      return fail(ErrorKind::InvalidInput, "columns of other records have no place in INSERT statements");
    }
    form.columns.push_back(*column.owner(*read.table).column(column.column));
    form.columns.back().name = columnPathText(column);
    from.push_back(column.isBorrowed() ? own + query.borrowed.size() : query.columns.size());
    column.isBorrowed() ? query.borrowed.push_back(column) : query.columns.push_back(column.column);
  }
  QSaveFile file(path);
  const auto failed = [&] {
    return fail(ErrorKind::InvalidFile, file.errorString().toStdString(), path.toStdString());
  };
  if (!file.open(QIODevice::WriteOnly)) return failed();
  const auto writer = makeRecordWriter(format, std::move(form), [&](std::string_view piece) -> Status {
    if (file.write(piece.data(), static_cast<qint64>(piece.size())) < 0) return failed();
    return {};
  });
  ITERANDUM_TRY(writer->begin());
  std::uint64_t count = 0;
  Status written;
  ITERANDUM_TRY(session.select(
      query,
      [&](ValueTuple&& row) {
        ValueTuple record;
        for (const std::size_t at : from) record.push_back(row[at]);
        written = writer->record(record);
        ++count;
        return written.has_value() && !progress.cancelled();
      },
      progress));
  ITERANDUM_TRY(std::move(written));
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped; nothing was written");
  ITERANDUM_TRY(writer->end());
  if (!file.commit()) return failed();
  return count;
}

}  // namespace iterandum
