// Review and apply: the two things that are done with a change set.
//
// Both examine it and try it inside one transaction that holds off other writers. A review always rolls back; apply
// commits when nothing blocks, and else leaves the database as it was and returns the review that says why.
#pragma once

#include <functional>
#include <optional>

#include "core/apply/receipt.h"
#include "core/review/examination.h"
#include "core/rules/house_rule.h"
#include "core/signing/judged_signature.h"

namespace iterandum {

struct ReviewOptions {
  bool rehearse = true;  // needs the right to write; leaves nothing behind
  bool withScript = true;
  const std::vector<ReadRule>* rules = nullptr;  // house rules to be held; outlive the call
  std::chrono::milliseconds lockTimeout{10000};
};

// Errors: InvalidFile for a change set that contradicts itself; what the session reports.
[[nodiscard]] Result<Review> reviewChanges(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                                           const ReviewOptions& options, Progress& progress);

// A trial receipt is what can be known before tables are written whose storage cannot roll back: it has to be possible
// to keep it. The final one takes its place.
enum class ReceiptStage { Trial, Final };

// Where the receipt of one apply goes.
class ReceiptKeeper {
 public:
  ReceiptKeeper() = default;
  ReceiptKeeper(const ReceiptKeeper&) = delete;
  ReceiptKeeper& operator=(const ReceiptKeeper&) = delete;
  virtual ~ReceiptKeeper() = default;
  // Before the commit. When it returns, the receipt outlives the program and the machine. A later one takes its place.
  [[nodiscard]] virtual Status keep(const Receipt& receipt, ReceiptStage stage) = 0;
  // After the commit: what was kept is true.
  [[nodiscard]] virtual Status confirm() = 0;
  // Nothing was written: there is nothing to keep.
  virtual void drop() = 0;
};

struct ApplyOptions {
  OnConflict onConflict = OnConflict::Stop;
  std::chrono::milliseconds lockTimeout{10000};
  std::string appliedBy;
  const std::vector<ReadRule>* rules = nullptr;  // house rules to be held; outlive the call
  ReceiptKeeper* keeper = nullptr;               // outlives the call; null: the receipt is only returned
  // What the database asks of a change set, and who signed this one. Where it asks for anything, no other verdict than
  // Stop is taken: what would be written over was seen by nobody who signed.
  SigningRule signingRule = SigningRule::Anyone;
  std::vector<Signature> signatures;
  std::vector<Comment> comments;  // for the receipt; those on new records by the labels that the changes have
  std::string copyTo;  // before anything is written the whole database is copied there; it goes again where nothing is
};

struct ApplyResult {
  std::optional<Receipt> receipt;   // applied
  Review review;                    // else: what blocked. Its script is empty.
  std::optional<Error> afterwards;  // applied, but this went wrong after it: the receipt is not where it should be
  std::string notReached;           // applied, but not everywhere yet: a sentence without its full stop
};

// The whole of it: begins, examines, writes, keeps the receipt, commits, finds out what became of that where the answer
// is lost, confirms the receipt or drops it. What an error says is true: nothing was written, or what stays is named,
// or (OutcomeUnknown) nobody knows, and the receipt stays unconfirmed. Until the commit `progress` can stop it; after
// that it can only stop the finding out. Errors: as for reviewChanges; PartlyWritten where storage that cannot roll
// back holds a part; OutcomeUnknown; NotSigned.
[[nodiscard]] Result<ApplyResult> applyChanges(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                                               const ApplyOptions& options, Progress& progress);

// The user's name as the system knows it.
[[nodiscard]] std::string systemUserName();
// RFC 3339, UTC, whole seconds.
[[nodiscard]] std::string nowUtc();

}  // namespace iterandum
