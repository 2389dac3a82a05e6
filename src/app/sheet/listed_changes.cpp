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
      if (change.action == Action::Remove) text += " is removed ";
      for (const CellChange& cell : change.cells) {
        if (change.action == Action::Remove) break;
        text += " " + cell.column + " " + (cell.hasFrom ? valueInWords(cell.from) + " → " : "") +
                valueInWords(cell.to) + ";";
      }
      text.pop_back();
      if (const LineOrigin origin = changes.origins.of(block.changeIndex[row]); origin.file != 0)
        text += " (" + changes.origins.files[origin.file - 1].lineWord + " " + std::to_string(origin.line) + ")";
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
