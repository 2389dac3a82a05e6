#include "app/sheet/act_proof.h"

#include <QPainter>
#include <QStyledItemDelegate>
#include <utility>

#include "app/style/marks.h"
#include "app/style/roles.h"
#include "app/values/shown_value.h"

namespace iterandum {
namespace {

constexpr int kName = Qt::UserRole + 1;
constexpr int kBefore = Qt::UserRole + 2;
constexpr int kAfter = Qt::UserRole + 3;
constexpr int kFailure = Qt::UserRole + 4;

class ProofPainter : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {120, 2 * QFontMetrics(plain()).height() + 10};
  }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Roles& r = roles();
    const QString failure = index.data(kFailure).toString();
    painter->save();
    const bool chosen = (option.state & QStyle::State_Selected) != 0;
    if (chosen) painter->fillRect(option.rect, r.blueWash);
    painter->setPen(r.rule);
    painter->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
    QRect box = option.rect.adjusted(6, 3, -6, -4);
    if (!failure.isEmpty()) {
      drawMark(*painter, QRectF(box.left(), box.top(), 16, 16), Mark::Query, r.query);
      box.setLeft(box.left() + 22);
    }
    const QRect upper(box.left(), box.top(), box.width(), box.height() / 2);
    const QRect lower(box.left(), box.top() + box.height() / 2, box.width(), box.height() / 2);
    painter->setFont(plain(0.92));
    painter->setPen(r.soft);
    draw(*painter, upper, index.data(kName).toString());
    painter->setFont(plain());
    if (!failure.isEmpty()) {
      painter->setPen(r.query);
      draw(*painter, lower, failure);
    } else {
      drawChange(*painter, lower, index.data(kBefore).toString(), index.data(kAfter).toString());
    }
    painter->restore();
  }

 private:
  static void draw(QPainter& painter, const QRect& box, const QString& text) {
    painter.drawText(box, Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(text, Qt::ElideRight, box.width()));
  }
  static void drawChange(QPainter& painter, const QRect& box, const QString& before, const QString& after) {
    const Roles& r = roles();
    constexpr int kGap = 10;
    QFont struck = plain();
    struck.setStrikeOut(true);
    // The old gives way to the new where both do not fit.
    const int wanted = QFontMetrics(plain()).horizontalAdvance(after);
    const int room = std::max(box.width() * 2 / 5, box.width() - wanted - kGap);
    const QString old = QFontMetrics(struck).elidedText(before, Qt::ElideRight, room);
    painter.setFont(struck);
    painter.setPen(r.soft);
    painter.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, old);
    const int used = QFontMetrics(struck).horizontalAdvance(old) + kGap;
    painter.setFont(plain());
    painter.setPen(r.blue);
    draw(painter, box.adjusted(used, 0, 0, 0), after);
  }
};

}  // namespace

ActProof::ActProof(SheetModel& model, QWidget* parent) : QListWidget(parent), model_(model) {
  setObjectName("proof");
  setAccessibleName(tr("What becomes of the records"));
  setItemDelegate(new ProofPainter(this));
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setUniformItemSizes(true);
  setFrameShape(QFrame::NoFrame);
}

QString ActProof::shown(const Column& column, const Value& value) const {
  const auto at = model_.table().columnIndex(column.name);
  return at ? model_.shown(static_cast<int>(*at), value) : shownValue(column, value);
}

// Once for the lines that there are: what has no name is not asked for again and again.
void ActProof::wantNames(const ActPreview& preview) {
  const std::vector<ActPreview::Line>& lines = preview.found().lines;
  if (lines.size() == named_) return;
  named_ = lines.size();
  ReferenceNames& names = model_.desk().names();
  for (std::size_t c = 0; c < preview.columns().size(); ++c) {
    const auto at = model_.table().columnIndex(preview.columns()[c]->name);
    if (!at || names.reference(model_.table(), *at) == nullptr) continue;
    std::vector<Value> values;
    for (const ActPreview::Line& line : lines) {
      if (line.column != c) continue;
      for (const Value& value : {line.before, line.after}) {
        if (!value.isNull()) values.push_back(value);
      }
    }
    names.want(model_.table(), *at, values);
  }
}

void ActProof::show(const ActPreview& preview, bool namesCame) {
  const auto lines = preview.found().failures.size() + preview.found().lines.size();
  const bool isNew = std::exchange(question_, preview.question()) != preview.question();
  if (!isNew && !namesCame && lines == static_cast<std::size_t>(count())) return;
  clear();
  if (isNew) named_ = 0;
  wantNames(preview);
  const auto add = [&](const ActPreview::Line& line) {
    const Column& column = *preview.columns()[line.column];
    QStringList name;
    for (const Value& part : line.name) {
      if (!part.isNull()) name << toQ(canonicalText(part));
    }
    const std::vector<std::string> keys = model_.table().writeKeyColumns();
    const bool byKey = name.isEmpty();
    for (std::size_t k = 0; byKey && k < line.key.size(); ++k) {
      name << toQ(keys[k]) + QLatin1Char(' ') + toQ(canonicalText(line.key[k]));
    }
    QString title = name.join(QStringLiteral(" · "));
    if (preview.columns().size() > 1) title += QStringLiteral(" · ") + toQ(column.name);
    auto* item = new QListWidgetItem(this);
    item->setData(kName, title);
    if (!line.failure.empty()) {
      item->setData(kFailure, toQ(line.failure));
      item->setText(title + QStringLiteral(": ") + toQ(line.failure));
      item->setToolTip(toQ(line.failure));
      return;
    }
    const QString before = shown(column, line.before);
    const QString after = shown(column, line.after);
    item->setData(kBefore, before);
    item->setData(kAfter, after);
    item->setText(title + QStringLiteral(": ") + before + QStringLiteral(" → ") + after);
    item->setToolTip(before + QStringLiteral("\n→ ") + after);
  };
  for (const ActPreview::Line& line : preview.found().failures) add(line);
  for (const ActPreview::Line& line : preview.found().lines) add(line);
}

}  // namespace iterandum
