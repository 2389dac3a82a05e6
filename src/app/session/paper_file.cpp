#include "app/session/paper_file.h"

#include <QPageLayout>
#include <QPdfWriter>
#include <QSaveFile>
#include <QTextDocument>

namespace iterandum {

Status writePaper(const QString& path, const std::string& html) {
  QSaveFile file(path);
  const auto failed = [&] {
    return fail(ErrorKind::InvalidFile, file.errorString().toStdString(), path.toStdString());
  };
  if (!file.open(QIODevice::WriteOnly)) return failed();
  if (path.endsWith(QLatin1String(".pdf"), Qt::CaseInsensitive)) {
    QPdfWriter pdf(&file);
    pdf.setPageLayout(QPageLayout(QPageSize(QPageSize::A4), QPageLayout::Portrait, QMarginsF(15, 15, 15, 18),
                                  QPageLayout::Millimeter));
    pdf.setCreator(QStringLiteral("Iterandum"));
    QTextDocument document;
    // A face whose letters can be searched for.
    QFont face(QStringLiteral("Inter"), 9);
    face.setStyleStrategy(QFont::PreferNoShaping);
    document.setDefaultFont(face);
    document.setHtml(toQ(html));
    pdf.setTitle(document.metaInformation(QTextDocument::DocumentTitle));
    document.print(&pdf);
  } else if (file.write(html.data(), static_cast<qint64>(html.size())) < 0) {
    return failed();
  }
  return file.commit() ? Status() : Status(failed());
}

void savePaper(Desk& desk, QObject* whose, const QString& path, std::function<void(RecordNames&)> want,
               std::function<std::string(const RecordNames&)> write, std::function<void(Status&&)> done) {
  desk.behind().post(
      whose,
      [catalogue = desk.sharedCatalogue(), calledBy = desk.names().calledBy(), path, want = std::move(want),
       write = std::move(write)](Session& session, Progress& progress) -> Result<bool> {
        RecordNames names(*catalogue, calledBy);
        want(names);
        ITERANDUM_TRY(names.read(session, progress));
        ITERANDUM_TRY(writePaper(path, write(names)));
        return true;
      },
      [done = std::move(done)](Result<bool>&& written) {
        done(written ? Status() : Status(fail(std::move(written.error()))));
      });
}

}  // namespace iterandum
