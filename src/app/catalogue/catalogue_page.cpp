#include "app/catalogue/catalogue_page.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QLocale>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QUrl>
#include <QVBoxLayout>
#include <set>

#include "app/style/roles.h"
#include "app/values/match_rank.h"

namespace iterandum {

QString tableInWords(const Catalogue& catalogue, const Table& table) {
  QStringList words;
  if (!table.comment.empty()) words << toQ(table.comment).simplified();
  if (table.kind == TableKind::View) words << QObject::tr("a view");
  if (!table.unusable.empty()) return QObject::tr("cannot be read: %1").arg(toQ(table.unusable));
  switch (table.identity.kind) {
    case Identity::Kind::PrimaryKey:
    case Identity::Kind::UniqueKey: {
      QStringList names;
      for (const std::string& c : table.identity.columns) names << toQ(c);
      words << QObject::tr("named by %1").arg(names.join(QObject::tr(" and ")));
      break;
    }
    case Identity::Kind::RowId:
      words << QObject::tr("no key: named by the row number");
      break;
    default:
      if (table.kind != TableKind::View)
        words << QObject::tr("no key: a record can be changed only while no other is the same");
  }
  std::set<QString> targets;
  for (const Reference& r : table.references) targets.insert(toQ(r.target.name));
  if (!targets.empty())
    words << QObject::tr("points at %1").arg(QStringList(targets.begin(), targets.end()).join(QStringLiteral(", ")));
  std::set<QString> sources;
  for (const IncomingReference& in : catalogue.referencesTo(table.name))
    sources.insert(toQ(catalogue.tables()[in.table].name.name));
  if (sources.size() > 2) {
    words << QObject::tr("%n tables point here", "", static_cast<int>(sources.size()));
  } else if (!sources.empty()) {
    words << QObject::tr("%1 points here").arg(QStringList(sources.begin(), sources.end()).join(QObject::tr(" and ")));
  }
  if (!table.notEditable.empty()) words << QObject::tr("not editable: %1").arg(toQ(table.notEditable));
  return words.join(QStringLiteral(" · "));
}

class CataloguePage::Model : public QAbstractListModel {
 public:
  explicit Model(Desk& desk, QObject* parent) : QAbstractListModel(parent), desk_(desk) { narrow({}); }
  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(shown_.size());
  }
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override {
    if (!index.isValid()) return {};
    const Table& t = table(index.row());
    if (role == Qt::DisplayRole) return toQ(displayName(t.name));
    if (role == Qt::ToolTipRole) return tableInWords(desk_.catalogue(), t);
    if (role == Qt::AccessibleTextRole)
      return toQ(displayName(t.name)) + QStringLiteral(", ") + count(index.row()) + QStringLiteral(", ") +
             tableInWords(desk_.catalogue(), t);
    return {};
  }
  [[nodiscard]] const Table& table(int row) const {
    return desk_.catalogue().tables()[shown_[static_cast<std::size_t>(row)]];
  }
  [[nodiscard]] QString count(int row) const {
    const auto it = counts_.find(shown_[static_cast<std::size_t>(row)]);
    return it == counts_.end()
               ? QStringLiteral("…")
               : (it->second ? QLocale().toString(static_cast<qulonglong>(*it->second)) : QStringLiteral("–"));
  }
  void narrow(const QString& text) {
    beginResetModel();
    shown_.clear();
    std::vector<std::size_t> byColumn;
    const auto& tables = desk_.catalogue().tables();
    for (std::size_t i = 0; i < tables.size(); ++i) {
      if (tables[i].kind == TableKind::Internal) continue;
      if (toQ(tables[i].name.name).contains(text, Qt::CaseInsensitive)) {
        shown_.push_back(i);
      } else if (std::any_of(tables[i].columns.begin(), tables[i].columns.end(),
                             [&](const Column& c) { return toQ(c.name).contains(text, Qt::CaseInsensitive); })) {
        byColumn.push_back(i);
      }
    }
    const auto rank = [&](std::size_t i) { return matchRank(toQ(tables[i].name.name), text); };
    std::stable_sort(shown_.begin(), shown_.end(), [&](std::size_t a, std::size_t b) { return rank(a) < rank(b); });
    shown_.insert(shown_.end(), byColumn.begin(), byColumn.end());
    endResetModel();
  }
  void setCount(std::size_t table, std::optional<std::uint64_t> n) {
    counts_[table] = n;
    if (rowCount() > 0) emit dataChanged(index(0), index(rowCount() - 1));
  }

 private:
  Desk& desk_;
  std::vector<std::size_t> shown_;
  std::map<std::size_t, std::optional<std::uint64_t>> counts_;
};

// The double rule above a list.
class DoubleRule : public QWidget {
 public:
  explicit DoubleRule(QWidget* parent) : QWidget(parent) { setFixedHeight(5); }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setPen(roles().marginRule);
    painter.drawLine(0, 1, width(), 1);
    painter.drawLine(0, 3, width(), 3);
  }
};

class CataloguePage::Painter : public QStyledItemDelegate {
 public:
  Painter(const Model& model, const Desk& desk, QObject* parent)
      : QStyledItemDelegate(parent), model_(model), desk_(desk) {}
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {374, 57}; }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Roles& r = roles();
    const QRect box = option.rect.adjusted(0, 0, -16, 0);
    painter->save();
    if ((option.state & (QStyle::State_Selected)) != 0) painter->fillRect(box, r.blueWash);
    painter->setPen(r.rule);
    painter->drawLine(box.left() + 10, box.bottom(), box.right(), box.bottom());
    const QRect upper(box.left() + 10, box.top() + 8, box.width() - 20, 22);
    const QString count = model_.count(index.row());
    painter->setFont(plain());
    painter->setPen(r.soft);
    painter->drawText(upper, Qt::AlignRight | Qt::AlignVCenter, count);
    QFont bold = plain(1.08);
    bold.setWeight(QFont::DemiBold);
    painter->setFont(bold);
    painter->setPen(r.ink);
    const int room = upper.width() - QFontMetrics(plain()).horizontalAdvance(count) - 14;
    painter->drawText(upper, Qt::AlignLeft | Qt::AlignVCenter,
                      painter->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, room));
    painter->setFont(plain(0.92));
    painter->setPen(r.soft);
    const QRect lower(upper.left(), upper.bottom() + 1, upper.width(), 20);
    painter->drawText(lower, Qt::AlignLeft | Qt::AlignVCenter,
                      painter->fontMetrics().elidedText(tableInWords(desk_.catalogue(), model_.table(index.row())),
                                                        Qt::ElideRight, lower.width()));
    painter->restore();
  }

 private:
  const Model& model_;
  const Desk& desk_;
};

CataloguePage::CataloguePage(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  setObjectName("page");
  setAttribute(Qt::WA_StyledBackground);
  auto* outer = new QHBoxLayout(this);
  outer->setContentsMargins(36, 26, 36, 10);
  outer->setSpacing(28);
  auto* left = new QVBoxLayout;
  left->setSpacing(6);
  seek_ = new QLineEdit(this);
  seek_->setObjectName("seek");
  seek_->setFont(serif(1.6));
  seek_->setPlaceholderText(tr("type part of a table’s or a column’s name"));
  seek_->setAccessibleName(tr("Find a table"));
  seek_->installEventFilter(this);
  left->addWidget(seek_);
  auto* head = new QLabel(tr("Tables"), this);
  head->setFont(serif(1.1));
  head->setContentsMargins(10, 14, 0, 0);
  left->addWidget(head);
  head->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
  left->addWidget(new DoubleRule(this));
  list_ = new QListView(this);
  list_->setObjectName("tables");
  list_->setAccessibleName(tr("Tables"));
  model_ = new Model(desk, this);
  list_->setModel(model_);
  list_->setItemDelegate(new Painter(*model_, desk, this));
  list_->setViewMode(QListView::IconMode);
  list_->setFlow(QListView::LeftToRight);
  list_->setResizeMode(QListView::Adjust);
  list_->setMovement(QListView::Static);
  list_->setUniformItemSizes(true);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setSpacing(0);
  list_->setMouseTracking(true);
  left->addWidget(list_, 1);
  outer->addLayout(left, 1);
  aside_ = new QLabel(this);
  aside_->setObjectName("aside");
  aside_->setFixedWidth(330);
  aside_->setAlignment(Qt::AlignTop);
  aside_->setTextFormat(Qt::RichText);
  aside_->setWordWrap(true);
  aside_->setContentsMargins(0, 66, 0, 0);
  aside_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  connect(aside_, &QLabel::linkActivated, this, [this](const QString& target) {
    if (target == QLatin1String("seen:tips")) return emit tipsSeen();
    if (target.startsWith(QLatin1String("scope:")))
      emit scopeAsked(QUrl::fromPercentEncoding(target.mid(6).toLatin1()));
  });
  outer->addWidget(aside_);
  connect(seek_, &QLineEdit::textChanged, this, [this](const QString& text) {
    model_->narrow(text);
    list_->setCurrentIndex(model_->index(0));
  });
  connect(list_, &QListView::activated, this, [this] { openCurrent(); });
  connect(list_, &QListView::clicked, this, [this] { openCurrent(); });
  list_->setCurrentIndex(model_->index(0));
  setFocusProxy(seek_);
  countTables();
}

void CataloguePage::focusSeek() {
  seek_->setFocus();
  seek_->selectAll();
}

void CataloguePage::setAside(const QStringList& lines) { aside_->setText(lines.join(QString())); }

void CataloguePage::openCurrent() {
  if (list_->currentIndex().isValid()) emit openAsked(model_->table(list_->currentIndex().row()).name);
}

bool CataloguePage::eventFilter(QObject* watched, QEvent* event) {
  if (watched == seek_ && event->type() == QEvent::KeyPress) {
    const auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) {
      openCurrent();
      return true;
    }
    if (key->key() == Qt::Key_Down || key->key() == Qt::Key_Up) {
      const int step = key->key() == Qt::Key_Down ? 1 : -1;
      const int row = std::clamp(list_->currentIndex().row() + step, 0, std::max(0, model_->rowCount() - 1));
      list_->setCurrentIndex(model_->index(row));
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

void CataloguePage::countTables() {
  const auto& tables = desk_.catalogue().tables();
  for (std::size_t i = 0; i < tables.size(); ++i) {
    if (tables[i].kind == TableKind::Internal) continue;
    // Counting a view is running it: its sheet does that, when it is opened.
    if (!tables[i].unusable.empty() || tables[i].kind == TableKind::View) {
      model_->setCount(i, std::nullopt);
      continue;
    }
    desk_.behind().postIdle(
        this,
        [i, catalogue = desk_.sharedCatalogue()](Session& session, Progress& progress) {
          Query query;
          query.table = &catalogue->tables()[i];
          return session.count(query, progress);
        },
        [this, i](Result<std::uint64_t>&& n) { model_->setCount(i, n ? std::optional(*n) : std::nullopt); });
  }
}

}  // namespace iterandum
