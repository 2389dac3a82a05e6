#include "app/review/finding_editor.h"

#include <QLabel>
#include <QVBoxLayout>

namespace iterandum {
namespace {
constexpr int kHeight = 34;

// The record alone.
Condition only(const RecordRef& record) {
  Condition out;
  out.op = Condition::Op::Among;
  KeyList keys;
  for (const Value& part : record.key) keys.keys.emplace_back(1, part);
  out.keys = std::make_shared<KeyList>(std::move(keys));
  return out;
}

}  // namespace

FindingEditor::FindingEditor(Desk& desk, const Table& table, const RecordRef& record, int column, QWidget* parent)
    : QFrame(parent), model_(desk, table), record_(record), column_(column), words_(new QLabel(tr("reading…"), this)) {
  setObjectName("findingEditor");
  setFixedHeight(kHeight);
  setMinimumWidth(220);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(6, 0, 6, 0);
  layout->addWidget(words_);
  model_.source().setCountsTable(false);
  model_.setWritesOverOthers(true);
  connect(&model_, &SheetModel::said, this, &FindingEditor::said);
  connect(&model_.source(), &RecordSource::loaded, this, &FindingEditor::open);
  connect(&model_.source(), &RecordSource::failed, this,
          [this](const QString& why) { emit said(tr("The record could not be read: %1").arg(why)); });
  if (record.isAdded()) {
    // Nothing has to be read: what is staged is all there is of it.
    model_.setHeldByAll({});
    QMetaObject::invokeMethod(this, &FindingEditor::open, Qt::QueuedConnection);
    return;
  }
  model_.source().want(0, 0);
  model_.source().read(only(record), {});
}

void FindingEditor::open() {
  if (editor_ != nullptr) return;
  const std::optional<int> row = record_.isAdded() ? model_.rowOfAdded(record_.addedId) : 0;
  if (!row || *row >= model_.rowCount()) return;
  const QModelIndex index = model_.index(*row, column_);
  if (!record_.isAdded() && !model_.cell(*row, column_).loaded) return model_.source().want(0, 0);
  if (const QString reason = model_.notEditable(*row, column_); !reason.isEmpty()) {
    words_->setText(reason);
    return;
  }
  words_->hide();
  editor_ = new CellEditor(model_, index, rect(), {}, false, this);
  if (forMany_) {
    editor_->setForMany(CellEditor::Many::Always);
    connect(editor_, &CellEditor::forAll, this, [this](const QString& text, const std::optional<Value>& chosen) {
      const Result<Value> value = chosen ? Result<Value>(*chosen) : model_.typed(column_, text);
      if (!value) return editor_->showReason(toQ(value.error().message));
      editor_->finishAs(CellEditor::Leave::Stay);
      emit valueChosen(*value);
    });
  }
  connect(editor_, &CellEditor::finished, this, [this] { emit cancelled(); });
  connect(editor_, &CellEditor::cancelled, this, &FindingEditor::cancelled);
  editor_->show();
  editor_->setFocus();
}

void FindingEditor::resizeEvent(QResizeEvent* event) {
  if (editor_ != nullptr) editor_->setGeometry(rect());
  QFrame::resizeEvent(event);
}

}  // namespace iterandum
