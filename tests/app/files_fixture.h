// WindowFilesTest: a sheet into which files come, and out of which they go, through the file dialog.
#pragma once

#include <QLabel>
#include <QListWidget>
#include <fstream>

#include "app/file_dialog.h"
#include "app/scope_fixture.h"

namespace iterandum::test {

class WindowFilesTest : public SheetScopeTest {
 protected:
  std::string write(const char* name, const std::string& text) const {
    std::ofstream(db.file(name), std::ios::binary) << text;
    return db.file(name);
  }
  [[nodiscard]] std::string read(const char* name) const {
    std::ifstream in(db.file(name), std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
  }
  template <typename Widget>
  [[nodiscard]] Widget* part(const char* name) const {
    return sheet()->findChild<Widget*>(name);
  }
  [[nodiscard]] std::string words() const { return part<QLabel>("fileWords")->text().toStdString(); }
  [[nodiscard]] std::string lines() const {
    auto* list = part<QListWidget>("fileLines");
    QStringList out;
    for (int i = 0; i < list->count(); ++i) out << list->item(i)->text();
    return out.join(QLatin1Char('\n')).toStdString();
  }

  int acts = 0;
};

}  // namespace iterandum::test
