#include "app/sheet/record_export.h"

#include <QSaveFile>

#include "core/files/shown_records.h"

namespace iterandum {

Result<std::uint64_t> exportRecords(Session& session, const ReadScope& read, const QString& path,
                                    const std::string& format, Progress& progress) {
  ITERANDUM_ASSIGN(const ShownRecords shown, shownRecords(read, session, format));
  QSaveFile file(path);
  const auto failed = [&] {
    return fail(ErrorKind::InvalidFile, file.errorString().toStdString(), path.toStdString());
  };
  if (!file.open(QIODevice::WriteOnly)) return failed();
  const auto writer = makeRecordWriter(format, shown.form, [&](std::string_view piece) -> Status {
    if (file.write(piece.data(), static_cast<qint64>(piece.size())) < 0) return failed();
    return {};
  });
  ITERANDUM_ASSIGN(const std::uint64_t count, writeRecords(session, shown, *writer, progress));
  if (!file.commit()) return failed();
  return count;
}

}  // namespace iterandum
