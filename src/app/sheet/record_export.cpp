#include "app/sheet/record_export.h"

#include <QSaveFile>

#include "core/files/shown_records.h"

namespace iterandum {

Result<std::uint64_t> writeWhole(const QString& path,
                                 const std::function<Result<std::uint64_t>(const RecordWriter::Sink&)>& write) {
  QSaveFile file(path);
  const auto failed = [&] {
    return fail(ErrorKind::InvalidFile, file.errorString().toStdString(), path.toStdString());
  };
  if (!file.open(QIODevice::WriteOnly)) return failed();
  ITERANDUM_ASSIGN(const std::uint64_t count, write([&](std::string_view piece) -> Status {
                     if (file.write(piece.data(), static_cast<qint64>(piece.size())) < 0) return failed();
                     return {};
                   }));
  if (!file.commit()) return failed();
  return count;
}

Result<std::uint64_t> exportRecords(Session& session, const ReadScope& read, const QString& path,
                                    const std::string& format, const std::optional<ExportWords>& words,
                                    std::optional<std::unordered_set<std::string>> only, Progress& progress) {
  if (words && format == "sql")
    return fail(ErrorKind::InvalidInput, "INSERT statements hold what is stored, not what is shown");
  ITERANDUM_ASSIGN(ShownRecords shown, shownRecords(read, session, format));
  if (words) {
    ITERANDUM_ASSIGN(ShownValues values,
                     ShownValues::read(read, *words->catalogue, words->calledBy, words->lenses, session, progress));
    shown.showAs(std::move(values));
  }
  if (only) shown.onlyThose(std::move(*only));
  return writeWhole(path, [&](const RecordWriter::Sink& sink) {
    const auto writer = makeRecordWriter(format, shown.form, sink);
    return writeRecords(session, shown, *writer, progress);
  });
}

}  // namespace iterandum
