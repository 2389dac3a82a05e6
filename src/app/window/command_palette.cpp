#include "app/window/command_palette.h"

#include <QApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPointer>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

#include "app/style/roles.h"
#include "app/values/match_rank.h"

namespace iterandum {
namespace {

class EntryPainter : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {200, 28}; }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Roles& r = roles();
    painter->save();
    const bool selected = (option.state & QStyle::State_Selected) != 0;
    if (selected) painter->fillRect(option.rect, r.blueWash);
    const bool enabled = index.data(Qt::UserRole + 1).toBool();
    const QRect box = option.rect.adjusted(10, 0, -10, 0);
    painter->setFont(plain());
    painter->setPen(r.soft);
    const QString aside = index.data(Qt::UserRole).toString();
    painter->drawText(box, Qt::AlignRight | Qt::AlignVCenter, aside);
    painter->setPen(enabled ? (selected ? r.blue : r.ink) : r.faint);
    const int room = box.width() - painter->fontMetrics().horizontalAdvance(aside) - 16;
    painter->drawText(box, Qt::AlignLeft | Qt::AlignVCenter,
                      painter->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, room));
    painter->restore();
  }
};

}  // namespace

CommandPalette::CommandPalette(QWidget* parent) : QFrame(parent) {
  setObjectName("palette");
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(10, 10, 10, 10);
  line_ = new QLineEdit(this);
  line_->setObjectName("paletteLine");
  line_->setPlaceholderText(tr("Find a table or a command"));
  line_->setAccessibleName(tr("Find a table or a command"));
  line_->setMinimumHeight(32);
  list_ = new QListWidget(this);
  list_->setObjectName("paletteList");
  list_->setFocusPolicy(Qt::NoFocus);
  list_->setItemDelegate(new EntryPainter(list_));
  layout->addWidget(line_);
  layout->addWidget(list_, 1);
  line_->installEventFilter(this);
  connect(line_, &QLineEdit::textChanged, this, &CommandPalette::narrow);
  connect(list_, &QListWidget::itemClicked, this, [this] { runCurrent(); });
  hide();
}

void CommandPalette::ask(const QString& prompt, const QString& start, std::vector<Entry> entries,
                         std::function<void(const QString&)> done) {
  open(std::move(entries), prompt);
  asked_ = std::move(done);
  line_->setText(start);
  line_->selectAll();
  list_->setCurrentRow(-1);
}

void CommandPalette::askOrNone(const QString& prompt, const QString& start, std::function<void(const QString&)> done) {
  ask(prompt, start, {{prompt, {}, false, {}}}, std::move(done));
  noneIsAnswer_ = true;
  narrow(start);
  constexpr int kQuestion = 100;  // its line, and the question below
  resize(width(), std::min(height(), kQuestion));
}

void CommandPalette::open(std::vector<Entry> entries, const QString& prompt) {
  entries_ = std::move(entries);
  asked_ = {};
  noneIsAnswer_ = false;
  line_->setPlaceholderText(prompt.isEmpty() ? tr("Find a table or a command") : prompt);
  line_->setAccessibleName(line_->placeholderText());
  before_ = QApplication::focusWidget();
  const int width = std::min(620, parentWidget()->width() - 40);
  const int height = std::min(440, parentWidget()->height() - 120);
  setGeometry((parentWidget()->width() - width) / 2, 54, width, height);
  line_->clear();
  narrow({});
  show();
  raise();
  line_->setFocus();
}

void CommandPalette::narrow(const QString& text) {
  shown_.clear();
  list_->clear();
  const QStringList words = text.split(QLatin1Char(' '), Qt::SkipEmptyParts);
  for (std::size_t i = 0; i < entries_.size(); ++i) {
    const bool fits = std::all_of(words.begin(), words.end(),
                                  [&](const QString& w) { return entries_[i].text.contains(w, Qt::CaseInsensitive); });
    if (fits || noneIsAnswer_) shown_.push_back(i);  // there the question stands below what is typed
  }
  const QString typed = text.trimmed();
  std::stable_sort(shown_.begin(), shown_.end(), [&](std::size_t a, std::size_t b) {
    return matchRank(entries_[a].text, typed) < matchRank(entries_[b].text, typed);
  });
  for (const std::size_t i : shown_) {
    auto* item = new QListWidgetItem(entries_[i].text, list_);
    item->setData(Qt::UserRole, entries_[i].aside);
    item->setData(Qt::UserRole + 1, entries_[i].enabled);
    item->setData(Qt::AccessibleTextRole, entries_[i].text + QStringLiteral(", ") + entries_[i].aside);
  }
  if (shown_.empty() && !asked_) {
    auto* nothing = new QListWidgetItem(tr("Nothing is called so."), list_);
    nothing->setFlags(Qt::NoItemFlags);
    nothing->setData(Qt::UserRole + 1, false);
  }
  list_->setCurrentRow(asked_ ? -1 : 0);
}

void CommandPalette::leave() {
  hide();
  if (before_ != nullptr) before_->setFocus();
}

void CommandPalette::runCurrent() {
  if (asked_ && list_->currentRow() < 0) {
    const QString text = line_->text().trimmed();
    if (text.isEmpty() && !noneIsAnswer_) return;
    const auto done = std::exchange(asked_, {});
    leave();
    return done(text);
  }
  const int row = list_->currentRow();
  if (row < 0 || row >= static_cast<int>(shown_.size())) return;
  const Entry entry = entries_[shown_[static_cast<std::size_t>(row)]];
  if (!entry.enabled) return;
  leave();
  entry.run();
}

bool CommandPalette::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Escape) {
      leave();
      return true;
    }
    if (key == Qt::Key_Return || key == Qt::Key_Enter) {
      runCurrent();
      return true;
    }
    constexpr int kPage = 10;
    const std::pair<int, int> steps[] = {
        {Qt::Key_Down, 1}, {Qt::Key_Up, -1}, {Qt::Key_PageDown, kPage}, {Qt::Key_PageUp, -kPage}};
    for (const auto& [moving, step] : steps) {
      if (key != moving) continue;
      list_->setCurrentRow(std::clamp(list_->currentRow() + step, 0, std::max(0, list_->count() - 1)));
      return true;
    }
  }
  if (event->type() == QEvent::FocusOut && isVisible()) {
    // Another window in front for a while (a menu that is just going, another program) is no leaving.
    const Qt::FocusReason reason = static_cast<QFocusEvent*>(event)->reason();
    const bool aside = reason == Qt::ActiveWindowFocusReason || reason == Qt::PopupFocusReason;
    const QWidget* to = QApplication::focusWidget();
    if (!aside && (to == nullptr || !isAncestorOf(to))) hide();
  }
  return QFrame::eventFilter(watched, event);
}

}  // namespace iterandum
