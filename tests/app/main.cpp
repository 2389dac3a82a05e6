#include <gtest/gtest.h>

#include <QApplication>

#include "app/style/roles.h"

int main(int argc, char** argv) {
  ::testing::InitGoogleTest(&argc, argv);
  // Listing the tests needs no window system.
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  iterandum::applyScheme(iterandum::Scheme::Light);
  return RUN_ALL_TESTS();
}
