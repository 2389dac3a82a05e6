#include <QApplication>
#include <QCommandLineParser>
#include <QTimer>

#include "app/style/roles.h"
#include "app/window/main_window.h"

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  QApplication::setApplicationName("iterandum");
  QApplication::setApplicationVersion(ITERANDUM_VERSION);
  QCommandLineParser parser;
  parser.setApplicationDescription(QObject::tr("A desk for people who put existing database records right."));
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument("database", QObject::tr("path of a database to open"), "[database]");
  const QCommandLineOption desk("desk", QObject::tr("colours: light, dark, or as the desktop has them"),
                                "light|dark|auto", "auto");
  parser.addOption(desk);
  parser.process(application);
  const QString wanted = parser.value(desk);
  iterandum::applyScheme(wanted == "dark"
                             ? iterandum::Scheme::Dark
                             : (wanted == "light" ? iterandum::Scheme::Light : iterandum::desktopScheme()));
  const auto store = iterandum::Store::defaultPath();
  if (!store) {
    qCritical("%s", store.error().text().c_str());
    return 4;
  }
  iterandum::MainWindow window(*store);
  window.show();
  const QStringList names = parser.positionalArguments();
  if (!names.isEmpty()) window.open(names.first());
  return QApplication::exec();
}
