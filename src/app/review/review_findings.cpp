// ReviewPage: the findings of a group, each with its ways out, and those of one kind all together.
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLocale>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/review/conflict_table.h"
#include "app/review/review_page.h"
#include "app/style/marks.h"
#include "app/style/roles.h"

namespace iterandum {

// What blocks for one reason in many records: said once, with what can be done with all of them.
void ReviewPage::addFindings(const ChangeGroup& group) {
  if (!review_) return;
  constexpr int kMost = 30;
  // There may be tens of thousands: all buttons share one copy of those of a kind.
  std::map<FindingKind, std::vector<Finding>> blocking;
  for (const Finding& f : review_->findings) {
    if (f.blocks && inGroup(group, f.change, f.column)) blocking[f.kind].push_back(f);
  }
  // Few of them are read one by one.
  constexpr std::size_t kFew = 3;
  const bool asTable = blocking[FindingKind::CellChanged].size() > kFew;
  for (auto& [kind, findings] : blocking) {
    if (findings.size() < 2) continue;
    const auto those = std::make_shared<const std::vector<Finding>>(std::move(findings));
    addAllOf(group, kind, those);
    if (asTable && kind == FindingKind::CellChanged) addConflicts(those);
  }
  int shownCount = 0;
  int more = 0;
  // What blocks is read first.
  for (const bool isBlocking : {true, false}) {
    for (const Finding& f : review_->findings) {
      if (f.blocks != isBlocking || !inGroup(group, f.change, f.column)) continue;
      if (asTable && isBlocking && f.kind == FindingKind::CellChanged) continue;
      if (shownCount < kMost) {
        addFinding(f);
        ++shownCount;
      } else {
        ++more;
      }
    }
  }
  if (more > 0) {
    auto* label = new QLabel(tr("and %n more finding(s) in this group", "", more));
    label->setStyleSheet(QStringLiteral("color: %1;").arg(css(roles().query)));
    detail_->addWidget(label);
  }
}

void ReviewPage::addConflicts(const SharedFindings& all) {
  const Finding& first = all->front();
  const bool oneColumn =
      std::all_of(all->begin(), all->end(), [&](const Finding& f) { return f.column == first.column; });
  const auto ways = waysOut(first, changes_[first.change], desk_.catalogue());
  const bool canCorrect = std::find(ways.begin(), ways.end(), WayOut::Correct) != ways.end();
  const auto line = [this, all](int row) -> ConflictTable::Line {
    const Finding& f = (*all)[static_cast<std::size_t>(row)];
    const auto text = [&](const std::optional<Value>& value) {
      return value ? shown(f.table, f.column, *value) : QString();
    };
    return {recordName(f.change), toQ(f.column), text(f.from), text(f.now), f.to ? text(f.to) : tr("removed")};
  };
  auto* box = new ConflictTable(static_cast<int>(all->size()), line, oneColumn, canCorrect);
  const auto these = [all](const std::vector<int>& lines) {
    std::vector<Finding> out;
    for (const int at : lines) out.push_back((*all)[static_cast<std::size_t>(at)]);
    return out;
  };
  connect(box, &ConflictTable::mineAsked, this,
          [this, these](const std::vector<int>& lines) { keepMine(these(lines)); });
  connect(box, &ConflictTable::theirsAsked, this,
          [this, these](const std::vector<int>& lines) { takeTheirs(these(lines)); });
  connect(box, &ConflictTable::correctAsked, this,
          [this, all, box](int at) { correctHere((*all)[static_cast<std::size_t>(at)], box); });
  connect(box, &ConflictTable::goAsked, this, [this, all](int at) {
    const Finding& f = (*all)[static_cast<std::size_t>(at)];
    emit recordAsked(refs_[f.change], f.column);
  });
  detail_->addWidget(box);
}

QString ReviewPage::kindInWords(FindingKind kind, int n) {
  switch (kind) {
    case FindingKind::CellChanged:
      return tr("%n record(s) (were) changed by somebody else", "", n);
    case FindingKind::RecordGone:
      return tr("%n record(s) (are) no longer in the database", "", n);
    case FindingKind::Duplicate:
      return tr("%n record(s) would have a value that is taken", "", n);
    case FindingKind::ParentMissing:
      return tr("%n record(s) would point at one that is not there", "", n);
    case FindingKind::StillReferenced:
      return tr("%n record(s) (are) still pointed at", "", n);
    case FindingKind::ValueRefused:
    case FindingKind::DatabaseRefused:
      return tr("%n record(s) (are) refused by the database", "", n);
    case FindingKind::HouseRule:
      return tr("%n record(s) would break a house rule", "", n);
    default:
      return tr("%n record(s) cannot be changed like this", "", n);
  }
}

// What can be done with every one of them.
std::set<WayOut> ReviewPage::commonWays(const std::vector<Finding>& findings) const {
  std::optional<std::set<WayOut>> out;
  for (const Finding& f : findings) {
    const auto ways = waysOut(f, changes_[f.change], desk_.catalogue());
    if (!out) {
      out.emplace(ways.begin(), ways.end());
    } else {
      std::erase_if(*out, [&](WayOut way) { return std::find(ways.begin(), ways.end(), way) == ways.end(); });
    }
  }
  return out.value_or(std::set<WayOut>());
}

void ReviewPage::addAllOf(const ChangeGroup& group, FindingKind kind, const SharedFindings& those) {
  std::vector<RecordRef> refs;
  bool complete = kind == FindingKind::CellChanged;
  std::set<std::uint32_t> seen;
  for (const Finding& f : *those) {
    if (seen.insert(f.change).second) refs.push_back(refs_[f.change]);
    complete = complete && f.from && f.now && f.to;
  }
  auto* box = new QFrame;
  box->setObjectName("note");
  auto* layout = new QHBoxLayout(box);
  auto* mark = new QLabel;
  mark->setPixmap(markPixmap(Mark::Query, roles().query, devicePixelRatioF()));
  layout->addWidget(mark, 0, Qt::AlignTop);
  auto* words = new QLabel(kindInWords(kind, static_cast<int>(refs.size())));
  QFont bold = plain();
  bold.setWeight(QFont::DemiBold);
  words->setFont(bold);
  words->setObjectName("allOfAKind");
  words->setWordWrap(true);
  layout->addWidget(words, 1);
  const auto button = [&](const char* name, const QString& text, auto action) {
    auto* b = new QPushButton(text);
    b->setObjectName(QLatin1String(name));
    // The list is built anew by what follows: the button must not be in use any more by then.
    connect(b, &QPushButton::clicked, this, action, Qt::QueuedConnection);
    layout->addWidget(b, 0, Qt::AlignTop);
  };
  const auto still = [shownIn = QPointer<QFrame>(box)] { return shownIn != nullptr && shownIn->isVisible(); };
  if (complete) {
    button("keepAllMine", tr("Keep mine in all"), [this, those, still] {
      if (still()) keepMine(*those);
    });
    button("takeAllTheirs", tr("Take theirs in all"), [this, those, still] {
      if (still()) takeTheirs(*those);
    });
  } else {
    const std::set<WayOut> common = commonWays(*those);
    if (common.contains(WayOut::KeepMine)) {
      button("removeAllTheSame", tr("Remove all of them all the same"), [this, those, still] {
        if (still()) keepMine(*those);
      });
    }
    if (common.contains(WayOut::AddAgain)) {
      button("addAllAgain", tr("Add all of them again"), [this, those, still] {
        if (still()) addAgain(*those);
      });
    }
    if (common.contains(WayOut::NoValue)) {
      button("noValueInAll", tr("No value in all"), [this, those, still] {
        if (still()) clearAll(*those);
      });
    }
    if (common.contains(WayOut::Repoint)) {
      button("repointAll", tr("Let all point at another…"), [this, those, still, box] {
        if (still()) repoint(*those, box);
      });
    }
    if (common.contains(WayOut::LetGo)) {
      button("letAllGo", tr("Let all point at nothing"), [this, those, still] {
        if (still()) letGo(*those);
      });
    }
    if (common.contains(WayOut::RemoveReferring)) {
      button("removeAllReferring", tr("Remove those too"), [this, those, still] {
        if (still()) removeReferring(*those);
      });
    }
    button("putAllOfThemBack", tr("Put all of them back"), [this, refs] {
      desk_.staged().putBack(tr("Put back %n record(s)", "", static_cast<int>(refs.size())), refs);
    });
  }
  button("showAllOfThem", tr("Show them"), [this, table = group.table] { emit findingsAsked(table); });
  detail_->addWidget(box);
}

void ReviewPage::addFinding(const Finding& f) {
  auto* box = new QFrame;
  box->setObjectName(f.blocks ? "note" : "side");
  auto* layout = new QHBoxLayout(box);
  auto* mark = new QLabel;
  mark->setPixmap(
      markPixmap(f.blocks ? Mark::Query : Mark::Changed, f.blocks ? roles().query : roles().soft, devicePixelRatioF()));
  layout->addWidget(mark, 0, Qt::AlignTop);
  auto* words = new QVBoxLayout;
  words->setObjectName(QStringLiteral("findingWords"));
  auto* name =
      new QLabel(f.kind == FindingKind::CellChanged ? tr("%1 was changed by somebody else").arg(recordName(f.change))
                                                    : recordName(f.change));
  QFont bold = plain();
  bold.setWeight(QFont::DemiBold);
  name->setFont(bold);
  name->setTextFormat(Qt::PlainText);
  words->addWidget(name);
  auto* message = new QLabel(toQ(f.message).left(1000));
  message->setWordWrap(true);
  message->setTextFormat(Qt::PlainText);
  message->setObjectName("findingMessage");
  words->addWidget(message);
  const bool conflict = f.kind == FindingKind::CellChanged && f.from && f.now;
  if (conflict) {
    auto* three = new QLabel(tr("when you looked: <b>%1</b> &nbsp;·&nbsp; now in the database: <b>%2</b> &nbsp;·&nbsp; "
                                "your correction: <b style='color:%3'>%4</b>")
                                 .arg(shown(f.table, f.column, *f.from).toHtmlEscaped(),
                                      shown(f.table, f.column, *f.now).toHtmlEscaped(), css(roles().blue),
                                      f.to ? shown(f.table, f.column, *f.to).toHtmlEscaped() : tr("removed")));
    three->setTextFormat(Qt::RichText);
    words->addWidget(three);
  }
  words->addStretch(1);
  layout->addLayout(words, 1);
  // Two beside each other, so that many findings are seen at a time.
  auto* ways = new QGridLayout;
  const auto button = [&](const QString& text, auto action) {
    auto* b = new QPushButton(text);
    b->setAccessibleName(text + QStringLiteral(": ") + recordName(f.change));
    // The list is built anew by what follows: the button must not be in use any more by then.
    connect(b, &QPushButton::clicked, this, action, Qt::QueuedConnection);
    ways->addWidget(b, ways->count() / 2, ways->count() % 2);
  };
  const RecordRef ref = refs_[f.change];
  const auto all = waysOut(f, changes_[f.change], desk_.catalogue());
  const auto take = [this, f, box = QPointer<QFrame>(box)](WayOut way) {
    // Built anew since it was pressed: the finding may be another one by now.
    if (box != nullptr && box->isVisible()) takeWay(way, f, box);
  };
  for (const WayOut way : all) {
    if (way != WayOut::PutBack) button(wayInWords(way, f), [take, way] { take(way); });
  }
  button(tr("Go there"), [this, ref, column = f.column] { emit recordAsked(ref, column); });
  if (f.blocks) button(tr("Put back"), [take] { take(WayOut::PutBack); });
  ways->setRowStretch(ways->rowCount(), 1);
  layout->addLayout(ways);
  detail_->addWidget(box);
}

}  // namespace iterandum
