// Review and apply: the two things that are done with a change set.
//
// Both examine it and try it inside one transaction that holds off other writers. A review always rolls back; apply
// commits when nothing blocks, and else leaves the database as it was and returns the review that says why.
#pragma once

#include <functional>
#include <optional>

#include "core/apply/receipt.h"
#include "core/review/examination.h"

namespace iterandum {

struct ReviewOptions {
  bool rehearse = true;  // needs the right to write; leaves nothing behind
  bool withScript = true;
  std::chrono::milliseconds lockTimeout{10000};
};

// Errors: InvalidFile for a change set that contradicts itself; what the session reports.
[[nodiscard]] Result<Review> reviewChanges(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                                           const ReviewOptions& options, Progress& progress);

// A trial receipt is what can be known before tables are written whose storage cannot roll back: it has to be possible
// to keep it. The final one takes its place.
enum class ReceiptStage { Trial, Final };

struct ApplyOptions {
  OnConflict onConflict = OnConflict::Stop;
  std::chrono::milliseconds lockTimeout{10000};
  std::string appliedBy;
  // Called with the finished receipt just before the commit: an error of it means that nothing is applied.
  std::function<Status(const Receipt&, ReceiptStage)> keepReceipt;
};

struct ApplyResult {
  std::optional<Receipt> receipt;  // applied
  Review review;                   // else: what blocked. Its script is empty.
};

// Errors: as for reviewChanges; OutcomeUnknown when the session died while committing. After any other error nothing
// was written.
[[nodiscard]] Result<ApplyResult> applyChanges(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                                               const ApplyOptions& options, Progress& progress);

// The user's name as the system knows it.
[[nodiscard]] std::string systemUserName();
// RFC 3339, UTC, whole seconds.
[[nodiscard]] std::string nowUtc();

}  // namespace iterandum
