#include "core/apply/apply.h"

#include <pwd.h>
#include <unistd.h>

#include <chrono>
#include <ctime>
#include <set>
#include <thread>

#include "core/apply/execution.h"
#include "core/apply/outcome.h"
#include "core/apply/script.h"

namespace iterandum {
namespace {

// Rolls back when it goes out of scope, unless the transaction has been ended before.
class Transaction {
 public:
  explicit Transaction(Session& session) : session_(session) {}
  Transaction(const Transaction&) = delete;
  Transaction& operator=(const Transaction&) = delete;
  ~Transaction() { session_.rollback(); }

 private:
  Session& session_;
};

// A database can end the transaction while it refuses a change; then the rest is tried again without that change.
// As many times as a person would want to read such findings.
constexpr int kMostRepeats = 50;

Status tryChanges(Session& session, Examination& examination, std::optional<Execution>& execution,
                  std::chrono::milliseconds lockTimeout, Progress& progress) {
  for (int repeat = 0; repeat < kMostRepeats; ++repeat) {
    const Plan plan = makePlan(examination, PlanFor::Writing);
    execution.emplace(session, examination, progress);
    ITERANDUM_TRY(execution->run(plan));
    if (!execution->transactionLost()) return {};
    session.rollback();
    ITERANDUM_TRY(session.begin(lockTimeout, progress));
  }
  return fail(ErrorKind::Refused,
              "the database ends the transaction again and again while changes are tried; nothing was written");
}

void finish(Examination& examination, const std::vector<Effect>& effects, Review& review) {
  review.counts = examination.counts();
  review.ready = !examination.blocked();
  review.findings = examination.takeFindings();
  review.effects = effects;
  std::stable_sort(review.effects.begin(), review.effects.end(),
                   [](const Effect& a, const Effect& b) { return a.change < b.change; });
}

// Servers count on for records that were never kept; files do not.
std::vector<std::string> numbersUsedUp(const Examination& examination) {
  std::set<std::string> out;
  for (const ExaminedBlock& block : examination.blocks()) {
    if (block.table == nullptr || block.changes.action != Action::Add) continue;
    for (const Column& column : block.table->columns) {
      const bool given = block.cellOf(column.name).has_value();
      if (column.generatedKey && column.numbersStayUsedUp && !given)
        out.insert(block.table->name.name + "." + column.name);
    }
  }
  return {out.begin(), out.end()};
}

Result<Review> reviewOnce(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                          const ReviewOptions& options, Progress& progress) {
  Review review;
  review.rehearsed = options.rehearse;
  ExaminationOptions how;
  how.wholeRecords = options.rehearse;
  how.checkRules = !options.rehearse;
  Examination examination(session, catalogue, how, progress);
  if (!options.rehearse) {
    ITERANDUM_TRY(examination.run(changes));
    if (options.withScript) review.statements = makeScript(session, examination);
    finish(examination, {}, review);
    return review;
  }
  ITERANDUM_TRY(session.begin(options.lockTimeout, progress));
  const Transaction transaction(session);
  ITERANDUM_TRY(examination.run(changes));
  // The script tells of every change, those that will turn out to be refused included: it is made before the trial.
  if (options.withScript) review.statements = makeScript(session, examination);
  std::optional<Execution> execution;
  ITERANDUM_TRY(tryChanges(session, examination, execution, options.lockTimeout, progress));
  finish(examination, execution->effects(), review);
  review.usedUp = numbersUsedUp(examination);
  return review;
}

// Tables whose storage cannot roll back come last, when everything else went through.
bool writesWhatStays(const Examination& examination) {
  return std::any_of(examination.blocks().begin(), examination.blocks().end(),
                     [](const ExaminedBlock& block) { return block.table != nullptr && block.table->cannotRollBack; });
}

Status writeWhatStays(Examination& examination, Execution& execution) {
  ITERANDUM_TRY(execution.run(makePlan(examination, PlanFor::Writing), Writes::ThatStay));
  if (!examination.blocked()) return {};
  std::string message =
      "tables whose storage cannot roll back were written only in part, and that part stays; all other "
      "changes were taken back. Refused:";
  for (const Finding& finding : examination.takeFindings()) {
    if (finding.blocks) message += "\n" + finding.message;
  }
  return fail(ErrorKind::Refused, message);
}

// Where the connection was lost while committing and the server does not tell, the records do.
Status commitOrFindOut(Session& session, const Catalogue& catalogue, const Receipt& receipt) {
  Status done = session.commit();
  if (done || done.error().kind != ErrorKind::OutcomeUnknown) return done;
  Progress progress;
  const auto state = writtenState(session, catalogue, receipt, progress);
  if (!state || *state == WrittenState::NotKnown) return done;
  if (*state == WrittenState::Written) return {};
  return fail(ErrorKind::ConnectionLost,
              "the connection was lost while committing; the records were read again, and nothing was written");
}

Result<ApplyResult> applyOnce(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                              const ApplyOptions& options, Progress& progress) {
  ApplyResult result;
  ITERANDUM_TRY(session.begin(options.lockTimeout, progress));
  const Transaction transaction(session);
  ExaminationOptions how;
  how.onConflict = options.onConflict;
  Examination examination(session, catalogue, how, progress);
  ITERANDUM_TRY(examination.run(changes));
  std::optional<Execution> execution;
  ITERANDUM_TRY(tryChanges(session, examination, execution, options.lockTimeout, progress));
  result.review.rehearsed = true;
  if (examination.blocked()) {
    finish(examination, execution->effects(), result.review);
    return result;
  }
  Receipt receipt;
  receipt.appliedAt = nowUtc();
  receipt.appliedBy = options.appliedBy;
  receipt.database = session.info().address;
  receipt.title = changes.title;
  if (writesWhatStays(examination)) {
    // Whether a receipt can be kept at all has to be known before.
    receipt.blocks = execution->receiptBlocks();
    if (options.keepReceipt) ITERANDUM_TRY(options.keepReceipt(receipt, ReceiptStage::Trial));
    ITERANDUM_TRY(writeWhatStays(examination, *execution));
  }
  receipt.blocks = execution->receiptBlocks();
  if (options.keepReceipt) ITERANDUM_TRY(options.keepReceipt(receipt, ReceiptStage::Final));
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped; nothing was written");
  ITERANDUM_TRY(commitOrFindOut(session, catalogue, receipt));
  finish(examination, execution->effects(), result.review);
  result.receipt = std::move(receipt);
  return result;
}

// Two transactions can stand in each other's way so that the server ends one of them. Nothing of that one is written,
// and trying it again a little later is what helps.
template <typename Attempt>
auto tryAgainWhileInTheWay(const Attempt& attempt, Progress& progress) -> decltype(attempt()) {
  constexpr int kTries = 8;
  for (int number = 1;; ++number) {
    auto result = attempt();
    if (result || result.error().kind != ErrorKind::TryAgain || number == kTries) return result;
    if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped; nothing was written");
    // Spread out by process, so that two of them do not meet again in step.
    std::this_thread::sleep_for(std::chrono::milliseconds(number * (20 + getpid() % 31)));
  }
}

}  // namespace

Result<Review> reviewChanges(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                             const ReviewOptions& options, Progress& progress) {
  return tryAgainWhileInTheWay([&] { return reviewOnce(session, catalogue, changes, options, progress); }, progress);
}

Result<ApplyResult> applyChanges(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                                 const ApplyOptions& options, Progress& progress) {
  bool receiptKept = false;
  ApplyOptions watched = options;
  if (options.keepReceipt) {
    watched.keepReceipt = [&](const Receipt& receipt, ReceiptStage stage) {
      receiptKept = true;
      return options.keepReceipt(receipt, stage);
    };
  }
  return tryAgainWhileInTheWay(
      [&]() -> Result<ApplyResult> {
        auto result = applyOnce(session, catalogue, changes, watched, progress);
        // One receipt for one attempt: whoever keeps them is told of the failure instead.
        if (!result && receiptKept && result.error().kind == ErrorKind::TryAgain) {
          result.error().kind = ErrorKind::Refused;
        }
        return result;
      },
      progress);
}

std::string systemUserName() {
  const passwd* entry = getpwuid(geteuid());
  return entry != nullptr && entry->pw_name != nullptr ? entry->pw_name : std::to_string(geteuid());
}

std::string nowUtc() {
  const std::time_t now = std::time(nullptr);
  std::tm utc{};
  gmtime_r(&now, &utc);
  char buffer[32];
  std::strftime(buffer, sizeof buffer, "%Y-%m-%dT%H:%M:%SZ", &utc);
  return buffer;
}

}  // namespace iterandum
