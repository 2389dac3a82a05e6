// WindowFilesTest: a sheet into which files come, and out of which they go, through the file dialog.
#pragma once

#include <QFileDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QTimer>
#include <fstream>

#include "app/scope_fixture.h"

namespace iterandum::test {

class WindowFilesTest : public SheetScopeTest {
 protected:
  void SetUp() override {
    QCoreApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
    SheetScopeTest::SetUp();
  }
  // Answers the file dialog that comes next, whenever that is.
  static void answerWith(const std::string& path, int tries = 100) {
    QTimer::singleShot(50, [path, tries] {
      auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
      if (dialog == nullptr && tries > 0) return answerWith(path, tries - 1);
      ASSERT_NE(nullptr, dialog);
      dialog->findChild<QLineEdit*>("fileNameEdit")->setText(QString::fromStdString(path));
      QMetaObject::invokeMethod(dialog, "accept");
    });
  }
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
