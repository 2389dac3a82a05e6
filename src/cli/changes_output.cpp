#include "cli/changes_output.h"

#include "cli/files.h"
#include "core/changes/change_file.h"
#include "core/files/named_acts.h"
#include "core/store/store.h"

namespace iterandum::cli {
namespace {

Change changeOf(const RecordActs& acts, const ActedRecord& record, const std::vector<std::string>& keyColumns) {
  Change change;
  change.table = acts.table().name;
  change.keyColumns = keyColumns;
  change.key = record.key;
  for (std::size_t c = 0; c < acts.columns().size(); ++c) {
    if (!acts.differs(record, c)) continue;
    change.cells.push_back({acts.columns()[c]->name, true, record.before[c], record.values[acts.places()[c]]});
  }
  return change;
}

void sayFailed(const RecordActs& acts, const ActedRecord& record) {
  const std::string text =
      namedRecord(acts.table(), record.key) + ", " + record.failedColumn + ": " + record.failure->message;
  say(text);
}

}  // namespace

Status writeChanges(const Arguments& a, const ChangeList& changes) {
  const std::string document = writeChangeFile(changes);
  if (a.output == "-") return writeOut(document);
  ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.output));
  ITERANDUM_TRY(file->write(document));
  return file->putInPlace();
}

std::string namedRecord(const Table& table, const ValueTuple& key) {
  const std::vector<std::string> names = table.writeKeyColumns();
  std::string out = displayName(table.name);
  for (std::size_t k = 0; k < key.size() && k < names.size(); ++k) {
    out += (k > 0 ? ", " : " ") + quotedIfOdd(names[k]) + "=" + (key[k].isNull() ? "no value" : canonicalText(key[k]));
  }
  return out;
}

bool sayMerge(const MergePlan& plan, bool dropDoubles) {
  for (const MergeDouble& d : plan.doubles) {
    std::string by;
    for (const std::string& name : d.names) by += (by.empty() ? "" : ", ") + name;
    say(namedRecord(*d.table, d.key) + (dropDoubles ? " is removed: it" : "") + " would be the same as " +
        namedRecord(*d.table, d.other) + " in " + by);
  }
  if (!plan.doubles.empty() && !dropDoubles) {
    say("nothing is written; --drop-doubles removes those that would be there twice");
    return false;
  }
  say(std::to_string(plan.repointed) + (plan.repointed == 1 ? " record points" : " records point") + " at it now, " +
      std::to_string(plan.removed) + (plan.removed == 1 ? " goes" : " go"));
  return true;
}

Result<Exit> stageActs(const Arguments& a, Session& session, const ReadScope& scope, const RecordActs& acts,
                       const std::string& title) {
  Query which;
  which.table = scope.table;
  which.where = scope.where();
  which.order = scope.order;
  const std::vector<std::string> keyColumns = scope.table->writeKeyColumns();
  if (keyColumns.empty()) {
    return fail(ErrorKind::InvalidInput, "records of " + displayName(scope.table->name) + " cannot be told apart");
  }
  ChangeList changes;
  ActCounts counts;
  Progress progress(terminalProgress());
  ITERANDUM_TRY(actOn(
      session, which, acts,
      [&](std::span<ActedRecord> records) {
        for (const ActedRecord& record : records) {
          counts.count(acts, record);
          if (record.failed()) {
            if (counts.failed <= kMostNamed) sayFailed(acts, record);
            continue;
          }
          Change change = changeOf(acts, record, keyColumns);
          if (!change.cells.empty()) changes.add(change);
        }
        return true;
      },
      progress));
  if (counts.failed > kMostNamed) {
    say("and " + std::to_string(counts.failed - kMostNamed) + " more");
  }
  say(inWords(counts));
  if (counts.failed > 0 && !a.leaveOutFailed) {
    say("nothing is written; --leave-out-failed goes on without those that fail");
    return Exit::Blocked;
  }
  changes.title = title + " in " + std::to_string(counts.differ) + (counts.differ == 1 ? " record" : " records");
  ITERANDUM_TRY(writeChanges(a, changes));
  return Exit::Done;
}

Status takeNames(std::vector<Act>& acts, const Table& table, const Catalogue& catalogue, Session& session) {
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(const CalledBy calledBy, store->readableChoices(session.info().address));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const std::vector<std::string> unknown,
                   namesToKeys(acts, table, catalogue, calledBy, session, progress));
  for (const std::string& one : unknown) say("note: " + one);
  return {};
}

}  // namespace iterandum::cli
