#include "app/sheet/file_slip.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <array>

#include "app/sheet/listed_changes.h"
#include "app/sheet/record_export.h"
#include "app/style/moments.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "core/base/digest.h"
#include "core/base/names.h"
#include "core/files/table_file.h"
#include "core/store/applied_lines.h"

namespace iterandum {
namespace {

// What can be chosen, as the core calls it.
constexpr std::array<const char*, 5> kDelimiters{"", "comma", "semicolon", "tab", "bar"};
constexpr std::array<const char*, 7> kEncodings{"UTF-8",       "windows-1252", "windows-1250", "windows-1251",
                                                "ISO-8859-15", "UTF-16LE",     "UTF-16BE"};

// The lines that fail, marked, then what would change.
std::vector<std::string> linesShown(const FileCorrections& corrections, const char* lineWord) {
  std::vector<std::string> out;
  for (const LineOutcome& line : corrections.lines) {
    if (out.size() == kMostLinesListed) break;
    if (line.failed())
      out.push_back("! " + std::string(lineWord) + " " + std::to_string(line.line) + ": " + inWords(line, lineWord));
  }
  for (std::string& text : listedChanges(corrections.changes, kMostLinesListed)) out.push_back(std::move(text));
  return out;
}

}  // namespace

FileSlip::FileSlip(SheetModel& model, QWidget* parent) : SideSlip(parent), model_(model) { build(); }

void FileSlip::build() {
  const auto [panel, title, subtitle] = buildPanelHead(this);
  title->setText(tr("Corrections from a file"));
  subtitle_ = subtitle;
  QVBoxLayout* layout = addScrolled(panel);
  QGridLayout* grid = newFields();
  sheet_ = addChoice(grid, tr("Sheet"), "fileSheet", {tr("the first with a header")});
  parted_ = addChoice(
      grid, tr("Fields"), "fileParted",
      {QString(), tr("parted by commas"), tr("parted by semicolons"), tr("parted by tabs"), tr("parted by bars")});
  letters_ = addChoice(grid, tr("Letters"), "fileLetters", {QString()});
  for (const char* encoding : kEncodings) letters_->addItem(QString::fromLatin1(encoding));
  match_ = addChoice(grid, tr("Named by"), "fileMatch", {});
  blank_ = addChoice(grid, tr("A blank field"), "fileBlank", {tr("means no value"), tr("leaves the cell alone")});
  decimal_ = addChoice(grid, tr("Decimals"), "fileDecimal",
                       {tr("as in a cell"), tr("with a comma (1.234,5)"), tr("with a point (1,234.5)")});
  days_ =
      addChoice(grid, tr("Days"), "fileDays",
                {tr("in the order that the file shows"), tr("day first (31.12.2025)"), tr("month first (12/31/2025)")});
  layout->addSpacing(6);
  layout->addLayout(grid);
  loose_ = addBox(layout, tr("Capitals and blanks do not tell records apart"), "fileLoose");
  through_ = addBox(layout, tr("Values are as the lenses show them"), "fileThrough");
  add_ = addBox(layout, tr("Lines without a record become new ones"), "fileAdd");
  remove_ = addBox(layout, tr("Records that the file does not name are removed"), "fileRemove");
  headings_ = new QWidget(this);
  layout->addWidget(headings_);
  layout->addSpacing(4);
  words_ = newWords("fileWords");
  layout->addWidget(words_);
  lines_ = newList("fileLines", tr("Lines that cannot be staged, and what would change"));
  layout->addWidget(lines_, 1);
  outcome_ = new QPushButton(tr("Save what becomes of each line…"), this);
  outcome_->setObjectName("fileOutcome");
  outcome_->setToolTip(
      tr("The same lines again, as a spreadsheet or CSV, with a column that says what became of each, and when"));
  outcome_->hide();
  connect(outcome_, &QPushButton::clicked, this, &FileSlip::saveOutcome);
  layout->addWidget(outcome_);
  const PanelFoot foot = buildPanelFoot(this, panel, tr("Stage"), "fileStage");
  stage_ = foot.stage;
  stage_->setEnabled(false);
  connect(stage_, &QPushButton::clicked, this, &FileSlip::finish);
  connect(foot.close, &QPushButton::clicked, this, &SideSlip::leaveAsked);
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
  text_.reset();
  begin();
}

void FileSlip::openText(const QString& name, const QString& text) {
  path_ = name;
  text_ = text;
  begin();
}

void FileSlip::begin() {
  fillMatch();
  meant_ = {};
  meant_.offerNear = true;
  meant_.meant = model_.desk().kept().choicesUnder(headingsChoice());
  const auto& lenses = model_.desk().lenses().all();
  through_->setVisible(std::any_of(lenses.begin(), lenses.end(),
                                   [&](const Lens& lens) { return lens.table == displayName(model_.table().name); }));
  const QSignalBlocker blocker(sheet_);
  // Another file is another file: nothing goes because of a box that was ticked for the last one.
  for (QObject* one : std::initializer_list<QObject*>{parted_, letters_, remove_}) one->blockSignals(true);
  parted_->setCurrentIndex(0);
  letters_->setCurrentIndex(0);
  remove_->setChecked(false);
  for (QObject* one : std::initializer_list<QObject*>{parted_, letters_, remove_}) one->blockSignals(false);
  for (QComboBox* one : {parted_, letters_}) showField(one, false);
  while (sheet_->count() > 1) sheet_->removeItem(1);
  sheet_->setCurrentIndex(0);
  showField(sheet_, false);
  look();
}

// For the next file of this shape.
std::string FileSlip::headingsChoice() const { return "in lists for " + displayName(model_.table().name) + ": "; }

void FileSlip::showHeadings(const FileHeader& header) {
  const QString inHand = focusWidget() != nullptr ? focusWidget()->objectName() : QString();
  qDeleteAll(headings_->findChildren<QWidget*>(Qt::FindDirectChildrenOnly));
  delete headings_->layout();
  auto* grid = newFields();
  grid->setContentsMargins(0, 4, 0, 0);
  headings_->setLayout(grid);
  // What was said of the file's names, and those that no column has.
  std::vector<std::string> names = header.leftAlone;
  for (const std::string& name : header.names) {
    if (meant_.meant.contains(name) && !contains(names, name)) names.push_back(name);
  }
  constexpr std::size_t kMostAsked = 8;
  if (names.size() > kMostAsked) names.resize(kMostAsked);
  for (const std::string& name : names) {
    const auto near = header.near.find(name);
    QStringList choices{tr("is left alone")};
    QList<QString> columns{QString()};
    const auto add = [&](const std::string& column, const QString& words) {
      columns << toQ(column);
      choices << words;
    };
    if (near != header.near.end()) add(near->second, tr("is %1, which fits").arg(toQ(near->second)));
    for (const Column& column : model_.table().columns) {
      const bool isNear = near != header.near.end() && near->second == column.name;
      if (!isNear) add(column.name, tr("is %1").arg(toQ(column.name)));
    }
    auto* choice = new QComboBox(headings_);
    choice->setObjectName(QStringLiteral("heading ") + toQ(name));
    choice->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    choice->addItems(choices);
    const auto said = meant_.meant.find(name);
    if (said != meant_.meant.end()) choice->setCurrentIndex(static_cast<int>(columns.indexOf(toQ(said->second))));
    connect(choice, &QComboBox::currentIndexChanged, this, [this, name, columns](int at) {
      meant_.meant[name] = columns.value(at).toStdString();
      model_.desk().kept().keepChoice(headingsChoice() + name, meant_.meant[name]);
      look();
    });
    addField(grid, tr("“%1” in the file").arg(toQ(name)), choice);
  }
  headings_->setVisible(!names.empty());
  // The one that was just chosen from keeps the keys.
  if (auto* again = headings_->findChild<QComboBox*>(inHand); !inHand.isEmpty() && again != nullptr) again->setFocus();
}

void FileSlip::focusFirst() { match_->setFocus(); }

CorrectionOptions FileSlip::options() const {
  CorrectionOptions out;
  out.addMissing = add_->isChecked();
  out.removeMissing = remove_->isChecked();
  out.looseMatch = loose_->isChecked();
  if (!through_->isHidden() && through_->isChecked()) out.lenses = model_.desk().lenses().all();
  out.catalogue = &model_.desk().catalogue();
  out.calledBy = model_.desk().names().calledBy();
  out.blankLeaves = blank_->currentIndex() == 1;
  out.forms.decimal = std::array{WrittenForms::Decimal::AsTyped, WrittenForms::Decimal::Comma,
                                 WrittenForms::Decimal::Point}[static_cast<std::size_t>(decimal_->currentIndex())];
  out.forms.days = std::array{WrittenForms::Days::AsTyped, WrittenForms::Days::DayFirst,
                              WrittenForms::Days::MonthFirst}[static_cast<std::size_t>(days_->currentIndex())];
  return out;
}

struct FileSlip::Wish {
  std::shared_ptr<const Catalogue> held;
  const Table* table = nullptr;
  QString path;
  std::optional<QString> text;
  TableFileOptions form;
  HeaderOptions meant;
  std::vector<std::string> match;
  CorrectionOptions options;
};

FileSlip::Wish FileSlip::wish() const {
  Wish out;
  out.held = model_.desk().sharedCatalogue();
  out.table = &model_.table();
  out.path = path_;
  out.text = text_;
  out.form.name = path_.toStdString();
  if (sheet_->currentIndex() > 0) out.form.sheet = sheet_->currentText().toStdString();
  out.form.delimiter = kDelimiters.at(static_cast<std::size_t>(parted_->currentIndex()));
  if (letters_->currentIndex() > 0) out.form.encoding = letters_->currentText().toStdString();
  out.meant = meant_;
  out.match = matches_[static_cast<std::size_t>(match_->currentIndex())];
  out.options = options();
  return out;
}

Result<std::pair<std::unique_ptr<TableFile>, std::string>> FileSlip::openFile(const Wish& wish) {
  ITERANDUM_ASSIGN(std::string content,
                   wish.text ? Result<std::string>(wish.text->toStdString()) : contentOf(wish.path));
  std::string digest = sha256Hex(content);
  ITERANDUM_ASSIGN(auto file, TableFile::open(wish.form, *wish.table, std::move(content)));
  return std::pair(std::move(file), std::move(digest));
}

void FileSlip::look() {
  if (path_.isEmpty() || match_->currentIndex() < 0) return;
  if (reading_) reading_->cancel();
  found_.reset();
  applied_.clear();
  outcome_->hide();
  stage_->setEnabled(false);
  lines_->clear();
  subtitle_->setText(QFileInfo(path_).fileName());
  say(words_, tr("Reading the file and the records it speaks of…"), false);
  const std::uint64_t asked = ++asked_;
  reading_ = model_.desk().behind().post(
      this,
      [wish = wish()](Session& session, Progress& progress) mutable -> Result<Found> {
        ITERANDUM_ASSIGN(const auto opened, openFile(wish));
        TableFile& file = *opened.first;
        Found out;
        out.digest = opened.second;
        out.sheets = file.sheets();
        out.note = file.note();
        out.encoding = file.encoding();
        out.delimiter = file.delimiter();
        ITERANDUM_ASSIGN(const std::vector<const Column*> columns, matchColumns(*wish.table, wish.match));
        auto source = file.linesBehindHeader(*wish.table, columns, out.header, wish.meant);
        if (!source && source.error().kind == ErrorKind::NotFound) {
          // Somebody can say which of its columns is which.
          out.isNamed = false;
          out.note = source.error().message;
          ITERANDUM_ASSIGN(out.header, file.likelyColumns(*wish.table, wish.meant));
          return out;
        }
        if (!source) return fail(std::move(source.error()));
        out.lineWord = (*source)->lineWord();
        wish.options.file = {QFileInfo(wish.path).fileName().toStdString(), out.digest, {}};
        wish.options.again = [&]() -> Result<std::unique_ptr<TableSource>> {
          FileHeader again;
          return file.linesBehindHeader(*wish.table, columns, again, wish.meant);
        };
        ITERANDUM_ASSIGN(out.corrections,
                         correctionsFrom(**source, out.header, session, *wish.table, wish.options, progress));
        out.shown = linesShown(out.corrections, (*source)->lineWord());
        return out;
      },
      [this, asked](Result<Found>&& found) {
        if (asked != asked_) return;
        reading_.reset();
        take(std::move(found));
      });
}

void FileSlip::showForm(const Found& found) {
  // Only a spreadsheet has sheets to choose from, only a text a sign between its fields and letters of a kind.
  showField(sheet_, sheet_->count() > 1);
  showField(parted_, found.delimiter.has_value());
  showField(letters_, !found.encoding.empty() && !text_);
  // What was found is said where it can be chosen.
  const QSignalBlocker parted(parted_);
  const QSignalBlocker letters(letters_);
  if (found.delimiter && parted_->currentIndex() == 0) {
    const char sign = *found.delimiter;
    const int at = sign == ',' ? 1 : sign == ';' ? 2 : sign == '\t' ? 3 : 4;
    parted_->setItemText(0, tr("%1, as found").arg(parted_->itemText(at)));
  }
  if (!found.encoding.empty() && letters_->currentIndex() == 0)
    letters_->setItemText(0, tr("%1, as found").arg(toQ(found.encoding)));
}

void FileSlip::take(Result<Found>&& found) {
  if (!found) {
    // Where the letters are what is wrong, they can be said.
    const QString suffix = QFileInfo(path_).suffix().toLower();
    showField(letters_, !text_ && (suffix == u"csv" || suffix == u"tsv" || suffix == u"txt"));
    if (letters_->currentIndex() == 0) letters_->setItemText(0, tr("not known"));
    return say(words_, toQ(found.error().text()), true);
  }
  if (sheet_->count() == 1 && found->sheets.size() > 1) {
    const QSignalBlocker blocker(sheet_);
    for (const std::string& name : found->sheets) sheet_->addItem(toQ(name));
  }
  showForm(*found);
  showHeadings(found->header);
  if (!found->isNamed) {
    return say(words_,
               tr("%1. If one of its columns does, say so above, or choose what names them.").arg(toQ(found->note)),
               true);
  }
  const CorrectionCounts& counts = found->corrections.counts;
  QStringList words{toQ(inWords(counts, found->lineWord.c_str())) + QLatin1Char('.')};
  if (counts.failed > 0) words << tr("Lines that fail are left out.");
  if (!found->note.empty()) words << tr("Of the file: %1.").arg(toQ(found->note));
  for (const ColumnDays& days : found->corrections.days)
    words << tr("Of the days in %1.").arg(toQ(inWords(days, found->lineWord.c_str())));
  if (!found->corrections.cannotRemove.empty())
    words << tr("Nothing is removed: %1.").arg(toQ(found->corrections.cannotRemove));
  const bool open = std::any_of(found->corrections.days.begin(), found->corrections.days.end(),
                                [](const ColumnDays& d) { return d.order == WrittenForms::Days::AsTyped; });
  if (open) words << tr("Choose above, under “Days”, which comes first.");
  say(words_, words.join(QLatin1Char('\n')), open);
  for (const std::string& text : found->shown) {
    const bool fails = text.starts_with("! ");
    addLine(lines_, toQ(fails ? text.substr(2) : text), fails);
  }
  const std::uint64_t records = counts.changing + counts.added + counts.removed;
  stage_->setEnabled(records > 0);
  stage_->setText(records == 0 ? tr("Nothing to stage") : tr("Stage %n record(s)", "", static_cast<int>(records)));
  found_ = std::make_shared<const Found>(std::move(*found));
  outcome_->show();
  askReceipts();
}

void FileSlip::askReceipts() {
  model_.desk().storeThread().post(
      this,
      [address = model_.desk().info().address, digest = found_->digest](Store& store) {
        return appliedLines(store, address, digest);
      },
      [this, asked = asked_](Result<AppliedLines>&& applied) {
        if (asked != asked_ || !applied || applied->empty()) return;
        applied_ = std::move(*applied);
        std::string last;
        for (const auto& [line, one] : applied_) last = std::max(last, one.at);
        words_->setText(
            words_->text() + QLatin1Char('\n') +
            tr("Applied before: %n line(s) of this very file, the last time %1.", "", static_cast<int>(applied_.size()))
                .arg(momentInWords(last)));
      });
}

void FileSlip::saveOutcome() {
  if (!found_) return;
  const QString proposed = tr("%1, outcome.xlsx").arg(QFileInfo(path_).completeBaseName());
  const QString path = QFileDialog::getSaveFileName(this, tr("Save what becomes of each line"), proposed,
                                                    tr("Spreadsheet (*.xlsx);;CSV (*.csv)"));
  if (path.isEmpty()) return;
  model_.desk().behind().post(
      this,
      [wish = wish(), path, found = found_, applied = applied_](Session&, Progress&) -> Result<std::uint64_t> {
        ITERANDUM_ASSIGN(const auto opened, openFile(wish));
        if (opened.second != found->digest)
          return fail(ErrorKind::InvalidFile, "the file has changed since it was read; choose it again",
                      wish.path.toStdString());
        ITERANDUM_ASSIGN(const std::vector<const Column*> columns, matchColumns(*wish.table, wish.match));
        FileHeader header;
        ITERANDUM_ASSIGN(const auto source, opened.first->linesBehindHeader(*wish.table, columns, header, wish.meant));
        const OutcomeReport report{header, found->corrections, applied,
                                   [](const std::string& at) { return momentInWords(at).toStdString(); }};
        return writeWhole(path, [&](const RecordWriter::Sink& sink) -> Result<std::uint64_t> {
          ITERANDUM_TRY(writeOutcomes(report, *source, reportFormat(path.toStdString()), sink));
          return found->corrections.counts.lines;
        });
      },
      [this, path](Result<std::uint64_t>&& written) {
        if (!written) return emit told(tr("The outcome is not saved: %1.").arg(toQ(written.error().text())));
        emit told(tr("%1: %n line(s), each with what became of it.", "", static_cast<int>(*written))
                      .arg(QFileInfo(path).fileName()));
      });
}

void FileSlip::finish() {
  if (!found_ || !stage_->isEnabled()) return;
  const CorrectionCounts counts = found_->corrections.counts;
  const QString title = tr("Corrections from %1").arg(QFileInfo(path_).fileName());
  if (!model_.desk().staged().stageChanges(title, found_->corrections.changes)) return;
  emit told(
      tr("%n record(s) staged from the file.", "", static_cast<int>(counts.changing + counts.added + counts.removed)));
  found_.reset();
  emit leaveAsked();
}

void FileSlip::hideEvent(QHideEvent* event) {
  if (reading_) reading_->cancel();
  SideSlip::hideEvent(event);
}

}  // namespace iterandum
