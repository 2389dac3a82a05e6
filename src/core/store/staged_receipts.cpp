// Which staged gestures a receipt is about.
#include "core/store/log_owner.h"
#include "core/store/store.h"

namespace iterandum {

Status Store::linkStaged(std::int64_t receipt, const StagedForReceipt& staged) {
  ITERANDUM_ASSIGN(SqliteStatement add, handle_->prepare("INSERT INTO staged_receipt VALUES (?1, ?2, ?3, ?4, ?5)"));
  add.bind(1, receipt);
  add.bind(2, staged.log);
  add.bind(3, static_cast<std::int64_t>(staged.gestures));
  // They live until the statement was run.
  std::string part;
  std::string rest;
  if (staged.partAndRest) {
    part = packGesture(staged.partAndRest->first);
    rest = packGesture(staged.partAndRest->second);
    add.bindBlob(4, part);
    add.bindBlob(5, rest);
  }
  return execute(add, "cannot keep what the receipt is about");
}

Status Store::unlinkBeyond(std::int64_t log, std::size_t gestures) {
  ITERANDUM_ASSIGN(SqliteStatement drop,
                   handle_->prepare("DELETE FROM staged_receipt WHERE log = ?1 AND gestures > ?2"));
  drop.bind(1, log);
  drop.bind(2, static_cast<std::int64_t>(gestures));
  return execute(drop, "cannot keep what was staged");
}

Result<std::vector<WrittenStaged>> Store::writtenOf(std::int64_t log) {
  ITERANDUM_ASSIGN(
      SqliteStatement links,
      handle_->prepare("SELECT l.gestures, l.part, l.rest, r.packed FROM staged_receipt l JOIN receipt r ON "
                       "r.id = l.receipt WHERE l.log = ?1 AND r.pending = 0 ORDER BY l.receipt"));
  links.bind(1, log);
  std::vector<WrittenStaged> out;
  std::optional<Error> unread;
  const auto take = [&](const SqliteStatement& row) -> Status {
    WrittenStaged written;
    written.staged.log = log;
    written.staged.gestures = static_cast<std::size_t>(row.integer(0));
    if (!row.isNull(1)) {
      ITERANDUM_ASSIGN(Gesture part, unpackGesture(row.text(1)));
      ITERANDUM_ASSIGN(Gesture rest, unpackGesture(row.text(2)));
      written.staged.partAndRest.emplace(std::move(part), std::move(rest));
    }
    ITERANDUM_ASSIGN(written.receipt, unpackReceipt(row.text(3)));
    out.push_back(std::move(written));
    return {};
  };
  ITERANDUM_TRY(eachRow(links, "cannot read what was written of what is staged", [&](const SqliteStatement& row) {
    if (Status taken = take(row); !taken) unread = std::move(taken.error());
  }));
  if (unread) return fail(std::move(*unread));
  return out;
}

Result<std::vector<std::int64_t>> Store::undecidedOf(std::int64_t log) {
  ITERANDUM_ASSIGN(
      SqliteStatement links,
      handle_->prepare("SELECT r.id FROM staged_receipt l JOIN receipt r ON r.id = l.receipt WHERE l.log = "
                       "?1 AND r.pending = 1 ORDER BY r.id"));
  links.bind(1, log);
  std::vector<std::int64_t> out;
  ITERANDUM_TRY(eachRow(links, "cannot read what was being applied",
                        [&](const SqliteStatement& row) { out.push_back(row.integer(0)); }));
  return out;
}

Result<std::vector<std::int64_t>> Store::undecidedReceipts(const std::string& address) {
  ITERANDUM_ASSIGN(
      SqliteStatement links,
      handle_->prepare("SELECT r.id, s.holder FROM staged_receipt l JOIN receipt r ON r.id = l.receipt JOIN "
                       "staging s ON s.id = l.log WHERE s.address = ?1 AND r.pending = 1 ORDER BY r.id"));
  links.bind(1, std::string_view(address));
  std::vector<std::int64_t> out;
  ITERANDUM_TRY(eachRow(links, "cannot read what was being applied", [&](const SqliteStatement& row) {
    if (!logOwnerRuns(row.text(1))) out.push_back(row.integer(0));
  }));
  return out;
}

}  // namespace iterandum
