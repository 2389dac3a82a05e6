#include "app/card/card_panel.h"

#include <QFrame>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QResizeEvent>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <climits>

#include "app/card/card_field.h"
#include "app/card/card_find.h"
#include "app/card/card_incoming.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"

namespace iterandum {

CardPanel::CardPanel(SheetModel& model, QWidget* parent) : QWidget(parent), model_(model) {
  const auto [layout, title, subtitle] = buildPanelHead(this);
  title_ = title;
  title_->setObjectName("cardTitle");
  subtitle_ = subtitle;
  head_ = new QWidget(this);
  buildHead(head_);
  layout->insertWidget(0, head_);
  scroll_ = new QScrollArea(this);
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->setFocusPolicy(Qt::NoFocus);
  layout->addWidget(scroll_, 1);
  build();
  connect(&model_, &QAbstractItemModel::dataChanged, this, &CardPanel::refresh);
  connect(&model_, &QAbstractItemModel::modelReset, this, [this] { show(-1); });
  show(-1);
}

// What a form has above its fields.
void CardPanel::buildHead(QWidget* head) {
  auto* line = new QHBoxLayout(head);
  line->setContentsMargins(0, 0, 0, 12);
  line->setSpacing(8);
  find_ = new CardFind(model_, head);
  find_->setMinimumWidth(160);
  find_->setMaximumWidth(460);
  before_ = new QPushButton(tr("Before"), head);
  before_->setObjectName("cardBefore");
  before_->setToolTip(tr("The record before this one in the sheet (Page Up in a field)"));
  after_ = new QPushButton(tr("After"), head);
  after_->setObjectName("cardAfter");
  after_->setToolTip(tr("The record after this one in the sheet (Page Down in a field)"));
  auto* toSheet = new QPushButton(tr("To the sheet"), head);
  toSheet->setObjectName("cardToSheet");
  toSheet->setToolTip(tr("The card goes back beside the sheet (F4)"));
  line->addWidget(find_, 1);
  line->addWidget(before_);
  line->addWidget(after_);
  line->addStretch(1);
  line->addWidget(toSheet);
  head->hide();
  connect(before_, &QPushButton::clicked, this, [this] { step(-1); });
  connect(after_, &QPushButton::clicked, this, [this] { step(1); });
  connect(toSheet, &QPushButton::clicked, this, &CardPanel::leaveAsked);
  connect(find_, &CardFind::found, this, &CardPanel::recordAsked);
  connect(find_, &CardFind::foundNew, this, [this](std::uint64_t id) {
    const auto row = model_.rowOfAdded(id);
    if (row) emit rowAsked(*row);
    if (CardField* field = nextField(0, 1)) field->setFocus();
  });
  connect(find_, &CardFind::newAsked, this,
          [this](const std::string& column, const Value& value) { addRecord(std::pair(column, value)); });
  connect(find_, &CardFind::left, this, &CardPanel::leaveAsked);
}

void CardPanel::build() {
  body_ = new QWidget(scroll_);
  body_->setObjectName("page");
  auto* layout = new QVBoxLayout(body_);
  layout->setContentsMargins(0, 8, 4, 8);
  layout->setSpacing(0);
  grid_ = new QGridLayout;
  grid_->setHorizontalSpacing(28);
  grid_->setVerticalSpacing(0);
  layout->addLayout(grid_);
  for (int c = 0; c < model_.ownColumns(); ++c) {
    fields_.push_back(new CardField(model_, c, body_));
    connectField(fields_.back());
  }
  dropMark_ = new QFrame(body_);
  dropMark_->setStyleSheet(QStringLiteral("background: %1;").arg(css(roles().blue)));
  dropMark_->hide();
  takeForm();
  connect(&model_.desk().kept(), &KeptSettings::formsChanged, this, [this] {
    takeForm();
    refresh();
  });
  incoming_ = new CardIncoming(model_, body_);
  connect(incoming_, &CardIncoming::openAsked, this, &CardPanel::openAsked);
  connect(incoming_, &CardIncoming::said, this, &CardPanel::said);
  connect(incoming_, &CardIncoming::sheetMade, this, &CardPanel::childSheetMade);
  layout->addWidget(incoming_);
  layout->addStretch(1);
  scroll_->setWidget(body_);
}

void CardPanel::connectField(CardField* field) {
  connect(field, &CardField::editAsked, this, [this, field](const QString& start) { edit(field, start); });
  connect(field, &CardField::emptied, this, [this, field] {
    const auto staged = model_.stage({model_.index(row_, field->column())}, Value(), tr("no value"));
    if (!staged) emit said(toQ(staged.error().message));
  });
  connect(field, &CardField::left, this, [this] { alone_ ? find_->focusLine() : emit leaveAsked(); });
  connect(field, &CardField::stepAsked, this, &CardPanel::step);
  connect(field, &CardField::pinAsked, this, [this, field] { pin(field); });
  connect(field, &CardField::moveAsked, this, [this, field](int step) { moveField(field, step); });
  connect(field, &CardField::dragged, this, [this, field](const QPoint& to) { showDrop(field, to); });
  connect(field, &CardField::dropped, this, [this, field](const QPoint& to) { drop(field, to); });
  connect(field, &CardField::menuAsked, this, &CardPanel::menuAsked);
  connect(field, &CardField::entered, this, [this, field] {
    lastColumn_ = field->column();
    scroll_->ensureWidgetVisible(field, 0, 20);
    emit fieldEntered(field->column());
  });
}

// One below the other; alone and with room, two beside each other, a long text over both.
void CardPanel::layOut() {
  constexpr int kRoomForTwo = 720;
  const int columns = alone_ && width() >= kRoomForTwo ? 2 : 1;
  const auto wideOnes = static_cast<int>(
      columns == 1 ? 0 : std::count_if(fields_.begin(), fields_.end(), [](const CardField* f) { return f->isWide(); }));
  if (shownColumns_ == columns && shownAlone_ == alone_ && shownWide_ == wideOnes) return;
  shownWide_ = wideOnes;
  shownColumns_ = columns;
  shownAlone_ = alone_;
  while (QLayoutItem* item = grid_->takeAt(0)) delete item;
  grid_->setColumnStretch(0, 1);
  grid_->setColumnStretch(1, columns == 2 ? 1 : 0);
  int row = 0;
  int column = 0;
  const auto nextRow = [&row, &column] {
    ++row;
    column = 0;
  };
  for (const Group& group : groups_) {
    if (column > 0) nextRow();
    if (group.heading != nullptr) {
      grid_->addWidget(group.heading, row, 0, 1, columns);
      nextRow();
    }
    for (CardField* field : group.fields) {
      const bool wide = columns == 1 || field->isWide();
      if (wide && column > 0) nextRow();
      grid_->addWidget(field, row, column, 1, wide && columns == 2 ? 2 : 1, Qt::AlignTop);
      field->setSizePolicy(field->sizePolicy());
      column += wide ? columns : 1;
      if (column >= columns) nextRow();
    }
  }
}

// --- arranging the fields --------------------------------------------------------------------------------------------

void CardPanel::takeForm() {
  for (const Group& group : groups_) delete group.heading;
  groups_.clear();
  order_.clear();
  for (CardField* field : fields_) field->hide();
  const Table& table = model_.table();
  QWidget* before = nullptr;
  for (const FormGroup& group : model_.desk().kept().form(table).groups) {
    Group shown;
    if (!group.heading.empty()) {
      shown.heading = new QLabel(toQ(group.heading), body_);
      shown.heading->setObjectName("cardHeading");
      shown.heading->setTextFormat(Qt::PlainText);
      shown.heading->setFont(serif(1.15));
      shown.heading->setContentsMargins(6, groups_.empty() ? 2 : 16, 0, 4);
      shown.heading->show();
    }
    for (const FormField& said : group.fields) {
      const auto at = table.columnIndex(said.column);
      if (!at || *at >= fields_.size()) continue;
      CardField* field = fields_[*at];
      field->setWords(toQ(said.label), toQ(said.hint));
      field->setVisible(true);
      if (before != nullptr) setTabOrder(before, field);
      before = field;
      shown.fields.push_back(field);
      order_.push_back(field);
    }
    groups_.push_back(std::move(shown));
  }
  shownColumns_ = 0;  // all of it lies anew
  layOut();
}

std::optional<int> CardPanel::arrangedColumn() const {
  if (row_ < 0 || lastColumn_ < 0 || placeOf(fields_[static_cast<std::size_t>(lastColumn_)]) < 0) return std::nullopt;
  return lastColumn_;
}

FormField CardPanel::arrangedField() const {
  const auto column = arrangedColumn();
  if (!column) return {};
  for (const FormGroup& group : model_.desk().kept().form(model_.table()).groups) {
    for (const FormField& field : group.fields) {
      if (field.column == model_.column(*column).name) return field;
    }
  }
  return {};
}

QString CardPanel::arrangedHeading() const {
  const auto column = arrangedColumn();
  for (const Group& group : groups_) {
    const bool first = column && !group.fields.empty() && group.fields.front()->column() == *column;
    if (first && group.heading != nullptr) return group.heading->text();
  }
  return {};
}

void CardPanel::arrange(const std::function<void(Form&)>& how) {
  const auto column = arrangedColumn();
  Form form = model_.desk().kept().form(model_.table());
  how(form);
  model_.desk().kept().saveForms({form});
  if (column && placeOf(fields_[static_cast<std::size_t>(*column)]) >= 0)
    fields_[static_cast<std::size_t>(*column)]->setFocus();
  else if (!order_.empty())
    order_.front()->setFocus();
}

void CardPanel::moveField(const CardField* field, int step) {
  const std::string name = model_.column(field->column()).name;
  arrange([&](Form& form) { iterandum::moveField(form, name, step); });
}

CardField* CardPanel::fieldBelow(const QPoint& place, const CardField* carried) const {
  for (CardField* field : order_) {
    if (field == carried) continue;
    const QRect there = field->geometry();
    const bool beside = shownColumns_ == 1 || there.width() > body_->width() / 2 ||
                        (place.x() >= there.left() && place.x() <= there.right());
    if (beside && place.y() < there.center().y()) return field;
  }
  return nullptr;
}

void CardPanel::showDrop(const CardField* field, const QPoint& to) {
  const CardField* below = fieldBelow(to, field);
  const QRect last = order_.back()->geometry();
  dropMark_->setGeometry(below != nullptr ? QRect(below->x(), below->y() - 1, below->width(), 3)
                                          : QRect(last.x(), last.bottom(), last.width(), 3));
  dropMark_->raise();
  dropMark_->show();
}

void CardPanel::drop(const CardField* field, const QPoint& to) {
  dropMark_->hide();
  const CardField* below = fieldBelow(to, field);
  const std::string name = model_.column(field->column()).name;
  const std::string before = below == nullptr ? std::string() : model_.column(below->column()).name;
  arrange([&](Form& form) { moveFieldBefore(form, name, before); });
}

void CardPanel::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  layOut();
}

void CardPanel::setAlone(bool alone) {
  alone_ = alone;
  head_->setVisible(alone);
  incoming_->setInPlace(alone);
  // As far in as the sentence above it.
  alone ? layout()->setContentsMargins(47, 6, 20, 8) : layout()->setContentsMargins(18, 14, 14, 8);
  layOut();
}

SheetView* CardPanel::childWithKeys() const { return incoming_->viewWithKeys(); }
bool CardPanel::showsChildren(const TableName& child) const { return alone_ && incoming_->shows(child); }

void CardPanel::focusFind() { find_->focusLine(); }

void CardPanel::show(int row) {
  row_ = row >= 0 && row < model_.rowCount() ? row : -1;
  body_->setVisible(row_ >= 0);
  incoming_->show(row_);
  refresh();
}

void CardPanel::refresh() {
  if (row_ >= model_.rowCount()) row_ = -1;
  before_->setEnabled(row_ > 0);
  after_->setEnabled(row_ >= 0 && row_ + 1 < model_.rowCount());
  if (row_ < 0) {
    title_->setText(tr("No record"));
    subtitle_->setText(alone_ ? tr("Type a key above, or choose a record in the sheet.")
                              : tr("Choose a record in the sheet to see it whole."));
    return;
  }
  title_->setText(
      QFontMetrics(title_->font()).elidedText(model_.recordTitle(row_), Qt::ElideRight, std::max(120, width() - 40)));
  const Mark mark = model_.mark(row_);
  QString text = toQ(model_.table().name.name);
  if (!model_.ref(row_).isAdded()) {
    text += tr(" · record %1 of %2").arg(QLocale().toString(row_ + 1), QLocale().toString(model_.source().rows()));
  }
  if (mark != Mark::None) text += QStringLiteral(" · ") + markName(mark);
  subtitle_->setText(text);
  for (CardField* field : fields_) field->show(row_);
  layOut();
}

void CardPanel::focusField(int column) {
  if (order_.empty()) return;
  const auto at = static_cast<std::size_t>(std::max(0, column));
  CardField* field = at < fields_.size() ? fields_[at] : nullptr;
  (placeOf(field) >= 0 ? field : order_.front())->setFocus();
}

void CardPanel::followColumn(int column) {
  const auto hasKeys = [](const CardField* field) { return field->hasFocus(); };
  if (std::any_of(fields_.begin(), fields_.end(), hasKeys)) focusField(column);
}

void CardPanel::step(int records) {
  if (row_ < 0) return;
  const int last = model_.rowCount() - 1;
  const int row = records == INT_MAX ? last : (records == INT_MIN ? 0 : std::clamp(row_ + records, 0, last));
  if (row != row_) emit rowAsked(row);
}

// --- editing ---------------------------------------------------------------------------------------------------------

bool CardPanel::canBeTyped(int column) const {
  const Column& described = model_.column(column);
  if (row_ >= 0 && model_.ref(row_).isAdded() && described.generatedKey) return false;
  return model_.columnNotEditable(column).isEmpty() && !described.computed;
}

CardField* CardPanel::nextField(int from, int step) const {
  for (int at = from; at >= 0 && at < static_cast<int>(order_.size()); at += step) {
    CardField* field = order_[static_cast<std::size_t>(at)];
    if (canBeTyped(field->column())) return field;
  }
  return nullptr;
}

int CardPanel::placeOf(const CardField* field) const {
  const auto at = std::find(order_.begin(), order_.end(), field);
  return at == order_.end() ? -1 : static_cast<int>(at - order_.begin());
}

void CardPanel::edit(CardField* field, const QString& start) {
  if (row_ < 0) return;
  const QString reason = model_.notEditable(row_, field->column());
  if (!reason.isEmpty()) return emit said(reason);
  auto* editor =
      new CellEditor(model_, model_.index(row_, field->column()), field->cell(), start, !start.isEmpty(), body_);
  connect(editor, &CellEditor::finished, this, [this, editor, field](CellEditor::Leave leave) {
    editor->deleteLater();
    finished(field, leave);
  });
  connect(editor, &CellEditor::cancelled, this, [editor, field] {
    editor->deleteLater();
    field->setFocus();
  });
  editor->show();
  editor->setFocus();
}

void CardPanel::finished(const CardField* field, CellEditor::Leave leave) {
  if (leave == CellEditor::Leave::Stay) return;
  const bool back = leave == CellEditor::Leave::Left || leave == CellEditor::Leave::Up;
  if (CardField* next = nextField(placeOf(field) + (back ? -1 : 1), back ? -1 : 1)) return next->setFocus();
  // Behind the last field of a new record comes the next new one.
  if (!back && alone_ && model_.ref(row_).isAdded()) return addRecord();
  fields_[static_cast<std::size_t>(field->column())]->setFocus();
}

void CardPanel::pin(CardField* field) {
  if (row_ < 0 || !model_.ref(row_).isAdded()) {
    return emit said(tr("Values are kept from one new record to the next; this one is in the database already."));
  }
  field->setPinned(!field->pinned());
}

void CardPanel::togglePin() {
  for (CardField* field : fields_) {
    if (field->hasFocus()) pin(field);
  }
}

void CardPanel::addRecord(const std::optional<std::pair<std::string, Value>>& with) {
  if (const QString why = model_.cannotAdd(); !why.isEmpty()) return emit said(why);
  std::vector<std::pair<std::string, Value>> cells;
  const bool fromNew = row_ >= 0 && model_.ref(row_).isAdded();
  for (const CardField* field : fields_) {
    const std::string& name = model_.column(field->column()).name;
    if (!field->pinned() || !fromNew || (with && with->first == name)) continue;
    const CellState state = model_.cell(row_, field->column());
    if (!state.setByDatabase) cells.emplace_back(name, state.stored);
  }
  if (with) cells.push_back(*with);
  const std::uint64_t id = model_.desk().staged().stageAddition(model_.table(), cells);
  const auto row = model_.rowOfAdded(id);
  if (!row) return;
  emit rowAsked(*row);
  for (CardField* field : order_) {
    const std::string& name = model_.column(field->column()).name;
    const bool given = std::any_of(cells.begin(), cells.end(), [&](const auto& cell) { return cell.first == name; });
    if (given || !canBeTyped(field->column())) continue;
    return field->setFocus();
  }
}

}  // namespace iterandum
