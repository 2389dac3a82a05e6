// Hands on the file dialog that comes next, whenever that is.
#pragma once

#include <gtest/gtest.h>

#include <QApplication>
#include <QFileDialog>
#include <QLineEdit>
#include <QTimer>
#include <string>

namespace iterandum::test {

inline void answerWith(const std::string& path, int tries = 100) {
  QCoreApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
  QTimer::singleShot(50, [path, tries] {
    auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    if (dialog == nullptr && tries > 0) return answerWith(path, tries - 1);
    ASSERT_NE(nullptr, dialog);
    dialog->findChild<QLineEdit*>("fileNameEdit")->setText(QString::fromStdString(path));
    QMetaObject::invokeMethod(dialog, "accept");
  });
}

}  // namespace iterandum::test
