#include "app/sheet/file_slip.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QFileInfo>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <array>

#include "app/style/marks.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "app/style/usual_keys.h"
#include "core/files/table_file.h"
#include "core/review/finding.h"

namespace iterandum {
namespace {

// More than these are counted, not listed.
constexpr std::size_t kMostShown = 300;

std::vector<std::string> linesShown(const FileCorrections& corrections, const char* lineWord) {
  std::vector<std::string> out;
  for (const LineOutcome& line : corrections.lines) {
    if (out.size() == kMostShown) break;
    if (line.failed())
      out.push_back("! " + std::string(lineWord) + " " + std::to_string(line.line) + ": " + inWords(line, lineWord));
  }
  for (const ChangeBlock& block : corrections.changes.blocks()) {
    for (std::size_t row = 0; row < block.rows() && out.size() < 2 * kMostShown; ++row) {
      const Change change = block.change(row);
      std::string text = recordInWords(change.table, change.key) + ":";
      for (const CellChange& cell : change.cells) {
        text += " " + cell.column + " " + (cell.hasFrom ? valueInWords(cell.from) + " → " : "") +
                valueInWords(cell.to) + ";";
      }
      text.pop_back();
      out.push_back(text);
    }
  }
  return out;
}

Result<std::string> contentOf(const QString& path) {
  QFile file(path);
  if (!file.open(QIODevice::ReadOnly)) return fail(ErrorKind::InvalidFile, file.errorString().toStdString());
  return file.readAll().toStdString();
}

}  // namespace

FileSlip::FileSlip(SheetModel& model, QWidget* parent) : QWidget(parent), model_(model) { build(); }

QComboBox* FileSlip::addChoice(QGridLayout* grid, const QString& label, const char* name, const QStringList& choices) {
  auto* words = new QLabel(label, this);
  words->setFont(plain(0.92));
  auto* choice = new QComboBox(this);
  choice->setObjectName(name);
  choice->setAccessibleName(label);
  choice->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  choice->addItems(choices);
  const int row = grid->rowCount();
  grid->addWidget(words, row, 0);
  grid->addWidget(choice, row, 1);
  connect(choice, &QComboBox::currentIndexChanged, this, [this] { look(); });
  words->setBuddy(choice);
  return choice;
}

void FileSlip::build() {
  const auto [layout, title, subtitle] = buildPanelHead(this);
  title->setText(tr("Corrections from a file"));
  subtitle_ = subtitle;
  auto* grid = new QGridLayout;
  grid->setColumnStretch(1, 1);
  grid->setVerticalSpacing(4);
  grid->setHorizontalSpacing(12);
  sheet_ = addChoice(grid, tr("Sheet"), "fileSheet", {tr("the first with a header")});
  match_ = addChoice(grid, tr("Named by"), "fileMatch", {});
  blank_ = addChoice(grid, tr("A blank field"), "fileBlank", {tr("means no value"), tr("leaves the cell alone")});
  decimal_ = addChoice(grid, tr("Decimals"), "fileDecimal",
                       {tr("as in a cell"), tr("with a comma (1.234,5)"), tr("with a point (1,234.5)")});
  days_ = addChoice(grid, tr("Days"), "fileDays",
                    {tr("as in a cell"), tr("day first (31.12.2025)"), tr("month first (12/31/2025)")});
  layout->addSpacing(6);
  layout->addLayout(grid);
  add_ = new QCheckBox(tr("Lines without a record become new ones"), this);
  add_->setObjectName("fileAdd");
  layout->addWidget(add_);
  connect(add_, &QCheckBox::toggled, this, [this] { look(); });
  layout->addSpacing(4);
  words_ = new QLabel(this);
  words_->setObjectName("fileWords");
  words_->setWordWrap(true);
  words_->setTextFormat(Qt::PlainText);
  layout->addWidget(words_);
  lines_ = new QListWidget(this);
  lines_->setObjectName("fileLines");
  lines_->setAccessibleName(tr("Lines that cannot be staged, and what would change"));
  lines_->setFrameShape(QFrame::NoFrame);
  lines_->setWordWrap(true);
  lines_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  lines_->setMinimumHeight(80);
  layout->addWidget(lines_, 1);
  const PanelFoot foot = buildPanelFoot(this, layout, tr("Stage"), "fileStage");
  stage_ = foot.stage;
  connect(stage_, &QPushButton::clicked, this, &FileSlip::stage);
  connect(foot.close, &QPushButton::clicked, this, &FileSlip::leaveAsked);
}

// The key, then other unique keys, then each column by itself.
void FileSlip::fillMatch() {
  const QSignalBlocker blocker(match_);
  const Table& table = model_.table();
  match_->clear();
  matches_.clear();
  const auto add = [&](const std::vector<std::string>& columns, const QString& words) {
    if (columns.empty() || std::find(matches_.begin(), matches_.end(), columns) != matches_.end()) return;
    matches_.push_back(columns);
    match_->addItem(words);
  };
  const auto listed = [](const std::vector<std::string>& columns) {
    QStringList out;
    for (const std::string& column : columns) out << toQ(column);
    return out.join(QStringLiteral(", "));
  };
  const std::vector<std::string>& key = table.identity.columns;
  const bool hasKey =
      std::all_of(key.begin(), key.end(), [&](const std::string& c) { return table.column(c) != nullptr; });
  if (hasKey) add(key, tr("key: %1").arg(listed(key)));
  for (const UniqueKey& unique : table.keys)
    add(table.columnNames(unique.columns), listed(table.columnNames(unique.columns)));
  for (const Column& column : table.columns) add({column.name}, toQ(column.name));
}

void FileSlip::open(const QString& path) {
  path_ = path;
  fillMatch();
  const QSignalBlocker blocker(sheet_);
  while (sheet_->count() > 1) sheet_->removeItem(1);
  sheet_->setCurrentIndex(0);
  showSheets(false);
  look();
}

// Only a spreadsheet has sheets to choose from.
void FileSlip::showSheets(bool shown) {
  sheet_->setVisible(shown);
  for (QLabel* label : findChildren<QLabel*>()) {
    if (label->buddy() == sheet_) label->setVisible(shown);
  }
}

void FileSlip::focusFirst() { match_->setFocus(); }

CorrectionOptions FileSlip::options() const {
  CorrectionOptions out;
  out.addMissing = add_->isChecked();
  out.blankLeaves = blank_->currentIndex() == 1;
  out.forms.decimal = std::array{WrittenForms::Decimal::AsTyped, WrittenForms::Decimal::Comma,
                                 WrittenForms::Decimal::Point}[static_cast<std::size_t>(decimal_->currentIndex())];
  out.forms.days = std::array{WrittenForms::Days::AsTyped, WrittenForms::Days::DayFirst,
                              WrittenForms::Days::MonthFirst}[static_cast<std::size_t>(days_->currentIndex())];
  return out;
}

void FileSlip::look() {
  if (path_.isEmpty() || match_->currentIndex() < 0) return;
  if (reading_) reading_->cancel();
  corrections_.reset();
  stage_->setEnabled(false);
  lines_->clear();
  subtitle_->setText(QFileInfo(path_).fileName());
  say(tr("Reading the file and the records it speaks of…"), false);
  const std::uint64_t asked = ++asked_;
  const std::string sheet = sheet_->currentIndex() > 0 ? sheet_->currentText().toStdString() : std::string();
  reading_ = model_.desk().behind().post(
      this,
      [table = &model_.table(), path = path_, sheet, match = matches_[static_cast<std::size_t>(match_->currentIndex())],
       options = options()](Session& session, Progress& progress) -> Result<Found> {
        ITERANDUM_ASSIGN(std::string content, contentOf(path));
        ITERANDUM_ASSIGN(const std::unique_ptr<TableFile> file,
                         TableFile::open({path.toStdString(), sheet, {}, {}}, *table, std::move(content)));
        Found out;
        out.sheets = file->sheets();
        out.note = file->note();
        ITERANDUM_ASSIGN(const std::vector<const Column*> columns, matchColumns(*table, match));
        FileHeader header;
        ITERANDUM_ASSIGN(const std::unique_ptr<TableSource> source, file->linesBehindHeader(*table, columns, header));
        out.leftAlone = header.leftAlone;
        out.lineWord = source->lineWord();
        ITERANDUM_ASSIGN(out.corrections, correctionsFrom(*source, header, session, *table, options, progress));
        out.shown = linesShown(out.corrections, source->lineWord());
        return out;
      },
      [this, asked](Result<Found>&& found) {
        if (asked != asked_) return;
        reading_.reset();
        take(std::move(found));
      });
}

void FileSlip::take(Result<Found>&& found) {
  if (!found) return say(toQ(found.error().text()), true);
  if (sheet_->count() == 1 && found->sheets.size() > 1) {
    const QSignalBlocker blocker(sheet_);
    for (const std::string& name : found->sheets) sheet_->addItem(toQ(name));
  }
  showSheets(sheet_->count() > 1);
  const CorrectionCounts& counts = found->corrections.counts;
  QStringList words{toQ(inWords(counts, found->lineWord.c_str())) + QLatin1Char('.')};
  for (const std::string& name : found->leftAlone)
    words << tr("The column “%1” is left alone: the table has none like it.").arg(toQ(name));
  if (counts.failed > 0) words << tr("Lines that fail are left out.");
  if (!found->note.empty()) words << tr("Of the file: %1.").arg(toQ(found->note));
  say(words.join(QLatin1Char('\n')), false);
  for (const std::string& text : found->shown) {
    const bool fails = text.starts_with("! ");
    auto* item = new QListWidgetItem(toQ(fails ? text.substr(2) : text), lines_);
    if (fails) item->setIcon(QIcon(markPixmap(Mark::Query, markColor(Mark::Query), devicePixelRatioF())));
    item->setData(Qt::AccessibleTextRole, fails ? tr("not staged: %1").arg(item->text()) : item->text());
  }
  const std::uint64_t records = counts.changing + counts.added;
  stage_->setEnabled(records > 0);
  stage_->setText(records == 0 ? tr("Nothing to stage") : tr("Stage %n record(s)", "", static_cast<int>(records)));
  corrections_ = std::move(found->corrections);
}

void FileSlip::stage() {
  if (!corrections_ || !stage_->isEnabled()) return;
  const QString title = tr("Corrections from %1").arg(QFileInfo(path_).fileName());
  if (!model_.desk().staged().stageChanges(title, corrections_->changes)) return;
  emit told(tr("%n record(s) staged from the file.", "",
               static_cast<int>(corrections_->counts.changing + corrections_->counts.added)));
  corrections_.reset();
  emit leaveAsked();
}

void FileSlip::say(const QString& words, bool amiss) {
  words_->setText(words);
  QPalette palette = words_->palette();
  palette.setColor(QPalette::WindowText, amiss ? roles().query : roles().ink);
  words_->setPalette(palette);
}

bool FileSlip::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride && isStagingKey(*static_cast<QKeyEvent*>(event))) event->accept();
  return QWidget::event(event);
}

void FileSlip::keyPressEvent(QKeyEvent* event) {
  if (isStagingKey(*event)) return stage();
  if (event->key() == Qt::Key_Escape) return emit leaveAsked();
  QWidget::keyPressEvent(event);
}

void FileSlip::hideEvent(QHideEvent* event) {
  if (reading_) reading_->cancel();
  QWidget::hideEvent(event);
}

}  // namespace iterandum
