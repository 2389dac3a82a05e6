#include "app/card/card_find.h"

#include <QApplication>
#include <QFrame>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QTimer>
#include <QVBoxLayout>

#include "app/records/record_search.h"
#include "app/style/roles.h"

namespace iterandum {
namespace {
constexpr std::uint64_t kMostOffers = 12;
constexpr int kTypingPauseMs = 120;
}  // namespace

CardFind::CardFind(SheetModel& model, QWidget* parent) : QWidget(parent), model_(model) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  line_ = new QLineEdit(this);
  line_->setObjectName("cardFind");
  line_->setFont(plain());
  line_->setAccessibleName(tr("Key, or part of the name"));
  line_->setPlaceholderText(tr("Key, or part of the name: shows it, or adds it"));
  line_->installEventFilter(this);
  layout->addWidget(line_);
  popup_ = new QFrame(this);
  popup_->setObjectName("palette");
  auto* inside = new QVBoxLayout(popup_);
  inside->setContentsMargins(6, 6, 6, 6);
  list_ = new QListWidget(popup_);
  list_->setObjectName("cardFound");
  list_->setAccessibleName(tr("Records that are called so"));
  list_->setFont(plain());
  list_->setFocusPolicy(Qt::NoFocus);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  words_ = new QLabel(popup_);
  words_->setObjectName("cardFindWords");
  words_->setWordWrap(true);
  words_->setTextFormat(Qt::PlainText);
  inside->addWidget(list_);
  inside->addWidget(words_);
  popup_->hide();
  connect(this, &QObject::destroyed, popup_, &QObject::deleteLater);
  soon_ = new QTimer(this);
  soon_->setSingleShot(true);
  soon_->setInterval(kTypingPauseMs);
  connect(soon_, &QTimer::timeout, this, &CardFind::ask);
  connect(line_, &QLineEdit::textEdited, this, [this] {
    waiting_ = true;
    takeWhenHere_ = false;
    ++asked_;
    soon_->start();
  });
  connect(list_, &QListWidget::itemClicked, this, &CardFind::take);
  setFocusProxy(line_);
}

void CardFind::focusLine() {
  line_->setFocus();
  line_->selectAll();
}

void CardFind::fold() {
  popup_->hide();
  offers_.clear();
  list_->clear();
}

std::optional<std::pair<std::string, Value>> CardFind::newBy(const QString& text) const {
  const Table& table = model_.table();
  if (!model_.cannotAdd().isEmpty()) return std::nullopt;
  const auto fits = [&](const Column& column) -> std::optional<std::pair<std::string, Value>> {
    if (column.generatedKey || column.computed || !column.notEditable.empty()) return std::nullopt;
    auto value = model_.typed(static_cast<int>(*table.columnIndex(column.name)), text);
    if (!value || value->isNull()) return std::nullopt;
    return std::pair(column.name, std::move(*value));
  };
  for (const UniqueKey& key : table.keys) {
    if (key.columns.size() != 1) continue;
    if (auto by = fits(table.columns[key.columns[0]])) return by;
  }
  for (const std::string& name : model_.desk().names().readable(table)) {
    const Column* column = table.column(name);
    if (column == nullptr || column->type != TypeClass::Text) continue;
    if (auto by = fits(*column)) return by;
  }
  return std::nullopt;
}

// New records that are staged and hold the text somewhere.
std::vector<CardFind::Offer> CardFind::stagedOnes(const QString& text) const {
  std::vector<Offer> out;
  const TableChanges* changes = model_.desk().changes().table(model_.table().name);
  if (changes == nullptr) return out;
  for (const auto& [id, record] : changes->added()) {
    for (const auto& [column, value] : record.cells) {
      if (!value.isString() || !toQ(canonicalText(value)).contains(text, Qt::CaseInsensitive)) continue;
      out.push_back({tr("%1   ·   new, goes on with it").arg(toQ(canonicalText(value)).left(60)),
                     [this, id = id] { emit const_cast<CardFind*>(this)->foundNew(id); }});
      break;
    }
    if (out.size() == kMostOffers) break;
  }
  return out;
}

// By key and other unique values first, which an index finds; only where that finds nothing, by parts of names.
void CardFind::ask() {
  const QString text = line_->text().trimmed();
  const std::uint64_t asked = ++asked_;
  if (asking_) asking_->cancel();
  if (text.isEmpty()) {
    waiting_ = false;
    return fold();
  }
  const Table& table = model_.table();
  const std::vector<std::string> readable = model_.desk().names().readable(table);
  Query exact;
  exact.table = &table;
  exact.columns = table.writeKeyColumns();
  exact.columns.insert(exact.columns.end(), readable.begin(), readable.end());
  exact.where = namedExactly(table, text);
  exact.limit = kMostOffers;
  Query like = exact;
  like.where = calledLike(readable, text);
  if (!readable.empty()) like.order = {{readable[0], false}};
  const bool canBeExact = exact.where.op != Condition::Op::All;
  const bool canBeLike = !readable.empty();
  using Found = std::pair<std::vector<ValueTuple>, bool>;
  asking_ = model_.desk().front().post(
      this,
      [exact, like, canBeExact, canBeLike](Session& session, Progress& progress) -> Result<Found> {
        Found out;
        const RowSink take = [&](ValueTuple&& row) {
          out.first.push_back(std::move(row));
          return true;
        };
        if (canBeExact) ITERANDUM_TRY(session.select(exact, take, progress));
        out.second = !out.first.empty();
        if (!out.second && canBeLike) ITERANDUM_TRY(session.select(like, take, progress));
        return out;
      },
      [this, asked](Result<Found>&& found) {
        if (asked != asked_) return;
        waiting_ = false;
        if (found) return takeFound(std::move(found->first), found->second);
        if (found.error().kind != ErrorKind::Cancelled) show({}, toQ(found.error().text()));
      });
}

void CardFind::takeFound(std::vector<ValueTuple>&& rows, bool exact) {
  const QString text = line_->text().trimmed();
  const std::size_t keys = model_.table().writeKeyColumns().size();
  std::vector<Offer> offers;
  for (const ValueTuple& row : rows) {
    QStringList parts;
    for (std::size_t c = keys; c < row.size(); ++c) {
      if (!row[c].isNull()) parts << toQ(canonicalText(row[c])).simplified().left(60);
    }
    const ValueTuple key(row.begin(), row.begin() + static_cast<std::ptrdiff_t>(keys));
    const QString called =
        parts.isEmpty() ? toQ(recordInWords(model_.table().name, key)) : parts.join(QStringLiteral(", "));
    offers.push_back({tr("%1   ·   shows it, to change it").arg(called), [this, key] { emit found(key); }});
  }
  for (Offer& staged : stagedOnes(text)) offers.push_back(std::move(staged));
  if (!exact) {
    if (auto by = newBy(text)) {
      offers.push_back({tr("New record with %1 “%2”").arg(toQ(by->first), text),
                        [this, by = *by] { emit newAsked(by.first, by.second); }});
    }
  }
  const bool full = rows.size() == kMostOffers;
  show(std::move(offers),
       rows.empty() ? tr("No record is called so.") : (full ? tr("There may be more; type more of it.") : QString()));
  // Only where there is nothing to choose, and nothing new is made before it was said.
  if (std::exchange(takeWhenHere_, false) && rows.size() == 1) take();
}

void CardFind::show(std::vector<Offer> offers, const QString& words) {
  offers_ = std::move(offers);
  list_->clear();
  for (const Offer& offer : offers_) list_->addItem(offer.text);
  // Several parts of names: somebody chooses. Else the one thing that Enter does is shown as chosen.
  if (!offers_.empty()) list_->setCurrentRow(0);
  words_->setText(words);
  words_->setVisible(!words.isEmpty());
  list_->setVisible(!offers_.empty());
  const int line = list_->count() > 0 ? std::max(20, list_->sizeHintForRow(0)) : 0;
  list_->setFixedHeight(std::min(8, list_->count()) * line + 6);
  popup_->setParent(window());
  popup_->setFixedWidth(std::max(320, width()));
  popup_->adjustSize();
  popup_->move(mapTo(window(), QPoint(0, height() + 2)));
  popup_->raise();
  popup_->show();
}

void CardFind::take() {
  const int row = list_->currentRow();
  if (row < 0 || row >= static_cast<int>(offers_.size())) return;
  const auto run = offers_[static_cast<std::size_t>(row)].run;
  fold();
  run();
}

bool CardFind::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::FocusOut) {
    const QWidget* to = QApplication::focusWidget();
    if (to == nullptr || !popup_->isAncestorOf(to)) popup_->hide();
  }
  if (event->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, event);
  switch (static_cast<QKeyEvent*>(event)->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (line_->text().trimmed().isEmpty()) return true;
      // Never what was offered for another text.
      if (waiting_ || !popup_->isVisible()) {
        takeWhenHere_ = true;
        soon_->stop();
        ask();
        return true;
      }
      take();
      return true;
    case Qt::Key_Down:
    case Qt::Key_Up: {
      if (!popup_->isVisible()) return false;
      const int step = static_cast<QKeyEvent*>(event)->key() == Qt::Key_Down ? 1 : -1;
      list_->setCurrentRow(std::clamp(list_->currentRow() + step, 0, std::max(0, list_->count() - 1)));
      return true;
    }
    case Qt::Key_Escape:
      if (popup_->isVisible()) {
        fold();
      } else {
        emit left();
      }
      return true;
    default:
      return QWidget::eventFilter(watched, event);
  }
}

}  // namespace iterandum
