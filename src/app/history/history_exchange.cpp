// HistoryPage: all receipts of the database into a file, or out of one.
#include <QFile>
#include <QSaveFile>
#include <fstream>

#include "app/history/history_page.h"
#include "app/values/shown_value.h"
#include "core/store/receipt_exchange.h"

namespace iterandum {

// In a store of its own, as with all that may last.
void HistoryPage::writeAllReceipts(const QString& path) {
  desk_.behind().post(
      this,
      [path, address = desk_.info().address, stored = desk_.storeThread().path()](
          Session&, Progress& progress) -> Result<std::uint64_t> {
        ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(stored));
        QSaveFile file(path);
        const auto wrong = [&] { return fail(ErrorKind::InvalidFile, file.errorString().toStdString()); };
        if (!file.open(QIODevice::WriteOnly)) return wrong();
        const auto sink = [&](std::string_view piece) -> Status {
          const auto size = static_cast<qint64>(piece.size());
          if (file.write(piece.data(), size) != size) return wrong();
          return {};
        };
        ITERANDUM_ASSIGN(const std::uint64_t written, exportReceipts(*store, address, sink, progress));
        if (!file.commit()) return wrong();
        return written;
      },
      [this, path](Result<std::uint64_t>&& written) {
        if (!written) return emit said(tr("The receipts could not be written: %1").arg(toQ(written.error().text())));
        emit told(tr("%n receipt(s) (are) written as %1.", "", static_cast<int>(*written)).arg(path));
      });
}

void HistoryPage::takeInReceipts(const QString& path) {
  desk_.behind().post(
      this,
      [path, address = desk_.info().address, stored = desk_.storeThread().path()](
          Session&, Progress& progress) -> Result<ImportedReceipts> {
        ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(stored));
        const auto open = [&]() -> Result<std::unique_ptr<std::istream>> {
          auto in = std::make_unique<std::ifstream>(QFile::encodeName(path).toStdString(), std::ios::binary);
          if (!in->is_open()) return fail(ErrorKind::InvalidFile, "the file cannot be read");
          return in;
        };
        return importReceipts(*store, address, open, progress);
      },
      [this, address = desk_.info().address](Result<ImportedReceipts>&& done) {
        if (!done) return emit said(tr("Nothing was taken in: %1").arg(toQ(done.error().text())));
        QString words = tr("%n receipt(s) (are) taken in.", "", static_cast<int>(done->taken));
        if (done->taken < done->all)
          words += QLatin1Char(' ') + tr("The others of %1 were here already.").arg(done->all);
        if (done->database != address)
          words += QLatin1Char(' ') + tr("They were kept for %1.").arg(toQ(done->database));
        emit told(words);
        reload();
      });
}

}  // namespace iterandum
