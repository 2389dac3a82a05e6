// bench_window DATABASE TABLE STORE: what the window needs in memory for a table, and the longest time for which its
// interface thread did not answer while the table was opened, scrolled through and sorted. The real window, driven by
// real keys, without a screen.
#include <QApplication>
#include <QClipboard>
#include <QElapsedTimer>
#include <QLabel>
#include <QMenu>
#include <QTest>
#include <QTimer>
#include <cstdio>
#include <fstream>
#include <string>

#include "app/grid/sheet_view.h"
#include "app/sheet/sheet_page.h"
#include "app/style/roles.h"
#include "app/window/main_window.h"

namespace {

using namespace iterandum;

// From /proc/self/status, in MiB.
double memory(const char* name) {
  std::ifstream status("/proc/self/status");
  std::string word;
  while (status >> word) {
    if (word != std::string(name) + ":") continue;
    double kib = 0;
    status >> kib;
    return kib / 1024;
  }
  return 0;
}

// A timer that wants to fire each millisecond: when it comes late, the thread did not answer meanwhile.
class Watch : public QObject {
 public:
  Watch() {
    timer_.setInterval(1);
    timer_.setTimerType(Qt::PreciseTimer);
    connect(&timer_, &QTimer::timeout, this, [this] { longest_ = std::max(longest_, since_.restart()); });
    timer_.start();
    since_.start();
  }
  void begin() {
    longest_ = 0;
    since_.restart();
  }
  [[nodiscard]] qint64 longest() const { return longest_; }

 private:
  QTimer timer_;
  QElapsedTimer since_;
  qint64 longest_ = 0;
};

void report(const char* what, const QElapsedTimer& took, const Watch& watch) {
  std::printf("| %s | %lld | %.0f | %lld |\n", what, static_cast<long long>(took.elapsed()), memory("VmRSS"),
              static_cast<long long>(watch.longest()));
}

bool settle(MainWindow& window) {
  return QTest::qWaitFor(
      [&] {
        SheetPage* sheet = window.currentSheet();
        return sheet != nullptr && sheet->model().source().complete() && !sheet->model().source().reading();
      },
      600000);
}

// From a keystroke in a filter cell to the first records that it leaves.
bool filtering(MainWindow& window, Watch& watch) {
  SheetPage* sheet = window.currentSheet();
  QElapsedTimer took;
  for (const char* column : {"tag", "note"}) {
    const auto at = sheet->table().columnIndex(column);
    if (!at) continue;
    sheet->view().goTo(0, static_cast<int>(*at));
    sheet->focusFilter();
    const QString text = *column == 't' ? QStringLiteral("= QH-77") : QStringLiteral("note 77");
    QTest::keyClicks(QApplication::focusWidget(), text.chopped(1));
    QTest::qWait(600);
    bool arrived = false;
    const auto restarted =
        QObject::connect(&sheet->model().source(), &RecordSource::restarted, sheet, [&arrived] { arrived = true; });
    took.start();
    watch.begin();
    QTest::keyClick(QApplication::focusWidget(), text.back().toLatin1());
    const bool there = QTest::qWaitFor([&] { return arrived; }, 120000);
    QObject::disconnect(restarted);
    if (!there) return false;
    report(*column == 't' ? "last keystroke of a filter to its first records, indexed (180 ms of it waited for more)"
                          : "the same, part of a text without index",
           took, watch);
    sheet->clearFilters();
    if (!QTest::qWaitFor([&] { return !sheet->model().source().reading(); }, 600000)) return false;
  }
  return true;
}

// Acts over what is selected: everything there is, a copy, a fill, a removal, a menu.
bool acting(MainWindow& window, Watch& watch) {
  SheetPage* sheet = window.currentSheet();
  SheetView& view = sheet->view();
  QElapsedTimer took;
  const auto begin = [&] {
    took.start();
    watch.begin();
  };
  view.setFocus();
  view.goTo(0, 0);
  begin();
  QTest::keyClick(&view, Qt::Key_A, Qt::ControlModifier);
  report("select all", took, watch);
  const auto menuOpen = [&] {
    for (QMenu* menu : window.findChildren<QMenu*>(QStringLiteral("cellMenu"))) {
      if (menu->isVisible()) return menu;
    }
    return static_cast<QMenu*>(nullptr);
  };
  view.goTo(0, 1);
  begin();
  QTest::keyClick(&view, Qt::Key_F10, Qt::ShiftModifier);
  QMenu* menu = menuOpen();
  if (menu == nullptr) return false;
  menu->grab();
  report("menu of a cell, painted", took, watch);
  menu->close();
  window.activateWindow();
  if (!QTest::qWaitForWindowActive(&window)) return false;
  view.setFocus();
  const auto selectRows = [&](int count) {
    view.selectionModel()->select({sheet->model().index(0, 0), sheet->model().index(count - 1, 0)},
                                  QItemSelectionModel::ClearAndSelect);
    view.selectRecords();
  };
  const auto cells = [&] { return static_cast<long long>(view.selectedCellCount()); };
  selectRows(50000);
  QApplication::clipboard()->clear();
  begin();
  QTest::keyClick(&view, Qt::Key_C, Qt::ControlModifier);
  if (!QTest::qWaitFor([] { return !QApplication::clipboard()->text().isEmpty(); }, 120000)) return false;
  report(QStringLiteral("copy of %1 cells of 50 000 records").arg(cells()).toUtf8().constData(), took, watch);
  const auto note = sheet->table().columnIndex("note");
  if (note) {
    view.selectionModel()->select(
        {sheet->model().index(0, static_cast<int>(*note)), sheet->model().index(99999, static_cast<int>(*note))},
        QItemSelectionModel::ClearAndSelect);
    begin();
    QTest::keyClick(&view, Qt::Key_D, Qt::ControlModifier);
    // All at once, in as many of them as hold something else.
    const auto staged = [&] { return static_cast<long long>(window.desk()->changes().counts().cells); };
    if (!QTest::qWaitFor([&] { return staged() > 0; }, 120000)) return false;
    report(QStringLiteral("fill down over 100 000 records, %1 cells staged").arg(staged()).toUtf8().constData(), took,
           watch);
    window.desk()->staged().undo();
  }
  selectRows(100000);
  begin();
  QTest::keyClick(&view, Qt::Key_Delete, Qt::ControlModifier);
  if (!QTest::qWaitFor([&] { return window.desk()->changes().counts().removed == 100000; }, 120000)) return false;
  report("removal of 100 000 records, staged", took, watch);
  window.desk()->staged().undo();
  // The same records read and kept in memory, the barest way through the engine.
  Query query;
  query.table = &sheet->table();
  query.columns = sheet->table().recordColumns();
  query.limit = 100000;
  bool read = false;
  begin();
  window.desk()->behind().post(
      sheet,
      [query](Session& session, Progress& progress) -> Result<std::size_t> {
        std::vector<ValueTuple> records;
        ITERANDUM_TRY(session.select(
            query,
            [&](ValueTuple&& record) {
              records.push_back(std::move(record));
              return true;
            },
            progress));
        return records.size();
      },
      [&read](Result<std::size_t>&& count) { read = count && *count == 100000; });
  if (!QTest::qWaitFor([&] { return read; }, 120000)) return false;
  report("the same 100 000 records read in a row and kept", took, watch);
  return true;
}

int measure(MainWindow& window, const QString& database, const std::string& table) {
  Watch watch;
  QElapsedTimer took;
  std::printf("| what | ms | memory held, MiB | longest pause, ms |\n|---|---:|---:|---:|\n");
  took.start();
  watch.begin();
  window.open(database);
  if (!QTest::qWaitFor([&] { return window.desk() != nullptr; }, 60000)) return 1;
  QTest::qWait(1000);
  report("catalogue shown (a second waited)", took, watch);
  took.start();
  watch.begin();
  window.openTable({"", table});
  if (!QTest::qWaitFor([&] { return window.currentSheet() && window.currentSheet()->model().rowCount() > 0; }, 60000)) {
    return 1;
  }
  report("first screen", took, watch);
  took.start();
  watch.begin();
  QTest::keyClick(&window.currentSheet()->view(), Qt::Key_P, Qt::ControlModifier);
  if (!QTest::qWaitFor([&] { return window.findChild<QLabel*>(QStringLiteral("printedPage")) != nullptr; }, 60000))
    return 1;
  report("first page of what would be printed", took, watch);
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);
  if (!settle(window)) return 1;
  report("order of all records known", took, watch);
  took.start();
  watch.begin();
  QWidget* view = &window.currentSheet()->view();
  view->setFocus();
  QTest::keyClick(view, Qt::Key_End, Qt::ControlModifier);
  const int last = window.currentSheet()->model().rowCount() - 1;
  if (!QTest::qWaitFor([&] { return window.currentSheet()->model().source().record(last) != nullptr; }, 60000))
    return 1;
  report("jump to the last record", took, watch);
  took.start();
  watch.begin();
  for (int page = 0; page < 200; ++page) {
    QTest::keyClick(view, Qt::Key_PageUp);
    QTest::qWait(5);
  }
  report("200 pages up (5 ms waited at each)", took, watch);
  took.start();
  watch.begin();
  QTest::keyClick(view, Qt::Key_Home, Qt::ControlModifier);
  while (took.elapsed() < 10000) {
    QTest::keyClick(view, Qt::Key_PageDown);
    QTest::qWait(15);
  }
  report("a page down every 15 ms for 10 s (each painted)", took, watch);
  took.start();
  watch.begin();
  while (took.elapsed() < 10000) {
    QTest::keyClick(view, Qt::Key_Down);
    QTest::qWait(15);
  }
  report("a record down every 15 ms for 10 s", took, watch);
  if (!filtering(window, watch)) return 1;
  if (last >= 100000 && !acting(window, watch)) return 1;
  std::printf("\n%d records; most memory held at any time %.0f MiB.\n", last + 1, memory("VmHWM"));
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 4) {
    std::fprintf(stderr, "usage: bench_window DATABASE TABLE STORE\n");
    return 2;
  }
  QElapsedTimer started;
  started.start();
  const QApplication application(argc, argv);
  iterandum::applyScheme(iterandum::Scheme::Light);
  iterandum::MainWindow window(argv[3]);
  window.resize(1280, 800);
  window.show();
  if (!QTest::qWaitForWindowActive(&window)) return 1;
  window.grab();
  std::printf("From the start of main() to a window that can be used and is painted: %lld ms.\n\n",
              static_cast<long long>(started.elapsed()));
  return measure(window, QString::fromLocal8Bit(argv[1]), argv[2]);
}
