#include "app/session/applying.h"

#include "app/session/desk.h"
#include "app/style/moments.h"
#include "core/store/receipt_keeper.h"

namespace iterandum {
namespace {

// New records by the index of their change in the list.
std::map<std::uint32_t, std::uint64_t> additionsByChange(const ChangeSet& changes, const ChangeList& list) {
  // The change set lists additions in the order of their ids, table by table.
  std::map<TableName, std::vector<std::uint64_t>> ids;
  for (const TableChanges* table : changes.tables()) {
    for (const auto& [id, record] : table->added()) ids[table->name()].push_back(id);
  }
  std::map<TableName, std::size_t> next;
  std::map<std::uint32_t, std::uint64_t> out;
  for (const auto& [index, change] : list.inOrder()) {
    if (change.action == Action::Add) out[index] = ids[change.table][next[change.table]++];
  }
  return out;
}

AppliedAdditions appliedAdditions(const Receipt& receipt, const std::map<std::uint32_t, std::uint64_t>& byChange) {
  AppliedAdditions out;
  for (const ReceiptBlock& block : receipt.blocks) {
    if (block.action != Action::Add || block.cascaded) continue;
    for (std::size_t r = 0; r < block.rows(); ++r) {
      const auto id = byChange.find(block.changeIndex[r]);
      if (id == byChange.end()) continue;
      AppliedAddition& record = out[id->second];
      record.keyColumns = block.keyColumns;
      for (const ValueColumn& key : block.keys) record.key.push_back(key.at(r));
      record.columns = block.columns;
      for (const ValueColumn& column : block.after) record.values.push_back(column.at(r));
    }
  }
  return out;
}

}  // namespace

void Applying::start(const std::string& title) {
  if (running()) return;
  const ChangeList list = desk_.changes().toChangeList(title);
  const std::size_t gestures = desk_.changes().position();
  desk_.behind().cancelAll();
  progress_ = desk_.front().post(
      this,
      [list, kept = desk_.houseRules(), byChange = additionsByChange(desk_.changes(), list),
       path = desk_.storeThread().path()](Session& session, Progress& progress) -> Result<Outcome> {
        ITERANDUM_ASSIGN(const Catalogue now, session.readCatalogue(progress));
        ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
        StoreReceiptKeeper keeper(*store);
        ApplyOptions options;
        options.appliedBy = systemUserName();
        options.keeper = &keeper;
        // What cannot be read stops nothing; the review says so.
        std::vector<std::string> unread;
        const std::vector<ReadRule> rules = readableRules(kept, contextNow(now), unread);
        if (!rules.empty()) options.rules = &rules;
        Outcome outcome;
        ITERANDUM_ASSIGN(outcome.result, applyChanges(session, now, list, options, progress));
        if (outcome.result.receipt) outcome.added = appliedAdditions(*outcome.result.receipt, byChange);
        return outcome;
      },
      [this, gestures](Result<Outcome>&& outcome) { take(std::move(outcome), gestures); });
  emit started();
}

void Applying::stop() {
  if (progress_) progress_->cancel();
}

void Applying::take(Result<Outcome>&& outcome, std::size_t gestures) {
  progress_.reset();
  if (!outcome) {
    const ErrorKind kind = outcome.error().kind;
    const bool nothing = kind != ErrorKind::OutcomeUnknown && kind != ErrorKind::PartlyWritten;
    const QString words = toQ(outcome.error().text());
    emit failed(nothing ? tr("Nothing was applied: %1").arg(words) : words);
    return;
  }
  const ApplyResult& result = outcome->result;
  if (!result.receipt) {
    emit blocked(result.review);
    return;
  }
  QString message = tr("Applied to %n record(s) at %1. The receipt is in the history; it can be taken back from there.",
                       "", static_cast<int>(result.receipt->appliedCount()))
                        .arg(momentInWords(result.receipt->appliedAt));
  if (result.afterwards) {
    message =
        tr("Applied to %n record(s) at %1, but the receipt could not be confirmed: %2. The history shows it as not "
           "confirmed, and finds out from the records.",
           "", static_cast<int>(result.receipt->appliedCount()))
            .arg(momentInWords(result.receipt->appliedAt), toQ(result.afterwards->text()));
  }
  desk_.markApplied(*result.receipt);
  desk_.forgetApplied(gestures, outcome->added);
  emit applied(message);
}

}  // namespace iterandum
