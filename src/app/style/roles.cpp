#include "app/style/roles.h"

#include <QApplication>
#include <QFontDatabase>
#include <QPalette>
#include <QStyleFactory>

#include "app/style/english_plurals.h"

namespace iterandum {
namespace {

Roles lightRoles() {
  Roles r;
  r.paper = "#FBF8F1";
  r.desk = "#ECE6D9";
  r.side = "#F6F1E5";
  r.rule = "#DED5C2";
  r.strongRule = "#CFC4AC";
  r.marginRule = "#E3B7A6";
  r.ink = "#24303A";
  r.soft = "#5F666D";   // 5.5:1 on paper
  r.faint = "#66645b";  // 4.9:1 on the current record
  r.blue = "#2458A6";
  r.blueWash = "#E8EEF8";
  r.leaf = "#2C6E49";
  r.leafWash = "#E9F2EA";
  r.query = "#B4441F";
  r.queryWash = "#FBEDE4";
  r.current = "#F1EBDC";
  r.strip = "#24303A";
  r.onStrip = "#FBF8F1";
  r.onStripSoft = "#C3C8CC";
  r.onStripQuery = "#F0A58A";
  return r;
}

Roles darkRoles() {
  Roles r;
  r.paper = "#1E1B17";
  r.desk = "#151310";
  r.side = "#26221C";
  r.rule = "#3A342B";
  r.strongRule = "#51493C";
  r.marginRule = "#7A5446";
  r.ink = "#EFE9DC";
  r.soft = "#B3AB9C";
  r.faint = "#968E80";
  r.blue = "#9CC0F5";
  r.blueWash = "#1F2B3D";
  r.leaf = "#8FD3A9";
  r.leafWash = "#1D2E23";
  r.query = "#F2A083";
  r.queryWash = "#3A241A";
  r.current = "#2C2720";
  r.strip = "#0E0C0A";
  r.onStrip = "#EFE9DC";
  r.onStripSoft = "#B3AB9C";
  r.onStripQuery = "#F2A083";
  return r;
}

Roles& current() {
  static Roles r = lightRoles();
  return r;
}

Scheme& currentScheme() {
  static Scheme s = Scheme::Light;
  return s;
}

// With figures of one height (tools/lining_figures); the desktop's serif where they are not there.
void loadFaces() {
  for (const char* style : {"Regular", "Italic"}) {
    QFontDatabase::addApplicationFont(QStringLiteral(":/faces/serif-%1.otf").arg(QLatin1String(style)));
  }
}

QFont family(const QStringList& names, QFont fallback) {
  static const QStringList known = (loadFaces(), QFontDatabase::families());
  for (const QString& name : names) {
    if (known.contains(name)) {
      fallback.setFamily(name);
      return fallback;
    }
  }
  return fallback;
}

QPalette paletteOf(const Roles& r) {
  QPalette p;
  p.setColor(QPalette::Window, r.paper);
  p.setColor(QPalette::WindowText, r.ink);
  p.setColor(QPalette::Base, r.paper);
  p.setColor(QPalette::AlternateBase, r.side);
  p.setColor(QPalette::Text, r.ink);
  p.setColor(QPalette::Button, r.side);
  p.setColor(QPalette::ButtonText, r.ink);
  p.setColor(QPalette::Highlight, r.blue);
  p.setColor(QPalette::HighlightedText, r.paper);
  p.setColor(QPalette::PlaceholderText, r.faint);
  p.setColor(QPalette::ToolTipBase, r.side);
  p.setColor(QPalette::ToolTipText, r.ink);
  p.setColor(QPalette::Link, r.blue);
  p.setColor(QPalette::Disabled, QPalette::Text, r.faint);
  p.setColor(QPalette::Disabled, QPalette::ButtonText, r.faint);
  return p;
}

QString sheetOf(const Roles& r) {
  QString s = R"(
    QWidget#bench { background: @desk; }
    QWidget#page { background: @paper; }
    QWidget#side { background: @side; }
    QWidget#rail { background: @strip; }
    QWidget#rail QLabel { color: @onStrip; }
    QLineEdit, QPlainTextEdit, QComboBox, QDateEdit { background: @paper; color: @ink; border: 1px solid @strongRule; border-radius: 3px; padding: 3px 6px; selection-background-color: @blue; selection-color: @paper; }
    QComboBox::drop-down { border: 0; width: 22px; }
    QComboBox::down-arrow { image: url(@arrow); width: 10px; height: 6px; }
    QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus { border: 2px solid @blue; padding: 2px 5px; }
    QLineEdit#filter { border: 0; border-bottom: 1px solid @rule; border-radius: 0; background: transparent; padding: 1px 2px; color: @blue; }
    QLineEdit#filter:focus { border-bottom: 2px solid @blue; }
    QLineEdit#filter[wrong="true"] { border-bottom: 2px solid @query; color: @query; }
    QLineEdit#seek { border: 0; border-bottom: 2px solid @ink; border-radius: 0; background: transparent; padding: 4px 0; }
    QPushButton { background: @paper; color: @ink; border: 1px solid @strongRule; border-radius: 5px; padding: 6px 14px; }
    QPushButton:hover { border-color: @blue; color: @blue; }
    QPushButton:focus { border: 2px solid @blue; padding: 5px 13px; }
    QPushButton:disabled { color: @faint; border-color: @rule; }
    QTableView#mergeValues, QTableView#conflicts { background: @paper; border: 0; outline: 0; }
    QTableView#mergeValues::item, QTableView#conflicts::item { padding: 2px 6px; border-bottom: 1px solid @rule; }
    QTableView#mergeValues::item:selected, QTableView#conflicts::item:selected { background: @blueWash; color: @ink; }
    QTableView#mergeValues QHeaderView, QTableView#mergeValues QTableCornerButton::section, QTableView#conflicts QHeaderView, QTableView#conflicts QTableCornerButton::section { background: @paper; border: 0; }
    QTableView#mergeValues QHeaderView::section, QTableView#conflicts QHeaderView::section { background: @paper; border: 0; border-bottom: 1px solid @rule; padding: 4px 6px; }
    QPushButton[primary="true"] { background: @ink; color: @paper; border: 1px solid @ink; font-weight: 600; }
    QPushButton[primary="true"]:focus { border: 2px solid @blue; padding: 5px 13px; }
    QPushButton[primary="true"]:disabled { background: @rule; color: @soft; border-color: @rule; }
    QPushButton#main { background: @ink; color: @paper; border: 1px solid @ink; font-weight: 600; }
    QPushButton#main:disabled { background: @rule; color: @soft; border-color: @rule; }
    QWidget#rail QPushButton { background: transparent; color: @onStrip; border: 1px solid @onStripSoft; }
    QWidget#rail QPushButton:hover { border-color: @onStrip; }
    QWidget#rail QPushButton:focus { border: 2px solid @onStrip; padding: 5px 13px; }
    QWidget#rail QPushButton:disabled { color: @soft; border-color: @soft; }
    QWidget#rail QPushButton#main { background: @onStrip; color: @strip; border: 1px solid @onStrip; }
    QWidget#rail QPushButton#main:focus { border: 2px solid @marginRule; }
    QWidget#rail QPushButton#main:disabled { background: @soft; color: @strip; border-color: @soft; }
    QPushButton#chip { border-radius: 11px; padding: 4px 13px; margin-right: 6px; }
    QPushButton#chip:focus { border: 2px solid @blue; padding: 3px 12px; }
    QPushButton#chip:checked { background: @ink; color: @paper; border-color: @ink; }
    QPushButton#title { background: transparent; border: 0; padding: 4px 8px; text-align: left; }
    QPushButton#title:focus { border-bottom: 2px solid @blue; border-radius: 0; }
    QTabBar { background: @desk; border: 0; }
    QTabBar::tab { background: transparent; color: @soft; padding: 9px 16px; border: 0; margin-right: 2px; border-top-left-radius: 5px; border-top-right-radius: 5px; }
    QTabBar::tab:selected { background: @paper; color: @ink; font-weight: 600; }
    QTabBar::tab:hover { color: @ink; }
    QTabBar::tab:focus { color: @blue; }
    QAbstractItemView#sheet { background: @paper; border: 0; }
    QAbstractScrollArea::corner { background: @paper; border: 0; }
    QPushButton#line { background: transparent; border: 0; border-bottom: 1px dotted @rule; border-radius: 0; padding: 6px 0; text-align: left; color: @blue; }
    QPushButton#line:disabled { color: @faint; }
    QPushButton#line:focus { border: 2px solid @ink; padding: 5px 4px; outline: 0; }
    QHeaderView { background: @paper; border: 0; }
    QScrollArea { border: 0; background: transparent; }
    QListView { background: transparent; border: 0; outline: 0; }
    QListView::item { padding: 3px 4px; color: @ink; border: 0; border-left: 3px solid transparent; }
    QListView::item:hover { background: @paper; }
    QListView::item:selected { background: @blueWash; color: @ink; border-left: 3px solid @ink; }
    QListView::indicator { width: 13px; height: 13px; border: 1px solid @strongRule; border-radius: 2px; background: @paper; }
    QListView::indicator:checked { image: url(@tick); border-color: @ink; }
    QListWidget#choices::item:selected { color: @blue; border-left: 3px solid @blue; }
    QScrollBar:vertical { background: transparent; width: 11px; margin: 0; }
    QScrollBar:horizontal { background: transparent; height: 11px; margin: 0; }
    QScrollBar::handle { background: @strongRule; border-radius: 4px; margin: 2px; min-height: 28px; min-width: 28px; }
    QScrollBar::handle:hover { background: @faint; }
    QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
    QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QSplitter::handle { background: @strongRule; }
    QFrame#note { background: @queryWash; border: 1px solid @query; border-radius: 4px; }
    QFrame#good { background: @leafWash; border: 1px solid @leaf; border-radius: 4px; }
    QFrame#palette { background: @paper; border: 1px solid @strongRule; border-radius: 6px; }
    QMenu { background: @paper; color: @ink; border: 1px solid @strongRule; padding: 4px; }
    QMenu::item { padding: 5px 18px; }
    QMenu::item:disabled { color: @faint; }
    QMenu::separator { height: 1px; background: @rule; margin: 4px 8px; }
    QFrame#footLine { background: @paper; border: 0; border-top: 1px solid @rule; }
    QFrame#footLine QLabel { color: @soft; }
    QPushButton[offer="true"] { background: transparent; border: 0; border-radius: 3px; color: @blue; padding: 4px 8px; }
    QPushButton[offer="true"]:hover { background: @blueWash; }
    QPushButton#messageAction { border-color: @blue; color: @blue; }
    QMenu::item:selected { background: @blueWash; color: @blue; }
    QToolTip { background: @side; color: @ink; border: 1px solid @strongRule; padding: 4px; }
    QProgressBar { background: @rule; border: 0; height: 4px; }
    QProgressBar::chunk { background: @blue; }
  )";
  const bool dark = r.paper.lightness() < r.ink.lightness();
  s.replace(QStringLiteral("@tick"),
            QStringLiteral(":/arrows/tick-%1.png").arg(dark ? QStringLiteral("dark") : QStringLiteral("light")));
  s.replace(QStringLiteral("@arrow"),
            QStringLiteral(":/arrows/down-%1.png").arg(dark ? QStringLiteral("dark") : QStringLiteral("light")));
  const std::pair<const char*, QColor> names[] = {{"@onStripQuery", r.onStripQuery},
                                                  {"@onStripSoft", r.onStripSoft},
                                                  {"@onStrip", r.onStrip},
                                                  {"@strip", r.strip},
                                                  {"@strongRule", r.strongRule},
                                                  {"@marginRule", r.marginRule},
                                                  {"@queryWash", r.queryWash},
                                                  {"@leafWash", r.leafWash},
                                                  {"@blueWash", r.blueWash},
                                                  {"@paper", r.paper},
                                                  {"@desk", r.desk},
                                                  {"@side", r.side},
                                                  {"@rule", r.rule},
                                                  {"@ink", r.ink},
                                                  {"@soft", r.soft},
                                                  {"@faint", r.faint},
                                                  {"@blue", r.blue},
                                                  {"@leaf", r.leaf},
                                                  {"@query", r.query}};
  for (const auto& [name, color] : names) s.replace(QLatin1String(name), css(color));
  return s;
}

}  // namespace

const Roles& roles() { return current(); }
Scheme scheme() { return currentScheme(); }

Scheme desktopScheme() {
  static const bool dark = QApplication::palette().color(QPalette::Window).lightness() < 110;
  return dark ? Scheme::Dark : Scheme::Light;
}

void applyScheme(Scheme wanted) {
  (void)desktopScheme();  // asked once, before the palette is ours
  static const bool plurals = QCoreApplication::installTranslator(new EnglishPlurals(qApp));
  (void)plurals;
  currentScheme() = wanted;
  current() = wanted == Scheme::Dark ? darkRoles() : lightRoles();
  QApplication::setStyle(QStyleFactory::create("Fusion"));
  QApplication::setPalette(paletteOf(current()));
  QApplication::setFont(plain());
  qApp->setStyleSheet(sheetOf(current()));
}

QFont plain(qreal scale) {
  static const qreal size = QApplication::font().pointSizeF() > 0 ? QApplication::font().pointSizeF() : 10.0;
  QFont f = family({"Inter", "Inter Variable"}, QApplication::font());
  f.setPointSizeF(std::max(7.0, size * 0.97 * scale));
  return f;
}

QFont serif(qreal scale) {
  static const qreal size = QApplication::font().pointSizeF() > 0 ? QApplication::font().pointSizeF() : 10.0;
  QFont f = family({"Iterandum Serif", "EB Garamond", "EB Garamond 12", "EBGaramond"}, QFont("serif"));
  f.setPointSizeF(size * 1.2 * scale);
  return f;
}

QFont mono() {
  QFont f = QFontDatabase::systemFont(QFontDatabase::FixedFont);
  f.setPointSizeF(plain().pointSizeF() * 0.96);
  return f;
}

QString css(const QColor& color) { return color.name(); }

}  // namespace iterandum
