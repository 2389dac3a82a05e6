#include "app/sheet/act_slip.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QRadioButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <utility>

#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "app/style/usual_keys.h"
#include "app/values/shown_value.h"

namespace iterandum {
namespace {

constexpr int kProofPauseMs = 140;

}  // namespace

ActSlip::ActSlip(SheetView& view, SheetModel& model, QWidget* parent) : QWidget(parent), view_(view), model_(model) {
  preview_ = new ActPreview(model, this);
  names_ = new NameLookup(model, this);
  soon_ = new QTimer(this);
  soon_->setSingleShot(true);
  soon_->setInterval(kProofPauseMs);
  connect(soon_, &QTimer::timeout, this, &ActSlip::ask);
  build();
  connect(preview_, &ActPreview::changed, this, &ActSlip::update);
  // What is staged, read or shown otherwise meanwhile changes what the act would do.
  const auto again = [this] {
    if (isVisible()) askSoon();
  };
  connect(&model_.desk().staged(), &StagedWork::changed, this, again);
  // The names of the records that references point at come by and by.
  connect(&model_.desk().names(), &ReferenceNames::named, this, [this] {
    if (isVisible() && preview_->isAsked()) proof_->show(*preview_, true);
  });
  connect(&model_.desk().kept(), &KeptSettings::recipesChanged, this, [this] { fillKinds(); });
  connect(&model_.source(), &RecordSource::counted, this, [this, again] {
    if (isVisible()) setWhat();
    again();
  });
  connect(&model_.source(), &RecordSource::restarted, this, [this, again] {
    // Positions mean other records now.
    ranges_.clear();
    all_->setChecked(true);
    again();
  });
}

// --- its parts ---

void ActSlip::addRow(const QString& label, QWidget* field, std::initializer_list<Kind> kinds) {
  auto* name = new QLabel(label, this);
  name->setFont(plain(0.92));
  name->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().soft)));
  name->setBuddy(field);
  field->setAccessibleName(label);
  const int row = fields_->rowCount();
  fields_->addWidget(name, row, 0, Qt::AlignLeft | Qt::AlignVCenter);
  fields_->addWidget(field, row, 1);
  rows_.push_back({name, field, kinds});
}

void ActSlip::build() {
  const auto [panel, title, subtitle] = buildPanelHead(this);
  title->setText(tr("Change many"));
  subtitle_ = subtitle;
  subtitle_->setText(tr("Nothing is staged before you say so below."));
  // Where there is little room it scrolls; the buttons stay in sight.
  auto* scroll = new QScrollArea(this);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setWidgetResizable(true);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFocusPolicy(Qt::NoFocus);
  auto* inside = new QWidget(scroll);
  inside->setObjectName("page");
  inside->setAttribute(Qt::WA_StyledBackground);
  auto* layout = new QVBoxLayout(inside);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(2);
  scroll->setWidget(inside);
  panel->addWidget(scroll, 1);
  selected_ = new QRadioButton(this);
  selected_->setObjectName("actSelected");
  all_ = new QRadioButton(this);
  all_->setObjectName("actAll");
  layout->addSpacing(6);
  layout->addWidget(selected_);
  layout->addWidget(all_);
  layout->addSpacing(6);
  fields_ = new QGridLayout;
  fields_->setHorizontalSpacing(10);
  fields_->setVerticalSpacing(5);
  fields_->setColumnStretch(1, 1);
  layout->addLayout(fields_);
  const auto line = [&](const char* name) {
    auto* edit = new QLineEdit(this);
    edit->setObjectName(QLatin1String(name));
    connect(edit, &QLineEdit::textChanged, this, &ActSlip::askSoon);
    // The first Enter leads to the button, so that the proof is seen before the second one stages.
    connect(edit, &QLineEdit::returnPressed, this, [this] { goToStage(); });
    return edit;
  };
  const auto choice = [&](const char* name) {
    auto* box = new QComboBox(this);
    box->setObjectName(QLatin1String(name));
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    return box;
  };
  column_ = choice("actColumn");
  kind_ = choice("actKind");
  value_ = line("actValue");
  expression_ = new QPlainTextEdit(this);
  expression_->setObjectName("actExpression");
  expression_->setTabChangesFocus(true);
  expression_->setFixedHeight(3 * QFontMetrics(plain()).lineSpacing() + 12);
  connect(expression_, &QPlainTextEdit::textChanged, this, &ActSlip::askSoon);
  find_ = line("actFind");
  with_ = line("actWith");
  where_ = choice("actWhere");
  where_->addItems({tr("anywhere in it"), tr("where it is all of it"), tr("at the beginning"), tr("at the end"),
                    tr("as a pattern")});
  exact_ = new QCheckBox(tr("tell capitals apart"), this);
  exact_->setObjectName("actExact");
  list_ = new QPlainTextEdit(this);
  list_->setObjectName("actList");
  list_->setTabChangesFocus(true);
  list_->setMaximumHeight(120);
  list_->setPlaceholderText(tr("old → new, a line each; or paste two columns"));
  fromFile_ = new QPushButton(tr("From a file…"), this);
  fromFile_->setObjectName("actListFile");
  fromFile_->setToolTip(tr("A CSV of two columns, old and new, without a header"));
  connect(fromFile_, &QPushButton::clicked, this, &ActSlip::listFromFile);
  tidy_ = choice("actTidy");
  const std::pair<QString, const char*> tidy[] = {{tr("blanks: none at the ends, single inside"), "tidy"},
                                                  {tr("dashes and quotation marks as on a keyboard"), "plain"},
                                                  {tr("letters with marks in one form"), "compose"},
                                                  {tr("no noughts in front"), "unpad"},
                                                  {tr("The first letter large"), "sentence"},
                                                  {tr("Capitals At Each Word"), "capitals"},
                                                  {tr("SMALL TO LARGE LETTERS"), "upper"},
                                                  {tr("large to small letters"), "lower"}};
  for (const auto& [words, function] : tidy) tidy_->addItem(words, QLatin1String(function));
  other_ = choice("actOther");
  swapped_ = choice("actSwapped");
  buildReckoning();
  by_ = line("actBy");
  using enum Kind;
  addRow(tr("Column"), column_, {To, Empty, Clear, Compute, Reckon, Replace, Map, Tidy, Other, Swap});
  addRow(tr("Act"), kind_, {To, Empty, Clear, Compute, Reckon, Replace, Map, Tidy, Other, Swap, Recipe});
  addRow(tr("Becomes"), value_, {To});
  addRow(tr("Computed as"), expression_, {Compute});
  addRow(tr("How"), reckoning_, {Reckon});
  addRow(tr("By"), by_, {Reckon});
  addRow(tr("Find"), find_, {Replace});
  addRow(tr("Put"), with_, {Replace});
  addRow(tr("Where"), where_, {Replace});
  addRow(QString(), exact_, {Replace});
  addRow(tr("List"), list_, {Map});
  addRow(QString(), fromFile_, {Map});
  addRow(tr("Tidied"), tidy_, {Tidy});
  addRow(tr("Of"), other_, {Other});
  addRow(tr("With"), swapped_, {Swap});
  hint_ = new QLabel(this);
  hint_->setObjectName("actHint");
  hint_->setWordWrap(true);
  hint_->setTextFormat(Qt::PlainText);
  hint_->setFont(plain(0.92));
  layout->addWidget(hint_);
  counts_ = new QLabel(this);
  counts_->setObjectName("actCounts");
  counts_->setWordWrap(true);
  counts_->setTextFormat(Qt::PlainText);
  counts_->setFont(serif(1.05));
  layout->addSpacing(4);
  layout->addWidget(counts_);
  proof_ = new ActProof(model_, this);
  proof_->setMinimumHeight(110);
  layout->addWidget(proof_, 1);
  panel->addWidget(buildButtons());
  for (QRadioButton* which : {selected_, all_}) connect(which, &QRadioButton::clicked, this, &ActSlip::askSoon);
  for (QComboBox* box : {column_, reckoning_}) {
    connect(box, &QComboBox::currentIndexChanged, this, [this] {
      showWhatBy();
      askSoon();
    });
  }
  connect(kind_, &QComboBox::currentIndexChanged, this, [this] {
    showQuestions();
    showFields();
    askSoon();
  });
  for (QComboBox* box : {where_, tidy_, other_, swapped_})
    connect(box, &QComboBox::currentIndexChanged, this, [this] { askSoon(); });
  connect(exact_, &QCheckBox::toggled, this, [this] { askSoon(); });
  connect(list_, &QPlainTextEdit::textChanged, this, &ActSlip::askSoon);
}

QWidget* ActSlip::buildButtons() {
  auto* below = new QWidget(this);
  auto* column = new QVBoxLayout(below);
  column->setContentsMargins(0, 6, 0, 0);
  naming_ = new QWidget(below);
  auto* naming = new QHBoxLayout(naming_);
  naming->setContentsMargins(0, 0, 0, 0);
  recipeName_ = new QLineEdit(naming_);
  recipeName_->setObjectName("recipeName");
  recipeName_->setPlaceholderText(tr("Name of the recipe"));
  recipeName_->setAccessibleName(tr("Name of the recipe"));
  naming->addWidget(recipeName_);
  naming_->hide();
  column->addWidget(naming_);
  connect(recipeName_, &QLineEdit::returnPressed, this, &ActSlip::keepRecipe);
  auto* line = new QHBoxLayout;
  stage_ = new QPushButton(below);
  stage_->setObjectName("actStage");
  stage_->setProperty("primary", true);
  stage_->setToolTip(tr("As one gesture, which Undo takes back (Ctrl+Enter)"));
  keep_ = new QPushButton(tr("Keep as recipe…"), below);
  keep_->setObjectName("actKeep");
  keep_->setToolTip(tr("To use it again under a name"));
  auto* close = new QPushButton(tr("Close"), below);
  close->setObjectName("actClose");
  close->setToolTip(tr("Esc"));
  line->addWidget(stage_, 1);
  line->addWidget(keep_);
  line->addWidget(close);
  column->addLayout(line);
  connect(stage_, &QPushButton::clicked, this, &ActSlip::stage);
  connect(close, &QPushButton::clicked, this, &ActSlip::leaveAsked);
  connect(keep_, &QPushButton::clicked, this, [this] {
    if (naming_->isVisible()) return keepRecipe();
    naming_->show();
    recipeName_->setFocus();
  });
  return below;
}

void ActSlip::fillColumns() {
  column_->clear();
  for (int c = 0; c < model_.ownColumns(); ++c) {
    if (model_.columnNotEditable(c).isEmpty()) column_->addItem(model_.columnName(c), c);
  }
}

void ActSlip::fillKinds() {
  const QVariant before = kind_->currentData();
  const QString name = kind_->currentText();
  const QSignalBlocker blocker(kind_);
  kind_->clear();
  const std::pair<QString, Kind> kinds[] = {{tr("becomes a value"), Kind::To},
                                            {tr("becomes no value"), Kind::Clear},
                                            {tr("becomes empty text"), Kind::Empty},
                                            {tr("is shifted, multiplied or rounded"), Kind::Reckon},
                                            {tr("is computed"), Kind::Compute},
                                            {tr("has a text replaced"), Kind::Replace},
                                            {tr("goes by a list of old and new"), Kind::Map},
                                            {tr("is tidied"), Kind::Tidy},
                                            {tr("takes the value of another column"), Kind::Other},
                                            {tr("is exchanged with another column"), Kind::Swap}};
  for (const auto& [words, kind] : kinds) kind_->addItem(words, static_cast<int>(kind));
  for (const iterandum::Recipe& r : model_.desk().kept().recipes()) {
    const auto table = parseTableName(r.table);
    if (table && model_.desk().catalogue().find(*table) == &model_.table()) {
      kind_->addItem(tr("Recipe: %1").arg(toQ(r.name)), static_cast<int>(Kind::Recipe));
    }
  }
  const int at = before.isValid() ? kind_->findText(name) : 0;
  kind_->setCurrentIndex(std::max(0, at));
}

void ActSlip::fillOthers() {
  other_->clear();
  for (int c = 0; c < model_.columnCount(); ++c) other_->addItem(model_.columnName(c));
  swapped_->clear();
  for (int c = 0; c < model_.ownColumns(); ++c) {
    if (model_.columnNotEditable(c).isEmpty()) swapped_->addItem(model_.columnName(c), c);
  }
}

ActSlip::Kind ActSlip::kind() const { return static_cast<Kind>(kind_->currentData().toInt()); }

const Recipe* ActSlip::recipe() const {
  const QString prefix = tr("Recipe: %1").arg(QString());
  const std::string name = kind_->currentText().mid(prefix.size()).toStdString();
  for (const iterandum::Recipe& r : model_.desk().kept().recipes()) {
    if (kind() == Kind::Recipe && r.name == name) return &r;
  }
  return nullptr;
}

void ActSlip::showFields() {
  for (const Row& row : rows_) {
    const bool wanted = std::find(row.kinds.begin(), row.kinds.end(), kind()) != row.kinds.end();
    row.label->setVisible(wanted);
    row.field->setVisible(wanted);
  }
  keep_->setVisible(kind() != Kind::Recipe);
  showWhatBy();
  naming_->hide();
}

// A field for each question of the recipe.
void ActSlip::showQuestions() {
  for (const auto& [name, field] : questions_) {
    const auto row = std::find_if(rows_.begin(), rows_.end(), [&, f = field](const Row& r) { return r.field == f; });
    row->label->deleteLater();
    row->field->deleteLater();
    rows_.erase(row);
  }
  questions_.clear();
  const iterandum::Recipe* chosen = recipe();
  if (chosen == nullptr) return;
  for (const RecipeQuestion& q : chosen->questions) {
    auto* field = new QLineEdit(q.usual ? toQ(*q.usual) : QString(), this);
    field->setObjectName(QStringLiteral("question"));
    connect(field, &QLineEdit::textChanged, this, &ActSlip::askSoon);
    connect(field, &QLineEdit::returnPressed, this, [this] { goToStage(); });
    addRow(toQ(q.says.empty() ? q.name : q.says), field, {Kind::Recipe});
    questions_.emplace_back(q.name, field);
  }
}

// --- opening ---

void ActSlip::setWhat() {
  const QLocale locale;
  qint64 records = 0;
  for (const RowRange& range : ranges_) records += range.size();
  selected_->setText(tr("the %n selected record(s)", "", static_cast<int>(records))
                         .replace(QString::number(records), locale.toString(records)));
  selected_->setEnabled(records > 0);
  const int rows = model_.source().rows();
  all_->setText(model_.source().complete() ? tr("all %1 that the sheet shows").arg(locale.toString(rows))
                                           : tr("all that the sheet shows (%1 so far)").arg(locale.toString(rows)));
}

void ActSlip::open() {
  ranges_ = view_.selectedRows();
  qint64 records = 0;
  for (const RowRange& range : ranges_) records += range.size();
  setWhat();
  (records > 1 ? selected_ : all_)->setChecked(true);
  const QSignalBlocker blocker(column_);
  fillColumns();
  fillKinds();
  fillOthers();
  const int at = column_->findData(std::max(0, view_.currentIndex().column()));
  column_->setCurrentIndex(std::max(0, at));
  if (kind() == Kind::Recipe) kind_->setCurrentIndex(0);
  showQuestions();
  showFields();
  show();
  askSoon();
  (kind() == Kind::To ? static_cast<QWidget*>(value_) : kind_)->setFocus();
  value_->selectAll();
}

void ActSlip::openForReplacing() {
  open();
  kind_->setCurrentIndex(kind_->findData(static_cast<int>(Kind::Replace)));
  find_->setFocus();
  find_->selectAll();
}

void ActSlip::openForSpellings(int column, const std::vector<Value>& others, const Value& right) {
  open();
  ranges_.clear();
  setWhat();
  all_->setChecked(true);
  column_->setCurrentIndex(std::max(0, column_->findData(column)));
  kind_->setCurrentIndex(kind_->findData(static_cast<int>(Kind::Map)));
  QStringList lines;
  for (const Value& other : others) {
    // As they are typed here: what lies there as it is is told from what a lens shows so. Blanks at the ends count
    // behind tabs only.
    const QString from = model_.editText(column, other);
    const QString to = model_.editText(column, right);
    const bool blanks = from != from.trimmed() || to != to.trimmed();
    lines << from + (blanks ? QStringLiteral("\t") : QStringLiteral(" → ")) + to;
  }
  list_->setPlainText(lines.join(QLatin1Char('\n')));
  goToStage();
}

void ActSlip::openRecipe(const QString& name) {
  open();
  kind_->setCurrentIndex(std::max(0, kind_->findText(tr("Recipe: %1").arg(name))));
  if (questions_.empty()) {
    goToStage();
  } else {
    questions_.front().second->setFocus();
    questions_.front().second->selectAll();
  }
}

// %1 is the column, %2 what is typed.
void ActSlip::buildReckoning() {
  reckoning_ = new QComboBox(this);
  reckoning_->setObjectName("actReckoning");
  reckoning_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  const std::pair<QString, const char*> ways[] = {{tr("plus (a number, or a time like 3 months)"), "%1 + (%2)"},
                                                  {tr("minus"), "%1 - (%2)"},
                                                  {tr("times"), "%1 * (%2)"},
                                                  {tr("divided by"), "%1 / (%2)"},
                                                  {tr("rounded to so many decimals"), "round(%1, %2)"}};
  for (const auto& [words, expression] : ways) reckoning_->addItem(words, QLatin1String(expression));
}

// An example of what may be typed there.
void ActSlip::showWhatBy() {
  const int column = column_->currentData().toInt();
  const TypeClass type = column < model_.ownColumns() ? model_.column(column).type : TypeClass::Other;
  const bool ofTime = type == TypeClass::Date || type == TypeClass::Timestamp || type == TypeClass::Time;
  const bool rounds = reckoning_->currentIndex() == 4;
  by_->setPlaceholderText(rounds                    ? tr("0 for whole numbers")
                          : !ofTime                 ? tr("a number")
                          : type == TypeClass::Date ? tr("for example 3 months, 2 weeks")
                                                    : tr("for example 90 minutes, 1 day"));
}

// The key that stages is the slip's, whatever the window does with it elsewhere.
bool ActSlip::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride && isStagingKey(*static_cast<QKeyEvent*>(event))) {
    event->accept();
    return true;
  }
  return QWidget::event(event);
}

void ActSlip::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) {
    if (naming_->isVisible()) return naming_->hide();
    emit leaveAsked();
    return;
  }
  if (isStagingKey(*event)) return stage();
  QWidget::keyPressEvent(event);
}

void ActSlip::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  soon_->stop();
  preview_->stop();
  proof_->empty();
}

}  // namespace iterandum
