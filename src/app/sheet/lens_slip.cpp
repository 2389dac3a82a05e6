#include "app/sheet/lens_slip.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <array>

#include "app/style/roles.h"
#include "app/style/side_frame.h"

namespace iterandum {
namespace {

constexpr std::array<LensKind, 6> kKinds{LensKind::Duration, LensKind::Moment, LensKind::Labels,
                                         LensKind::Factor,   LensKind::Flags,  LensKind::Masked};
// What moments are counted in.
constexpr std::array<StoredUnit, 5> kCounted{StoredUnit::Second, StoredUnit::Millisecond, StoredUnit::Microsecond,
                                             StoredUnit::Nanosecond, StoredUnit::Day};

template <typename List, typename Item>
int placeIn(const List& list, Item item) {
  return static_cast<int>(std::find(list.begin(), list.end(), item) - list.begin());
}

std::string textOf(const QLineEdit* line) { return line->text().trimmed().toStdString(); }

}  // namespace

LensSlip::LensSlip(SheetModel& model, QWidget* parent) : SideSlip(parent), model_(model) { build(); }

QLineEdit* LensSlip::addLine(QGridLayout* grid, const QString& label, const char* name, const QString& hint) {
  auto* line = new QLineEdit(this);
  line->setObjectName(name);
  line->setFont(plain());
  line->setPlaceholderText(hint);
  connect(line, &QLineEdit::textChanged, this, &LensSlip::look);
  addField(grid, label, line);
  return line;
}

void LensSlip::build() {
  const auto [layout, title, subtitle] = buildPanelHead(this);
  title_ = title;
  subtitle_ = subtitle;
  QGridLayout* grid = newFields();
  kind_ = addChoice(grid, tr("What it is"), "lensKind",
                    {tr("a stretch of time"), tr("a moment"), tr("a code with a label"), tr("a number with a unit"),
                     tr("flags, one a bit"), tr("masked: shown as dots")});
  stored_ = addChoice(grid, tr("Stored in"), "lensStored",
                      {tr("nanoseconds"), tr("microseconds"), tr("milliseconds"), tr("seconds"), tr("minutes"),
                       tr("hours"), tr("days")});
  counted_ = addChoice(grid, tr("Counted in"), "lensCounted",
                       {tr("seconds"), tr("milliseconds"), tr("microseconds"), tr("nanoseconds"), tr("days")});
  form_ = addChoice(grid, tr("Shown as"), "lensForm", {tr("1 d 2 h 30 min"), tr("P1DT2H30M"), tr("26:30")});
  since_ = addLine(grid, tr("From the day"), "lensSince", QStringLiteral("1970-01-01"));
  factor_ = addLine(grid, tr("Times"), "lensFactor", tr("0.001 for millimetres shown in metres"));
  behind_ = addLine(grid, tr("Unit behind it"), "lensBehind", tr("m"));
  bits_ = addLine(grid, tr("Bits, lowest first"), "lensBits", tr("street, park, private"));
  labels_ = new QPlainTextEdit(this);
  labels_->setObjectName("lensLabels");
  labels_->setFont(plain());
  labels_->setTabChangesFocus(true);
  labels_->setPlaceholderText(tr("Y → yes\nN → no"));
  labels_->setMinimumHeight(90);
  connect(labels_, &QPlainTextEdit::textChanged, this, &LensSlip::look);
  addField(grid, tr("Code → label"), labels_);
  layout->addSpacing(6);
  layout->addLayout(grid);
  layout->addSpacing(6);
  words_ = new QLabel(this);
  words_->setObjectName("lensWords");
  words_->setWordWrap(true);
  words_->setTextFormat(Qt::PlainText);
  layout->addWidget(words_);
  proof_ = new QListWidget(this);
  proof_->setObjectName("lensProof");
  proof_->setAccessibleName(tr("Some values, as stored and through the lens"));
  proof_->setFont(plain());
  proof_->setFrameShape(QFrame::NoFrame);
  proof_->setFocusPolicy(Qt::NoFocus);
  proof_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  layout->addWidget(proof_, 1);
  off_ = new QPushButton(tr("Take the lens off"), this);
  off_->setObjectName("lensOff");
  layout->addWidget(off_);
  connect(off_, &QPushButton::clicked, this, &LensSlip::takeOff);
  const PanelFoot foot = buildPanelFoot(this, layout, tr("Look through it"), "lensTake");
  take_ = foot.stage;
  take_->setToolTip(tr("Nothing that is stored changes (Ctrl+Enter)"));
  connect(take_, &QPushButton::clicked, this, &LensSlip::finish);
  connect(foot.close, &QPushButton::clicked, this, &SideSlip::leaveAsked);
}

std::vector<Value> LensSlip::some() const {
  constexpr std::size_t kMost = 12;
  constexpr qsizetype kLookedAt = 2000;
  std::vector<Value> out;
  const QList<int> rows = model_.source().loadedRows();
  for (qsizetype i = 0; i < std::min(kLookedAt, rows.size()) && out.size() < kMost; ++i) {
    const CellState state = model_.cell(rows[i], column_);
    if (!state.loaded || state.stored.isNull()) continue;
    if (std::none_of(out.begin(), out.end(), [&](const Value& v) { return sameValue(v, state.stored); }))
      out.push_back(state.stored);
  }
  return out;
}

void LensSlip::open(int column) {
  column_ = column;
  const Table& owner = model_.ownerTable(column);
  title_->setText(tr("Lens on %1").arg(model_.columnName(column)));
  const auto& kept = model_.desk().lenses().all();
  const auto at = std::find_if(kept.begin(), kept.end(), [&](const Lens& lens) {
    return lens.table == displayName(owner.name) && lens.column == model_.column(column).name;
  });
  off_->setVisible(at != kept.end());
  if (at != kept.end()) {
    subtitle_->setText(tr("How its values are shown and typed. What is stored stays as it is."));
    return show(*at);
  }
  const std::vector<Lens> likely = likelyLenses(owner, model_.column(column), some());
  subtitle_->setText(likely.empty() ? tr("How its values are shown and typed. What is stored stays as it is.")
                                    : tr("Its name and its values speak for this one. What is stored stays as it is."));
  Lens lens;
  lens.kind = LensKind::Labels;
  if (!likely.empty()) lens = likely.front();
  show(lens);
}

void LensSlip::show(const Lens& lens) {
  filling_ = true;
  kind_->setCurrentIndex(placeIn(kKinds, lens.kind));
  stored_->setCurrentIndex(static_cast<int>(lens.unit));
  const int counted = placeIn(kCounted, lens.unit);
  counted_->setCurrentIndex(counted < static_cast<int>(kCounted.size()) ? counted : 0);
  form_->setCurrentIndex(static_cast<int>(lens.form));
  since_->setText(toQ(lens.since));
  factor_->setText(lens.kind == LensKind::Factor ? toQ(lens.factor) : QString());
  behind_->setText(toQ(lens.behind));
  QStringList bits;
  for (const std::string& bit : lens.bits) bits << toQ(bit);
  bits_->setText(bits.join(QStringLiteral(", ")));
  QStringList labels;
  for (const LensLabel& label : lens.labels) labels << toQ(label.stored) + QStringLiteral(" → ") + toQ(label.shown);
  // The codes that are there, to write the labels beside.
  if (lens.labels.empty()) {
    for (const Value& value : some()) {
      if (value.kind() != Value::Kind::Bytes) labels << toQ(canonicalText(value)).left(60) + QStringLiteral(" → ");
    }
  }
  labels_->setPlainText(labels.join(QLatin1Char('\n')));
  filling_ = false;
  look();
}

void LensSlip::showFields() {
  const LensKind kind = kKinds[static_cast<std::size_t>(kind_->currentIndex())];
  const bool days = counted_->currentIndex() == placeIn(kCounted, StoredUnit::Day);
  const auto shown = [&](const QWidget* field) {
    if (field == stored_ || field == form_) return kind == LensKind::Duration;
    if (field == counted_) return kind == LensKind::Moment;
    if (field == since_) return kind == LensKind::Moment && days;
    if (field == factor_ || field == behind_) return kind == LensKind::Factor;
    if (field == bits_) return kind == LensKind::Flags;
    return field != labels_ || kind == LensKind::Labels;
  };
  for (QLabel* label : findChildren<QLabel*>()) {
    if (label->buddy() == nullptr) continue;
    label->setVisible(shown(label->buddy()));
    label->buddy()->setVisible(shown(label->buddy()));
  }
}

Result<Lens> LensSlip::lens() const {
  Lens out;
  out.table = displayName(model_.ownerTable(column_).name);
  out.column = model_.column(column_).name;
  out.kind = kKinds[static_cast<std::size_t>(kind_->currentIndex())];
  out.form = static_cast<DurationForm>(form_->currentIndex());
  if (out.kind == LensKind::Duration) out.unit = static_cast<StoredUnit>(stored_->currentIndex());
  if (out.kind == LensKind::Moment) out.unit = kCounted[static_cast<std::size_t>(counted_->currentIndex())];
  if (out.kind == LensKind::Moment && out.unit == StoredUnit::Day && !since_->text().isEmpty())
    out.since = textOf(since_);
  if (out.kind == LensKind::Factor) {
    out.factor = textOf(factor_);
    out.behind = textOf(behind_);
  }
  if (out.kind == LensKind::Flags) {
    for (const QString& bit : bits_->text().split(QLatin1Char(','))) out.bits.push_back(bit.trimmed().toStdString());
  }
  if (out.kind == LensKind::Labels) {
    for (const QString& line : labels_->toPlainText().split(QLatin1Char('\n'))) {
      const QString arrow = line.contains(QChar(0x2192)) ? QString(QChar(0x2192)) : QStringLiteral("->");
      const QStringList parts = line.split(arrow);
      // A code without a label is shown as it is.
      if (line.trimmed().isEmpty() || (parts.size() == 2 && parts[1].trimmed().isEmpty())) continue;
      if (parts.size() != 2)
        return fail(ErrorKind::InvalidInput, tr("“%1”: code → label is wanted").arg(line.trimmed()).toStdString());
      out.labels.push_back({parts[0].trimmed().toStdString(), parts[1].trimmed().toStdString()});
    }
  }
  std::string wrong = lensUnsound(out);
  if (wrong.empty()) wrong = lensUnsuited(out, model_.column(column_));
  if (!wrong.empty()) return fail(ErrorKind::InvalidInput, wrong);
  return out;
}

void LensSlip::look() {
  if (filling_) return;
  showFields();
  proof_->clear();
  const auto chosen = lens();
  take_->setEnabled(chosen.has_value());
  words_->setStyleSheet(QStringLiteral("color: %1;").arg(css(chosen ? roles().soft : roles().query)));
  if (!chosen) return words_->setText(toQ(chosen.error().message));
  const Column& column = model_.column(column_);
  int unseen = 0;
  const std::vector<Value> values = some();
  for (const Value& value : values) {
    if (!shownThrough(*chosen, column, value)) ++unseen;
    proof_->addItem(shownValue(column, value) + QStringLiteral("  →  ") + shownValue(column, value, &*chosen));
  }
  words_->setText(unseen == 0
                      ? tr("Some of its values, as stored and through it:")
                      : tr("%n of these cannot be shown through it; such values are shown as stored.", "", unseen));
}

void LensSlip::finish() {
  const auto chosen = lens();
  if (!chosen) return;
  model_.desk().kept().saveLenses({*chosen});
  emit told(
      tr("%1 is shown and typed through its lens; what is stored stays as it is.").arg(model_.columnName(column_)));
  emit leaveAsked();
}

void LensSlip::takeOff() {
  model_.desk().kept().forgetLens(displayName(model_.ownerTable(column_).name), model_.column(column_).name);
  emit told(tr("%1 is shown as stored again.").arg(model_.columnName(column_)));
  emit leaveAsked();
}

void LensSlip::focusFirst() { kind_->setFocus(); }

}  // namespace iterandum
