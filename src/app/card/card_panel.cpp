#include "app/card/card_panel.h"

#include <QFocusEvent>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/cells/cell_editor.h"
#include "app/cells/cell_painter.h"
#include "app/records/column_values.h"
#include "app/style/roles.h"
#include "app/style/side_frame.h"
#include "core/scope/condition_text.h"

namespace iterandum {

static int labelWidthOf(const QWidget* field) {
  constexpr int kMost = 130;
  return std::min(field->width() * 2 / 5, kMost);
}

// One field of the card: painted like the sheet's cell, reached by Tab, opened by Enter, F2, typing or a double click.
class CardField : public QWidget {
 public:
  CardField(CardPanel& card, int column, QWidget* parent) : QWidget(parent), card_(card), column_(column) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(30);
    setObjectName(QStringLiteral("field-") + toQ(card.model_.column(column).name));
    setAccessibleName(toQ(card.model_.column(column).name));
    setAccessibleDescription(toQ(card.model_.column(column).comment));
    setToolTip(accessibleDescription());
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    const Roles& r = roles();
    if (card_.row_ < 0 || card_.row_ >= card_.model_.rowCount()) return;
    const CellState state = card_.model_.cell(card_.row_, column_);
    const bool query = state.needsALook();
    if (query) painter.fillRect(rect(), r.queryWash);
    if (state.staged && !query) painter.fillRect(rect(), r.blueWash);
    const int labelWidth = labelWidthOf(this);
    painter.setFont(plain(0.95));
    painter.setPen(r.soft);
    const QString name =
        painter.fontMetrics().elidedText(toQ(card_.model_.column(column_).name), Qt::ElideRight, labelWidth - 8);
    painter.drawText(QRect(6, 0, labelWidth, height() - 1), Qt::AlignVCenter, name);
    std::vector<TextRun> runs = cellRuns(card_.model_, column_, state);
    if (card_.model_.column(column_).computed) runs.push_back({QObject::tr("computed"), r.faint});
    drawRuns(&painter, QRect(labelWidth + 8, 0, width() - labelWidth - 14, height() - 1), plain(), runs, false);
    painter.setPen(QPen(r.rule, 1, Qt::DotLine));
    painter.drawLine(0, height() - 1, width(), height() - 1);
    if (hasFocus()) {
      painter.setPen(QPen(r.ink, 2));
      painter.drawRect(rect().adjusted(1, 1, -1, -2));
    }
  }
  void keyPressEvent(QKeyEvent* event) override {
    const QString text = event->text();
    switch (event->key()) {
      case Qt::Key_Return:
      case Qt::Key_Enter:
      case Qt::Key_F2:
        return card_.edit(column_, this);
      case Qt::Key_Down:
        focusNextChild();
        return;
      case Qt::Key_Up:
        focusPreviousChild();
        return;
      case Qt::Key_Escape:
        emit card_.leaveAsked();
        return;
      case Qt::Key_Delete: {
        const auto staged =
            card_.model_.stage({card_.model_.index(card_.row_, column_)}, Value(), QObject::tr("no value"));
        if (!staged) emit card_.said(toQ(staged.error().message));
        return;
      }
      default:
        break;
    }
    if (!text.isEmpty() && text[0].isPrint() && (event->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) == 0) {
      start_ = text;
      card_.edit(column_, this);
      return;
    }
    QWidget::keyPressEvent(event);
  }
  void mouseDoubleClickEvent(QMouseEvent*) override { card_.edit(column_, this); }
  void focusInEvent(QFocusEvent* event) override {
    card_.scroll_->ensureWidgetVisible(this, 0, 20);
    QWidget::focusInEvent(event);
    update();
  }

 public:
  QString takeStart() { return std::exchange(start_, QString()); }

 private:
  CardPanel& card_;
  int column_;
  QString start_;
};

CardPanel::CardPanel(SheetModel& model, QWidget* parent) : QWidget(parent), model_(model) {
  const auto [layout, title, subtitle] = buildPanelHead(this);
  title_ = title;
  title_->setObjectName("cardTitle");
  subtitle_ = subtitle;
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

void CardPanel::build() {
  body_ = new QWidget(scroll_);
  body_->setObjectName("page");
  auto* layout = new QVBoxLayout(body_);
  layout->setContentsMargins(0, 8, 4, 8);
  layout->setSpacing(0);
  for (int c = 0; c < model_.ownColumns(); ++c) {
    auto* field = new CardField(*this, c, body_);
    fields_.push_back(field);
    layout->addWidget(field);
  }
  incoming_ = new QWidget(body_);
  incoming_->setObjectName("incoming");
  auto* lines = new QVBoxLayout(incoming_);
  lines->setContentsMargins(6, 16, 0, 0);
  lines->setSpacing(0);
  layout->addWidget(incoming_);
  layout->addStretch(1);
  scroll_->setWidget(body_);
}

void CardPanel::show(int row) {
  row_ = row >= 0 && row < model_.rowCount() ? row : -1;
  body_->setVisible(row_ >= 0);
  showIncoming({}, {});
  ++counting_;
  refresh();
  if (row_ >= 0) countIncoming();
}

void CardPanel::refresh() {
  if (row_ >= model_.rowCount()) row_ = -1;
  if (row_ < 0) {
    title_->setText(tr("No record"));
    subtitle_->setText(tr("Choose a record in the sheet to see it whole."));
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
  for (QWidget* field : fields_) field->update();
}

void CardPanel::focusField(int column) {
  if (fields_.empty()) return;
  const auto at = static_cast<std::size_t>(std::max(0, column));
  fields_[at < fields_.size() ? at : 0]->setFocus();
}

std::vector<CardPanel::Incoming> CardPanel::incomingOf(const ValueTuple& record) const {
  std::vector<Incoming> out;
  const Catalogue& catalogue = model_.desk().catalogue();
  for (const IncomingReference& in : catalogue.referencesTo(model_.table().name)) {
    const Table& child = catalogue.tables()[in.table];
    const Reference& reference = child.references[in.reference];
    Incoming one{&child, {}, {displayName(child.name), {}, {}, {}}};
    bool usable = !reference.targetMissing;
    for (std::size_t k = 0; k < reference.columns.size() && usable; ++k) {
      const auto at = model_.table().columnIndex(reference.targetColumns[k]);
      usable = at.has_value();
      if (!usable) break;
      Condition part;
      part.op = Condition::Op::Equal;
      part.column = child.columns[reference.columns[k]].name;
      part.value = record[*at];
      one.scope.filters.push_back({part.column, filterFor(record[*at]).toStdString()});
      one.where = bothHold(std::move(one.where), std::move(part));
    }
    if (usable) out.push_back(std::move(one));
  }
  return out;
}

void CardPanel::countIncoming() {
  const RecordRef ref = model_.ref(row_);
  const ValueTuple* record = ref.isAdded() ? nullptr : model_.source().record(row_);
  if (record == nullptr) return;
  const std::vector<Incoming> incoming = incomingOf(*record);
  if (incoming.empty()) return;
  const std::uint64_t counting = ++counting_;
  model_.desk().behind().post(
      this,
      [incoming](Session& session, Progress& progress) -> Result<std::vector<std::uint64_t>> {
        std::vector<std::uint64_t> counts;
        for (const Incoming& one : incoming) {
          Query query;
          query.table = one.table;
          query.where = one.where;
          ITERANDUM_ASSIGN(const std::uint64_t n, session.count(query, progress));
          counts.push_back(n);
        }
        return counts;
      },
      [this, incoming, counting](Result<std::vector<std::uint64_t>>&& counts) {
        if (counts && counting == counting_) showIncoming(incoming, *counts);
      });
}

void CardPanel::showIncoming(const std::vector<Incoming>& incoming, const std::vector<std::uint64_t>& counts) {
  qDeleteAll(incoming_->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
  if (incoming.empty()) return;
  auto* head = new QLabel(tr("Points at this record"), incoming_);
  head->setFont(serif());
  incoming_->layout()->addWidget(head);
  for (std::size_t i = 0; i < incoming.size(); ++i) {
    const QString name = toQ(incoming[i].table->name.name);
    const QString count = QLocale().toString(static_cast<qulonglong>(counts[i]));
    auto* line = new QPushButton(QStringLiteral("%1   %2   →").arg(name, count), incoming_);
    line->setObjectName("line");
    line->setAccessibleName(tr("%1 of %2 point here; open them").arg(count, name));
    line->setToolTip(tr("Opens these records as a sheet"));
    line->setEnabled(counts[i] > 0);
    connect(line, &QPushButton::clicked, this, [this, scope = incoming[i].scope] { emit openAsked(scope); });
    incoming_->layout()->addWidget(line);
    line->show();
  }
}

void CardPanel::edit(int column, QWidget* field) {
  if (row_ < 0) return;
  const QString reason = model_.notEditable(row_, column);
  if (!reason.isEmpty()) {
    emit said(reason);
    return;
  }
  const QString start = static_cast<CardField*>(field)->takeStart();
  const int labelWidth = labelWidthOf(field);
  const QRect cell(field->x() + labelWidth, field->y(), field->width() - labelWidth, field->height());
  auto* editor = new CellEditor(model_, model_.index(row_, column), cell, start, !start.isEmpty(), body_);
  connect(editor, &CellEditor::finished, this, [this, editor, column](CellEditor::Leave leave) {
    editor->deleteLater();
    const auto at = static_cast<std::size_t>(column);
    if (leave == CellEditor::Leave::Stay) return;
    const bool back = leave == CellEditor::Leave::Left || leave == CellEditor::Leave::Up;
    const std::size_t next = back ? (at > 0 ? at - 1 : 0) : std::min(at + 1, fields_.size() - 1);
    fields_[next]->setFocus();
  });
  connect(editor, &CellEditor::cancelled, this, [editor, field] {
    editor->deleteLater();
    field->setFocus();
  });
  editor->show();
  editor->setFocus();
}

}  // namespace iterandum
