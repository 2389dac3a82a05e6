// ReviewPage: the ways out of a finding, done in place: one gesture each, undone like any other. What follows is
// rehearsed again by itself.
#include <QGridLayout>
#include <QListWidget>
#include <QPointer>
#include <QPushButton>
#include <algorithm>

#include "app/records/hanging_removals.h"
#include "app/review/finding_editor.h"
#include "app/review/review_page.h"
#include "core/catalogue/record_words.h"
#include "core/scope/condition_text.h"

namespace iterandum {
namespace {

constexpr std::size_t kMostHanging = 20000;

Condition holding(const NamedValues& values) {
  Condition all;
  for (const auto& [column, value] : values) {
    Condition part;
    part.op = Condition::Op::Equal;
    part.column = column;
    part.value = value;
    all = bothHold(std::move(all), std::move(part));
  }
  return all;
}

// Records that point somewhere, and what they hold there.
struct ToLetGo {
  const Table* table = nullptr;
  std::vector<std::string> columns;  // those that are to hold no value
  std::vector<ValueTuple> keys;      // by writeKeyColumns()
  std::vector<ValueTuple> values;    // of the columns
};

// `nullableOnly`: of the reference's columns those that may hold no value.
Result<std::vector<ToLetGo>> readReferring(Session& session, const std::vector<ReferringRecords>& all,
                                           bool nullableOnly, Progress& progress) {
  std::vector<ToLetGo> out;
  std::size_t count = 0;
  for (const ReferringRecords& one : all) {
    ToLetGo part{one.table, {}, {}, {}};
    for (const std::size_t c : one.reference->columns) {
      const Column& column = one.table->columns[c];
      if ((column.nullable || !nullableOnly) && column.notEditable.empty()) part.columns.push_back(column.name);
    }
    Query query;
    query.table = one.table;
    query.columns = one.table->writeKeyColumns();
    const std::size_t keys = query.columns.size();
    query.columns.insert(query.columns.end(), part.columns.begin(), part.columns.end());
    query.where = holding(one.values);
    query.limit = kMostHanging + 1;
    ITERANDUM_TRY(session.select(
        query,
        [&](ValueTuple&& row) {
          part.keys.emplace_back(row.begin(), row.begin() + static_cast<std::ptrdiff_t>(keys));
          part.values.emplace_back(row.begin() + static_cast<std::ptrdiff_t>(keys), row.end());
          return ++count <= kMostHanging;
        },
        progress));
    if (count > kMostHanging) {
      return fail(ErrorKind::Unsupported, "more than " + std::to_string(kMostHanging) +
                                              " records point here; show them, and let them go from their sheet");
    }
    out.push_back(std::move(part));
  }
  return out;
}

// Whether the record is to go, or is to hold something else in one of the columns.
bool isStaged(const ChangeSet& changes, const Table& table, const ValueTuple& key,
              const std::vector<std::string>& columns) {
  const TableChanges* staged = changes.table(table.name);
  const auto record = staged == nullptr ? std::nullopt : staged->find(key);
  if (!record) return false;
  return staged->isRemoved(*record) || std::any_of(columns.begin(), columns.end(), [&](const std::string& column) {
           return staged->cell(*record, column).has_value();
         });
}

bool isEdited(const ChangeSet& changes, const Table& table, const ValueTuple& key) {
  const TableChanges* staged = changes.table(table.name);
  const auto record = staged == nullptr ? std::nullopt : staged->find(key);
  return record && staged->isEdited(*record);
}

}  // namespace

QString ReviewPage::wayInWords(WayOut way, const Finding& f) {
  const QString there = f.fromTable ? toQ(f.fromTable->name) : QString();
  switch (way) {
    case WayOut::KeepMine:
      return f.to ? tr("Keep mine") : tr("Remove it all the same");
    case WayOut::TakeTheirs:
      return tr("Take theirs");
    case WayOut::Correct:
      return f.kind == FindingKind::CellChanged ? tr("Something else…") : tr("Correct it here…");
    case WayOut::NoValue:
      return tr("No value");
    case WayOut::AddAgain:
      return tr("Add it again");
    case WayOut::AddParent:
      return tr("Add it");
    case WayOut::ShowHolder:
      return tr("Show who has it");
    case WayOut::MergeWithHolder:
      return tr("Merge the two…");
    case WayOut::ShowReferring:
      return tr("Show them");
    case WayOut::Repoint:
      return tr("Let them point at another…");
    case WayOut::LetGo:
      return tr("Let them point at nothing");
    case WayOut::RemoveReferring:
      return tr("Remove them too");
    case WayOut::PutBack:
      return tr("Put back");
  }
  return {};
}

void ReviewPage::takeWay(WayOut way, const Finding& f, QFrame* box) {
  const RecordRef ref = refs_[f.change];
  const Change& change = changes_[f.change];
  const QString name = recordName(f.change);
  switch (way) {
    case WayOut::KeepMine:
      return keepMine({f});
    case WayOut::TakeTheirs:
      return takeTheirs({f});
    case WayOut::Correct:
      return correctHere(f, box);
    case WayOut::NoValue:
      return desk_.staged().stageEdits(tr("%1 to no value in %2").arg(toQ(f.column), name), {wantedCell(f, Value())});
    case WayOut::AddAgain:
      return addAgain({f});
    case WayOut::AddParent:
      return addParent(f);
    case WayOut::ShowHolder:
      return emit recordsAsked(f.table, holderOf(f, change, desk_.catalogue()));
    case WayOut::MergeWithHolder:
      return mergeWithHolder(f);
    case WayOut::ShowReferring:
      if (const auto all = referringRecords(f, change, desk_.catalogue()); !all.empty()) {
        emit recordsAsked(all.front().table->name, all.front().values);
      }
      return;
    case WayOut::Repoint:
      return repoint({f}, box);
    case WayOut::LetGo:
      return letGo({f});
    case WayOut::RemoveReferring:
      return removeReferring({f});
    case WayOut::PutBack:
      return desk_.staged().putBack(tr("Put back %1").arg(name), {ref});
  }
}

void ReviewPage::keepMine(const std::vector<Finding>& findings) {
  if (findings.empty()) return;
  if (changes_[findings.front().change].action == Action::Remove) return removeAllTheSame(findings);
  std::vector<CellEdit> cells;
  for (const Finding& f : findings) cells.push_back({refs_[f.change], f.column, *f.now, *f.to});
  desk_.staged().keepMine(cells.size() == 1 ? tr("Keep mine in %1").arg(toQ(findings.front().column))
                                            : tr("Keep mine in %n record(s)", "", static_cast<int>(cells.size())),
                          cells);
}

void ReviewPage::takeTheirs(const std::vector<Finding>& findings) {
  if (findings.empty()) return;
  const auto count = static_cast<int>(findings.size());
  if (changes_[findings.front().change].action == Action::Remove) {
    std::vector<RecordRef> refs;
    for (const Finding& f : findings) refs.push_back(refs_[f.change]);
    return desk_.staged().putBack(tr("Put back %n record(s)", "", count), refs);
  }
  std::vector<CellEdit> cells;
  for (const Finding& f : findings) cells.push_back({refs_[f.change], f.column, *f.now, *f.to});
  desk_.staged().putBackCells(count == 1 ? tr("Take theirs in %1").arg(toQ(findings.front().column))
                                         : tr("Take theirs in %n record(s)", "", count),
                              cells);
}

// As they are now: that is what the removal is guarded by then.
void ReviewPage::removeAllTheSame(const std::vector<Finding>& findings) {
  const Table* table = desk_.catalogue().find(findings.front().table);
  if (table == nullptr) return;
  std::set<std::uint32_t> seen;
  std::vector<RecordRef> refs;
  for (const Finding& f : findings) {
    if (seen.insert(f.change).second) refs.push_back(refs_[f.change]);
  }
  const auto generation = generation_;
  desk_.front().post(
      this,
      [table, refs, catalogue = desk_.sharedCatalogue()](Session& session,
                                                         Progress& progress) -> Result<std::vector<ValueTuple>> {
        std::vector<ValueColumn> keys(table->writeKeyColumns().size());
        std::vector<std::uint32_t> rows;
        for (const RecordRef& ref : refs) {
          for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(ref.key[k]);
          rows.push_back(static_cast<std::uint32_t>(rows.size()));
        }
        std::vector<ValueTuple> out(refs.size());
        const KeyRead read{table, table->writeKeyColumns(), &keys, rows, table->recordColumns(), 1};
        ITERANDUM_TRY(session.readByKeys(
            read, [&](std::size_t row, ValueTuple&& record) { out[row] = std::move(record); }, progress));
        return out;
      },
      [this, table, refs, generation, catalogue = desk_.sharedCatalogue()](Result<std::vector<ValueTuple>>&& now) {
        if (generation != generation_) return;
        if (!now) return emit said(tr("Nothing was staged: %1").arg(toQ(now.error().text())));
        if (std::any_of(now->begin(), now->end(), [](const ValueTuple& record) { return record.empty(); })) {
          return emit said(tr("Nothing was staged: one of them is gone by now. Review again (Ctrl+R)."));
        }
        const QString title = tr("Remove %n record(s) all the same", "", static_cast<int>(refs.size()));
        desk_.staged().stageRemovals(title, {{table, refs, *now}});
      });
}

// The cell of the finding, with another value than what is staged.
CellEdit ReviewPage::wantedCell(const Finding& f, Value to) const {
  Value from;
  for (const CellChange& cell : changes_[f.change].cells) {
    if (cell.column == f.column && cell.hasFrom) from = cell.from;
  }
  return {refs_[f.change], f.column, std::move(from), std::move(to)};
}

void ReviewPage::correctHere(const Finding& f, QFrame* box) {
  const Table* table = desk_.catalogue().find(f.table);
  const auto column = table == nullptr ? std::nullopt : table->columnIndex(f.column);
  if (!column) return;
  openEditor(*table, refs_[f.change], static_cast<int>(*column), box);
}

FindingEditor* ReviewPage::openEditor(const Table& table, const RecordRef& record, int column, QFrame* box) {
  if (box->findChild<FindingEditor*>() != nullptr) return nullptr;
  auto* editor = new FindingEditor(desk_, table, record, column, box);
  auto* words = box->findChild<QVBoxLayout*>(QStringLiteral("findingWords"));
  words->insertWidget(words->count() - 1, editor, 0, Qt::AlignLeft);
  editor->setFixedWidth(std::min(420, std::max(220, box->width() / 2)));
  connect(editor, &FindingEditor::said, this, &ReviewPage::said);
  const auto close = [this, editor = QPointer<FindingEditor>(editor)] {
    if (editor == nullptr) return;
    delete editor;
    groupList_->setFocus();
    showGroups();
  };
  connect(editor, &FindingEditor::cancelled, this, close, Qt::QueuedConnection);
  return editor;
}

// The correction would have made them alike: it is put back, and the two are put side by side.
void ReviewPage::mergeWithHolder(const Finding& f) {
  const Table* table = desk_.catalogue().find(f.table);
  if (table == nullptr) return;
  const auto generation = generation_;
  const auto catalogue = desk_.sharedCatalogue();
  desk_.front().post(
      this,
      [table, holder = holderOf(f, changes_[f.change], *catalogue), catalogue](
          Session& session, Progress& progress) -> Result<std::vector<ValueTuple>> {
        std::vector<ValueTuple> out;
        Query query;
        query.table = table;
        query.columns = table->writeKeyColumns();
        query.where = holding(holder);
        query.limit = 2;
        ITERANDUM_TRY(session.select(
            query,
            [&](ValueTuple&& key) {
              out.push_back(std::move(key));
              return true;
            },
            progress));
        return out;
      },
      [this, generation, name = f.table, own = refs_[f.change], cell = wantedCell(f, Value()),
       words = recordName(f.change)](Result<std::vector<ValueTuple>>&& found) {
        if (generation != generation_) return;
        if (!found) return emit said(tr("It could not be read who has it: %1").arg(toQ(found.error().text())));
        std::erase(*found, own.key);
        if (found->size() != 1) {
          return emit said(tr("No other record of the database has it: what has it is staged, or gone by now."));
        }
        desk_.staged().putBackCells(tr("Put back %1 in %2, to be merged").arg(toQ(cell.column), words), {cell});
        emit mergeAsked(name, {found->front(), own.key});
      });
}

// What is known of it is its key; what else it has to hold the next rehearsal says.
void ReviewPage::addParent(const Finding& f) {
  const MissingParent parent = missingParent(f, changes_[f.change], desk_.catalogue());
  if (parent.table == nullptr) return;
  desk_.staged().stageAddition(*parent.table, parent.values);
  emit told(tr("A new record of %1 is staged with this key. What else it holds is filled in from its own group here.")
                .arg(toQ(displayName(parent.table->name))));
}

// What is known of them is their keys and what was staged; what else they have to hold the next rehearsal says.
void ReviewPage::addAgain(const std::vector<Finding>& findings) {
  const Table* table = desk_.catalogue().find(findings.front().table);
  std::vector<RecordRef> refs;
  std::vector<NamedValues> records;
  std::set<std::uint32_t> seen;
  for (const Finding& f : findings) {
    if (!seen.insert(f.change).second) continue;
    records.push_back(goneRecord(f, changes_[f.change], desk_.catalogue()));
    refs.push_back(refs_[f.change]);
  }
  if (table == nullptr) return;
  const auto count = static_cast<int>(refs.size());
  desk_.staged().addAgain(tr("Add %n record(s) of %1 again", "", count).arg(toQ(table->name.name)), *table, refs,
                          records);
  emit told(
      tr("%n new record(s) of %1 (are) staged with the keys of those that are gone and with what you changed. What "
         "else they hold is filled in from their own group here.",
         "", count)
          .arg(toQ(displayName(table->name))));
}

void ReviewPage::clearAll(const std::vector<Finding>& findings) {
  std::vector<CellEdit> cells;
  for (const Finding& f : findings) cells.push_back(wantedCell(f, Value()));
  desk_.staged().stageEdits(tr("No value in %n record(s)", "", static_cast<int>(cells.size())), cells);
}

std::vector<ReferringRecords> ReviewPage::referringTo(const std::vector<Finding>& findings) const {
  std::vector<ReferringRecords> out;
  for (const Finding& f : findings) {
    auto some = referringRecords(f, changes_[f.change], desk_.catalogue());
    std::move(some.begin(), some.end(), std::back_inserter(out));
  }
  return out;
}

void ReviewPage::letGo(const std::vector<Finding>& findings) {
  const auto generation = generation_;
  // The tables are the catalogue's, which goes along.
  const auto catalogue = desk_.sharedCatalogue();
  desk_.front().post(
      this,
      [all = referringTo(findings), catalogue](Session& session, Progress& progress) {
        return readReferring(session, all, true, progress);
      },
      [this, generation, catalogue](Result<std::vector<ToLetGo>>&& found) {
        if (generation != generation_) return;
        if (!found) return emit said(tr("Nothing was staged: %1").arg(toQ(found.error().text())));
        std::vector<CellEdit> edits;
        for (const ToLetGo& part : *found) {
          for (std::size_t i = 0; i < part.keys.size(); ++i) {
            // What is staged there already leads elsewhere, or goes: it is none of those that still point here.
            if (isStaged(desk_.changes(), *part.table, part.keys[i], part.columns)) continue;
            for (std::size_t c = 0; c < part.columns.size(); ++c) {
              edits.push_back({{part.table->name, part.keys[i], 0}, part.columns[c], part.values[i][c], Value()});
            }
          }
        }
        if (edits.empty()) return emit said(tr("Nothing points there any more."));
        desk_.staged().stageEdits(tr("Let %n record(s) point at nothing", "", static_cast<int>(edits.size())), edits);
      });
}

void ReviewPage::repoint(const std::vector<Finding>& findings, QFrame* box) {
  const auto generation = generation_;
  const auto catalogue = desk_.sharedCatalogue();
  desk_.front().post(
      this,
      [all = referringTo(findings), catalogue](Session& session, Progress& progress) -> Result<std::vector<ToRepoint>> {
        ITERANDUM_ASSIGN(std::vector<ToLetGo> found, readReferring(session, all, false, progress));
        std::vector<ToRepoint> out;
        for (std::size_t i = 0; i < found.size(); ++i) {
          const std::size_t column = all[i].reference->columns.front();
          for (std::size_t r = 0; r < found[i].keys.size(); ++r) {
            out.push_back({found[i].table, std::move(found[i].keys[r]), column, std::move(found[i].values[r][0])});
          }
        }
        return out;
      },
      [this, generation, catalogue, box = QPointer<QFrame>(box)](Result<std::vector<ToRepoint>>&& found) {
        if (generation != generation_ || box == nullptr) return;
        if (!found) return emit said(tr("Nothing was staged: %1").arg(toQ(found.error().text())));
        // What is staged there already leads elsewhere, or goes.
        std::erase_if(*found, [&](const ToRepoint& one) {
          return isStaged(desk_.changes(), *one.table, one.key, {one.table->columns[one.column].name});
        });
        if (found->empty()) return emit said(tr("Nothing points there any more."));
        openRepointing(*found, box);
      });
}

// The editor of the first of them: what is chosen in it is meant for all.
void ReviewPage::openRepointing(const std::vector<ToRepoint>& found, QFrame* box) {
  const ToRepoint& first = found.front();
  FindingEditor* editor =
      openEditor(*first.table, {first.table->name, first.key, 0}, static_cast<int>(first.column), box);
  if (editor == nullptr) return;
  editor->setForMany();
  // The tables are the catalogue's, which goes along.
  connect(
      editor, &FindingEditor::valueChosen, this,
      [this, found, catalogue = desk_.sharedCatalogue()](const Value& value) {
        std::vector<CellEdit> edits;
        for (const ToRepoint& one : found) {
          edits.push_back({{one.table->name, one.key, 0}, one.table->columns[one.column].name, one.pointsAt, value});
        }
        desk_.staged().stageEdits(tr("Let %n record(s) point at another", "", static_cast<int>(edits.size())), edits);
      },
      Qt::QueuedConnection);
}

void ReviewPage::removeReferring(const std::vector<Finding>& findings) {
  const Table* table = desk_.catalogue().find(findings.front().table);
  if (table == nullptr) return;
  std::vector<ValueTuple> keys;
  for (const Finding& f : findings) {
    if (refs_[f.change].key.size() == table->writeKeyColumns().size()) keys.push_back(refs_[f.change].key);
  }
  const auto generation = generation_;
  const auto catalogue = desk_.sharedCatalogue();
  desk_.front().post(
      this,
      [table, keys, catalogue](Session& session, Progress& progress) {
        return withHangingRecords(session, *catalogue, *table, keys, Hanging::CouldNotStay, kMostHanging, progress);
      },
      [this, table, keys, generation, catalogue](Result<std::vector<HangingRecords>>&& found) {
        if (generation != generation_) return;
        if (!found) return emit said(tr("Nothing was removed: %1").arg(toQ(found.error().text())));
        for (const HangingRecords& hanging : *found) {
          for (const ValueTuple& key : hanging.keys) {
            if (!isEdited(desk_.changes(), *hanging.table, key)) continue;
            return emit said(
                tr("Nothing was removed: %1 hangs on it in the database, and has corrections of its own staged. "
                   "Show them, and remove what is to go.")
                    .arg(toQ(recordInWords(hanging.table->name, key))));
          }
        }
        const HangingRemovals all = removalsOf(*found, table, keys);
        if (!all.cannot.isEmpty()) return emit said(tr("Nothing was removed: %1.").arg(all.cannot));
        if (all.removals.empty()) return emit said(tr("Nothing points there any more."));
        desk_.staged().stageRemovals(tr("Remove %1").arg(all.words), all.removals);
        emit told(tr("To be removed too: %1. They are listed here.").arg(all.words));
      });
}

}  // namespace iterandum
