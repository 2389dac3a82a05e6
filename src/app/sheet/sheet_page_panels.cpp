// SheetPage: the panels beside the sheet, one at a time: the card, the values of a column, the slips.
#include <QClipboard>
#include <QGuiApplication>
#include <QResizeEvent>
#include <QSplitter>
#include <QTimer>
#include <algorithm>

#include "app/sheet/listed_changes.h"
#include "app/sheet/record_export.h"
#include "app/sheet/sheet_page.h"
#include "app/values/clipboard_table.h"
#include "core/files/shown_records.h"

namespace iterandum {

void SheetPage::showBeside(QWidget* panel) {
  if (card_->alone()) setAlone(false);
  // Pages take the place of the sheet.
  const bool printing = panel == print_;
  preview_->setVisible(printing);
  view_->setVisible(!printing);
  foot_->setVisible(!printing);
  for (QWidget* one : std::initializer_list<QWidget*>{card_, values_}) one->setVisible(one == panel);
  for (QWidget* one : slips()) one->setVisible(one == panel);
}

std::vector<QWidget*> SheetPage::slips() const {
  return {merging_, doubles_, slip_, file_, lens_, handOut_, returned_, print_};
}

// As wide as the panel wants it; the cell that it is about stays in sight.
void SheetPage::makeRoom() {
  QResizeEvent same(size(), size());
  resizeEvent(&same);
  QTimer::singleShot(0, view_, [this] { view_->scrollTo(view_->currentIndex()); });
}

void SheetPage::leavePanel() {
  showBeside(card_);
  view_->setFocus();
}

void SheetPage::setAlone(bool alone) {
  card_->setAlone(alone);
  // Before the sheet goes, which would give the keys to whatever comes next.
  if (alone) card_->focusFind();
  view_->setVisible(!alone);
  foot_->setVisible(!alone);
  makeRoom();
}

void SheetPage::toggleAlone() {
  if (card_->alone()) {
    setAlone(false);
    return view_->setFocus();
  }
  showBeside(card_);
  setAlone(true);
  card_->refresh();
}

SheetView& SheetPage::viewWithKeys() {
  SheetView* child = card_->childWithKeys();
  return child == nullptr ? *view_ : *child;
}

void SheetPage::addRecord() {
  if (SheetView* child = card_->childWithKeys()) return child->addRecord();
  if (card_->alone()) return card_->addRecord();
  view_->addRecord();
}

void SheetPage::nextWithoutValue() {
  const int column = currentColumn();
  const ColumnPath& path = model_.path(column);
  Condition none;
  none.op = Condition::Op::NoValue;
  none.column = path.column;
  Query query;
  query.table = &model_.table();
  query.columns = query.table->writeKeyColumns();
  query.where = bothHold(model_.source().where(), throughSteps(path.steps, std::move(none)));
  query.order = model_.source().order();
  const int from = view_->currentIndex().row();
  // In the order of the sheet: the first behind this one, else the first of all. What is staged in it is a value.
  desk_.behind().post(
      this,
      [query, index = model_.source().index(), from](Session& session, Progress& progress) -> Result<std::vector<int>> {
        std::vector<int> rows;
        std::vector<int> before;
        std::size_t behind = 0;
        ITERANDUM_TRY(session.select(
            query,
            [&](ValueTuple&& key) {
              constexpr std::size_t kEnough = 5000;
              // They come in the order of the sheet; one that somebody moved meanwhile is left out.
              if (const auto row = index.find(key, behind)) {
                behind = *row + 1;
                (static_cast<int>(*row) > from ? rows : before).push_back(static_cast<int>(*row));
              }
              return rows.size() < kEnough;
            },
            progress));
        rows.insert(rows.end(), before.begin(), before.end());
        return rows;
      },
      [this, column](Result<std::vector<int>>&& rows) {
        if (!rows) return emit said(toQ(rows.error().text()));
        for (const int row : *rows) {
          if (row >= model_.rowCount()) continue;
          const CellState state = model_.cell(row, column);
          if (state.removedRecord || (state.loaded && !state.effective().isNull())) continue;
          return view_->goTo(row, column);
        }
        emit told(tr("Every record here has a value in %1.").arg(model_.columnName(column)));
      });
}

void SheetPage::toggleCard() { showBeside(card_->isVisible() ? nullptr : card_); }

void SheetPage::toggleValues() {
  const int column = currentColumn();
  if (values_->isVisible() && values_->column() == column) return leavePanel();
  showBeside(values_);
  showValues(column);
  values_->setFocus();
}

bool SheetPage::openSlip() {
  if (!model_.table().notEditable.empty() || !model_.table().cannotEdit.empty()) {
    const std::string& why = model_.table().notEditable;
    emit said(tr("Nothing can be changed here: %1.").arg(toQ(why.empty() ? model_.table().cannotEdit : why)));
    return false;
  }
  showBeside(slip_);
  makeRoom();
  return true;
}

void SheetPage::changeMany() {
  if (slip_->isVisible()) return leavePanel();
  if (openSlip()) slip_->open();
}

void SheetPage::replaceInMany() {
  if (openSlip()) slip_->openForReplacing();
}

void SheetPage::mergeRecords() {
  if (merging_->isVisible()) return leavePanel();
  showMerging(merging_->open());
}

void SheetPage::mergeThese(std::vector<ValueTuple> keys) { showMerging(merging_->openFor(std::move(keys))); }

void SheetPage::showMerging(const QString& why) {
  if (!why.isEmpty()) return emit said(tr("Nothing is merged: %1.").arg(why));
  showBeside(merging_);
  makeRoom();
  merging_->focusValues();
}

void SheetPage::findDoubles() {
  if (doubles_->isVisible()) return leavePanel();
  if (const QString why = doubles_->open(); !why.isEmpty()) {
    return emit said(tr("Doubles cannot be put right here: %1.").arg(why));
  }
  showBeside(doubles_);
  makeRoom();
  doubles_->focusFirst();
}

void SheetPage::stageFromFiles(const QStringList& paths) {
  if (!openSlip()) return;
  const auto show = [this](auto* slip, const auto& what) {
    showBeside(slip);
    makeRoom();
    slip->open(what);
    slip->focusFirst();
  };
  desk_.behind().post(
      this,
      [paths](Session&, Progress&) -> Result<std::size_t> {
        std::size_t copies = 0;
        for (const QString& path : paths) {
          ITERANDUM_ASSIGN(const std::string content, contentOf(path));
          copies += isWorkingCopy(content) ? 1 : 0;
        }
        return copies;
      },
      [this, paths, show](Result<std::size_t>&& copies) {
        const auto all = static_cast<std::size_t>(paths.size());
        if (!copies) return emit said(tr("Nothing is staged: %1.").arg(toQ(copies.error().text())));
        if (*copies == all) return show(returned_, paths);
        if (all == 1) return show(file_, paths.front());
        emit said(
            tr("Nothing is staged: only working copies can come back together, and not all of these are such. "
               "Take other files one by one."));
      });
}

void SheetPage::stageFromClipboard() {
  const QString text = clipboardTable();
  if (text.trimmed().isEmpty())
    return emit said(tr("The clipboard holds no table. Copy one with its heads, in a mail or a spreadsheet."));
  if (!openSlip()) return;
  showBeside(file_);
  makeRoom();
  file_->openText(tr("the clipboard"), text);
  file_->focusFirst();
}

void SheetPage::handOut() {
  if (handOut_->isVisible()) return leavePanel();
  if (!openSlip()) return;
  showBeside(handOut_);
  makeRoom();
  handOut_->open(shownColumns());
  handOut_->focusFirst();
}

std::optional<ReadScope> SheetPage::shownScope() {
  std::vector<ScopeProblem> problems;
  auto read = readScope(scope_->scope(), desk_.conditions(), problems);
  if (read && problems.empty()) return std::move(*read);
  emit said(tr("Nothing is written: the sentence cannot be read."));
  return std::nullopt;
}

void SheetPage::writeWorkingCopy(const QString& path) {
  auto read = shownScope();
  if (!read) return;
  emit told(tr("Writing a working copy to %1…").arg(path));
  desk_.behind().post(
      this,
      [read = std::move(*read), options = handOut_->options(), catalogue = desk_.sharedCatalogue(), path](
          Session& session, Progress& progress) {
        return writeWhole(path, [&](const RecordWriter::Sink& sink) {
          return iterandum::writeWorkingCopy(session, *catalogue, read, options, sink, progress);
        });
      },
      [this, path](Result<std::uint64_t>&& count) {
        if (!count) return emit said(tr("Nothing was written to %1: %2").arg(path, toQ(count.error().text())));
        leavePanel();
        const bool staged = !desk_.changes().empty();
        emit told(tr("%n record(s) handed out in %1", "", static_cast<int>(*count)).arg(path) +
                  (staged ? tr(", as the database has them: what is staged is not in it.") : QStringLiteral(".")));
      });
}

void SheetPage::toggleLens() {
  const int column = currentColumn();
  if (lens_->isVisible() && lens_->column() == column) return leavePanel();
  showBeside(lens_);
  makeRoom();
  lens_->open(column);
  lens_->focusFirst();
}

void SheetPage::exportSelected(const QString& path, const std::string& format, bool asShown) {
  if (model().table().writeKeyColumns().empty())
    return emit said(tr("Nothing is written: the records of this table cannot be told apart. Export what is shown."));
  viewWithKeys().withSelected([this, path, format, asShown](ManyRecords::Records&& records) {
    std::unordered_set<std::string> only;
    for (const ManyRecords::One& one : records) {
      if (!one.ref.isAdded()) only.insert(recordBytes(one.ref.key));
    }
    if (only.empty()) return emit said(tr("Nothing is written: the selected records are not in the database yet."));
    writeRecords(path, format, asShown, std::move(only));
  });
}

void SheetPage::writeRecords(const QString& path, const std::string& format, bool asShown,
                             std::optional<std::unordered_set<std::string>> only) {
  auto read = shownScope();
  if (!read) return;
  std::optional<ExportWords> words;
  if (asShown) words = ExportWords{&desk_.catalogue(), desk_.names().calledBy(), desk_.lenses().all()};
  emit told(tr("Writing what is shown to %1…").arg(path));
  desk_.behind().post(
      this,
      [held = desk_.sharedCatalogue(), read = std::move(*read), path, format, words, only = std::move(only)](
          Session& session, Progress& progress) {
        return iterandum::exportRecords(session, read, path, format, words, only, progress);
      },
      [this, path](Result<std::uint64_t>&& count) {
        if (!count) return emit said(tr("Nothing was written to %1: %2").arg(path, toQ(count.error().text())));
        const bool staged = !desk_.changes().empty();
        emit told(tr("%n record(s) written to %1", "", static_cast<int>(*count)).arg(path) +
                  (staged ? tr(", as the database has them: what is staged is not in it.") : QStringLiteral(".")));
      });
}

void SheetPage::useRecipe(const QString& name) {
  if (openSlip()) slip_->openRecipe(name);
}

// Where there is little room the card gives way to the records.
void SheetPage::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  constexpr int kNarrow = 1000;
  const int most = width() < kNarrow ? std::max(200, width() * 3 / 10) : QWIDGETSIZE_MAX;
  card_->setMaximumWidth(card_->alone() ? QWIDGETSIZE_MAX : most);
  values_->setMaximumWidth(most);
  // What is filled in wants more room than what is read.
  const int mostOfSlip = width() < kNarrow ? std::max(most, std::min(330, width() / 2)) : QWIDGETSIZE_MAX;
  bool slip = false;
  for (QWidget* one : slips()) {
    one->setMaximumWidth(mostOfSlip);
    slip = slip || one->isVisible();
  }
  merging_->setMaximumWidth(width() < kNarrow ? std::max(most, width() * 3 / 5) : QWIDGETSIZE_MAX);
  const int beside = merging_->isVisible() ? merging_->maximumWidth() : (slip ? mostOfSlip : most);
  if (beside >= width()) return;
  QList<int> sizes(splitter_->count(), beside);
  sizes[0] = sizes[1] = width() - beside;
  splitter_->setSizes(sizes);
}

}  // namespace iterandum
