#include "app/sheet/listed_changes.h"

#include <QFile>

#include "core/catalogue/record_words.h"

namespace iterandum {

std::vector<std::string> listedChanges(const ChangeList& changes, std::size_t most) {
  std::vector<std::string> out;
  for (const ChangeBlock& block : changes.blocks()) {
    for (std::size_t row = 0; row < block.rows() && out.size() < most; ++row) {
      const Change change = block.change(row);
      std::string text = recordInWords(change.table, change.key) + ":";
      for (const CellChange& cell : change.cells) {
        text += " " + cell.column + " " + (cell.hasFrom ? valueInWords(cell.from) + " → " : "") +
                valueInWords(cell.to) + ";";
      }
      text.pop_back();
      out.push_back(std::move(text));
    }
  }
  return out;
}

Result<std::string> contentOf(const QString& path) {
  QFile file(path);
  if (!file.open(QIODevice::ReadOnly))
    return fail(ErrorKind::InvalidFile, file.errorString().toStdString(), path.toStdString());
  return file.readAll().toStdString();
}

}  // namespace iterandum
