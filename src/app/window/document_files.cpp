#include "app/window/document_files.h"

#include <QCoreApplication>
#include <QFile>
#include <QFileDialog>
#include <QSaveFile>

namespace iterandum {

Result<std::optional<QString>> exportDocument(QWidget* parent, const DocumentWords& words, const QString& name,
                                              const std::string& text) {
  const QString path = QFileDialog::getSaveFileName(parent, words.title, name, words.kind);
  if (path.isEmpty()) return std::optional<QString>();
  QSaveFile file(path);
  if (!file.open(QIODevice::WriteOnly) || file.write(text.data(), static_cast<qint64>(text.size())) < 0 ||
      !file.commit()) {
    return fail(ErrorKind::InvalidFile, file.errorString().toStdString());
  }
  return std::optional(path);
}

Result<std::optional<ReadDocument>> importDocument(QWidget* parent, const DocumentWords& words,
                                                   std::int64_t mostBytes) {
  const QString path = QFileDialog::getOpenFileName(parent, words.title, QString(), words.kind);
  if (path.isEmpty()) return std::optional<ReadDocument>();
  QFile file(path);
  if (!file.open(QIODevice::ReadOnly)) {
    return fail(ErrorKind::InvalidFile, file.errorString().toStdString(), path.toStdString());
  }
  if (file.size() > mostBytes) {
    return fail(ErrorKind::InvalidFile,
                QCoreApplication::translate("DocumentFiles", "it is too large for one").toStdString(),
                path.toStdString());
  }
  return std::optional(ReadDocument{path, file.readAll().toStdString()});
}

}  // namespace iterandum
