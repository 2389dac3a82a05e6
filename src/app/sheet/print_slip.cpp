#include "app/sheet/print_slip.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPointer>
#include <QPushButton>
#include <QScrollBar>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <array>

#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "core/scope/column_path.h"

namespace iterandum {
namespace {

constexpr std::size_t kPagesShown = 8;
constexpr double kFiner = 1.6;                             // set finer than shown, for screens of many dots
constexpr int kShownDots = static_cast<int>(92 * kFiner);  // of an inch
constexpr int kBesidePages = 24;
constexpr std::array<int, 6> kPoints{6, 7, 8, 9, 10, 12};

QStringList numbersTo(int most) {
  QStringList out;
  for (int i = 1; i <= most; ++i) out << QString::number(i);
  return out;
}

}  // namespace

PrintPreview::PrintPreview(QWidget* parent) : QScrollArea(parent) {
  setObjectName("printPreview");
  setAccessibleName(tr("The pages as they will come out"));
  setFrameShape(QFrame::NoFrame);
  setWidgetResizable(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* desk = new QWidget(this);
  desk->setObjectName("bench");
  desk->setAttribute(Qt::WA_StyledBackground);
  pages_ = new QVBoxLayout(desk);
  pages_->setContentsMargins(kBesidePages, 20, kBesidePages, 20);
  pages_->setSpacing(18);
  setWidget(desk);
}

void PrintPreview::resizeEvent(QResizeEvent* event) {
  QScrollArea::resizeEvent(event);
  fit();
}

void PrintPreview::fit() {
  const QList<QLabel*> labels = widget()->findChildren<QLabel*>(QStringLiteral("printedPage"));
  for (qsizetype i = 0; i < labels.size() && i < static_cast<qsizetype>(images_.size()); ++i)
    fit(*labels[i], images_[static_cast<std::size_t>(i)]);
}

// A page that is wider than there is room is made smaller.
void PrintPreview::fit(QLabel& label, const QImage& page) const {
  const int room = viewport()->width() - 2 * kBesidePages;
  const double dots = devicePixelRatioF();
  const int width = std::min(static_cast<int>(page.width() / kFiner), std::max(room, 100));
  QPixmap picture = QPixmap::fromImage(page.scaledToWidth(static_cast<int>(width * dots), Qt::SmoothTransformation));
  picture.setDevicePixelRatio(dots);
  label.setPixmap(picture);
}

void PrintPreview::clear() {
  images_.clear();
  while (QLayoutItem* item = pages_->takeAt(0)) {
    delete item->widget();
    delete item;
  }
}

void PrintPreview::add(QImage page) {
  images_.push_back(std::move(page));
  auto* label = new QLabel(widget());
  label->setObjectName("printedPage");
  label->setAccessibleName(tr("Page %1").arg(images_.size()));
  label->setFrameShape(QFrame::Box);
  label->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
  pages_->addWidget(label, 0, Qt::AlignHCenter);
  fit(*label, images_.back());
  if (images_.size() == 1) verticalScrollBar()->setValue(0);
}

void PrintPreview::end(bool more) {
  auto* end = new QLabel(more ? tr("and more pages like these") : QString(), widget());
  end->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  pages_->addWidget(end, 0, Qt::AlignHCenter);
  pages_->addStretch(1);
}

PrintSlip::PrintSlip(SheetModel& model, PrintPreview& preview, QWidget* parent)
    : SideSlip(parent), model_(model), preview_(preview) {
  build();
}

void PrintSlip::build() {
  const auto [panel, title, subtitle] = buildPanelHead(this);
  title->setText(tr("On paper"));
  subtitle_ = subtitle;
  QVBoxLayout* layout = addScrolled(panel);
  QGridLayout* grid = newFields();
  kept_ = addChoice(grid, tr("Kept form"), "printKept", {});
  // One that was chosen is shown; afterwards it can be changed.
  connect(kept_, &QComboBox::activated, this, [this] {
    for (const PrintForm& form : kept()) {
      if (toQ(form.name) == kept_->currentText()) showForm(form);
    }
    look();
  });
  kind_ = addChoice(grid, tr("As"), "printKind", {tr("a table"), tr("cards"), tr("labels")});
  const auto addText = [&](const QString& label, const char* name, const QString& hint) {
    auto* text = new QLineEdit(this);
    text->setObjectName(name);
    text->setFont(plain());
    text->setPlaceholderText(hint);
    connect(text, &QLineEdit::textChanged, this, [this] { look(); });
    addField(grid, label, text);
    return text;
  };
  title_ = addText(tr("Above it"), "printTitle", tr("which records these are"));
  group_ = addChoice(grid, tr("In groups by"), "printGroup", {});
  turned_ = addChoice(grid, tr("Paper"), "printTurned", {tr("as it fits"), tr("upright"), tr("lying")});
  QStringList points;
  for (const int one : kPoints) points << tr("%1 points").arg(one);
  points_ = addChoice(grid, tr("Letters"), "printPoints", points);
  across_ = addChoice(grid, tr("Labels in a row"), "printAcross", numbersTo(6));
  down_ = addChoice(grid, tr("Rows on a page"), "printDown", numbersTo(kMostLabels));
  name_ = addText(tr("Keep it as"), "printName", tr("a name, if it is to be kept"));
  layout->addSpacing(6);
  layout->addLayout(grid);
  cardAPage_ = addBox(layout, tr("Each card on a page of its own"), "printCardAPage");
  stored_ = addBox(layout, tr("Keys and codes as they are stored"), "printStored");
  layout->addSpacing(4);
  words_ = newWords("printWords");
  words_->setFont(plain(0.92));
  layout->addWidget(words_);
  layout->addStretch(1);
  printer_ = new QPushButton(tr("To a printer…"), this);
  printer_->setObjectName("printToPrinter");
  connect(printer_, &QPushButton::clicked, this, &PrintSlip::printerAsked);
  panel->addWidget(printer_);
  const PanelFoot foot = buildPanelFoot(this, panel, tr("Write a PDF…"), "printWrite");
  write_ = foot.stage;
  write_->setToolTip(tr("All pages, whole or not at all (Ctrl+Enter)"));
  connect(write_, &QPushButton::clicked, this, [this] { finish(); });
  connect(foot.close, &QPushButton::clicked, this, &SideSlip::leaveAsked);
}

std::string PrintSlip::keptChoice() const { return "on paper, " + displayName(model_.table().name) + ": "; }

std::vector<PrintForm> PrintSlip::kept() const {
  std::vector<PrintForm> out;
  for (const auto& [name, text] : model_.desk().kept().choicesUnder(keptChoice())) {
    auto form = printFormFromJson(text);
    if (form) out.push_back(std::move(*form));
  }
  return out;
}

void PrintSlip::keepForm() {
  const PrintForm form = this->form();
  if (form.name.empty()) return;
  model_.desk().kept().keepChoice(keptChoice() + form.name, printFormToJson(form));
  fillKept();
}

void PrintSlip::fillKept() {
  const QSignalBlocker blocker(kept_);
  kept_->clear();
  kept_->addItem(tr("none"));
  for (const PrintForm& form : kept()) kept_->addItem(toQ(form.name));
  const int at = name_->text().isEmpty() ? 0 : kept_->findText(name_->text());
  kept_->setCurrentIndex(std::max(at, 0));
  showField(kept_, kept_->count() > 1);
}

void PrintSlip::open(ReadScope scope) {
  filling_ = true;
  scope_ = std::move(scope);
  const QString before = group_->currentText();
  group_->clear();
  groups_ = {std::string()};
  group_->addItem(tr("no groups"));
  for (const Column& column : model_.table().columns) {
    groups_.push_back(columnPathText({{}, column.name}));
    group_->addItem(toQ(column.name));
  }
  for (const ColumnPath& path : scope_.columns) {
    if (!path.isBorrowed()) continue;
    groups_.push_back(columnPathText(path));
    group_->addItem(toQ(columnPathText(path)));
  }
  group_->setCurrentIndex(std::max(0, group_->findText(before)));
  if (subtitle_->text().isEmpty()) showForm({});
  subtitle_->setText(tr("What the sheet shows, in its order and with its columns."));
  fillKept();
  filling_ = false;
  look();
}

void PrintSlip::focusFirst() { kind_->setFocus(); }

void PrintSlip::showForm(const PrintForm& form) {
  const bool was = std::exchange(filling_, true);
  kind_->setCurrentIndex(static_cast<int>(form.kind));
  title_->setText(toQ(form.title));
  const auto group = std::find(groups_.begin(), groups_.end(), form.groupBy);
  group_->setCurrentIndex(group == groups_.end() ? 0 : static_cast<int>(group - groups_.begin()));
  turned_->setCurrentIndex(static_cast<int>(form.turned));
  const auto points = std::find(kPoints.begin(), kPoints.end(), form.points);
  points_->setCurrentIndex(points == kPoints.end() ? 2 : static_cast<int>(points - kPoints.begin()));
  across_->setCurrentIndex(std::min(form.across, across_->count()) - 1);
  down_->setCurrentIndex(std::min(form.down, down_->count()) - 1);
  cardAPage_->setChecked(form.cardAPage);
  stored_->setChecked(form.asStored);
  name_->setText(toQ(form.name));
  filling_ = was;
}

PrintForm PrintSlip::form() const {
  PrintForm out;
  out.name = name_->text().trimmed().toStdString();
  out.kind = static_cast<PrintForm::Kind>(kind_->currentIndex());
  out.title = title_->text().trimmed().toStdString();
  out.groupBy =
      groups_.empty() ? std::string() : groups_[static_cast<std::size_t>(std::max(0, group_->currentIndex()))];
  out.turned = static_cast<PrintForm::Turned>(turned_->currentIndex());
  out.points = kPoints[static_cast<std::size_t>(points_->currentIndex())];
  out.across = across_->currentIndex() + 1;
  out.down = down_->currentIndex() + 1;
  out.cardAPage = cardAPage_->isChecked();
  out.asStored = stored_->isChecked();
  return out;
}

PrintedRecords PrintSlip::records() const {
  PrintedRecords out;
  out.catalogue = &model_.desk().catalogue();
  out.scope = scope_;
  out.calledBy = model_.desk().names().calledBy();
  out.lenses = model_.desk().lenses().all();
  return out;
}

void PrintSlip::look() {
  if (filling_ || scope_.table == nullptr) return;
  const PrintForm form = this->form();
  const bool labels = form.kind == PrintForm::Kind::Labels;
  showField(across_, labels);
  showField(down_, labels);
  showField(title_, !labels);
  showField(group_, !labels);
  cardAPage_->setVisible(form.kind == PrintForm::Kind::Cards);
  if (reading_) reading_->cancel();
  write_->setEnabled(false);
  printer_->setEnabled(false);
  say(words_, tr("Setting the first pages…"), false);
  const std::uint64_t asked = ++asked_;
  struct Pages {
    std::size_t count = 0;
    bool more = false;
    std::uint64_t cut = 0;
  };
  // Each is shown when it is there; until the first is, those from before.
  const auto show = [this, asked, self = QPointer(this), first = true,
                     handover = Handover::instance()](QImage&& page) mutable {
    handover->put([this, asked, self, page = std::move(page), first] {
      if (!self || asked != asked_) return;
      if (first) preview_.clear();
      preview_.add(page);
    });
    first = false;
  };
  reading_ = model_.desk().behind().post(
      this,
      [held = model_.desk().sharedCatalogue(), records = records(), form, show](Session& session,
                                                                                Progress& progress) -> Result<Pages> {
        PictureTarget target(kPagesShown, kShownDots, show);
        ITERANDUM_ASSIGN(const PrintedCount drawn, printRecords(session, records, form, target, progress));
        return Pages{target.count(), target.full(), drawn.cut};
      },
      [this, asked](Result<Pages>&& pages) {
        if (asked != asked_) return;
        reading_.reset();
        if (!pages) return say(words_, toQ(pages.error().text()), true);
        if (pages->count == 0) preview_.clear();
        preview_.end(pages->more);
        write_->setEnabled(true);
        printer_->setEnabled(true);
        const auto count = static_cast<int>(pages->count);
        if (pages->cut > 0) {
          return say(
              words_,
              tr("On %n of these labels not all values find room: hide columns, or take larger labels or smaller "
                 "letters.",
                 "", static_cast<int>(pages->cut)),
              true);
        }
        say(words_, pages->more ? tr("The first %n page(s) are shown.", "", count) : tr("%n page(s).", "", count),
            false);
      });
}

void PrintSlip::finish() {
  if (write_->isEnabled()) emit fileAsked();
}

void PrintSlip::hideEvent(QHideEvent* event) {
  if (reading_) reading_->cancel();
  SideSlip::hideEvent(event);
}

}  // namespace iterandum
