#include "core/apply/apply.h"

#include <pwd.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <ctime>
#include <map>
#include <set>
#include <thread>

#include "core/apply/elsewhere.h"
#include "core/apply/execution.h"
#include "core/apply/outcome.h"
#include "core/apply/rule_judge.h"
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

Status tryChanges(Session& session, const Facts& facts, Verdicts& verdicts, std::optional<Execution>& execution,
                  std::chrono::milliseconds lockTimeout, Progress& progress, ElsewhereWatch* elsewhere = nullptr) {
  for (int repeat = 0; repeat < kMostRepeats; ++repeat) {
    if (elsewhere != nullptr) {
      ITERANDUM_TRY(elsewhere->start(facts));
    }
    const Plan plan = makePlan(facts, verdicts, PlanFor::Writing);
    execution.emplace(session, facts, verdicts, progress);
    ITERANDUM_TRY(execution->run(plan));
    if (!execution->transactionLost()) return {};
    session.rollback();
    ITERANDUM_TRY(session.begin(lockTimeout, progress));
  }
  return fail(ErrorKind::Refused, "the database ends the transaction again and again while changes are tried");
}

void finish(Examination& examination, const std::vector<Effect>& effects, Review& review) {
  review.counts = examination.counts();
  review.ready = !examination.verdicts().blocked();
  review.findings = examination.verdicts().takeFindings();
  review.effects = effects;
  std::stable_sort(review.effects.begin(), review.effects.end(),
                   [](const Effect& a, const Effect& b) { return a.change < b.change; });
}

// Servers count on for records that were never kept; files do not.
std::vector<std::string> numbersUsedUp(const Facts& facts) {
  std::set<std::string> out;
  for (const ExaminedBlock& block : facts.blocks()) {
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
  const std::vector<ReadRule> none;
  RuleJudge judge(session, catalogue, options.rules != nullptr ? *options.rules : none, progress);
  how.wholeRecords = options.rehearse || options.rules != nullptr;
  how.checkRules = !options.rehearse;
  Examination examination(session, catalogue, how, progress);
  if (!options.rehearse) {
    ITERANDUM_TRY(examination.run(changes));
    if (options.withScript) review.statements = makeScript(session, examination.facts(), examination.verdicts());
    ITERANDUM_TRY(judge.judgeRead(examination.facts(), examination.verdicts()));
    finish(examination, {}, review);
    return review;
  }
  ITERANDUM_TRY(session.begin(options.lockTimeout, progress));
  const Transaction transaction(session);
  ITERANDUM_TRY(examination.run(changes));
  // The script tells of every change, those that will turn out to be refused included: it is made before the trial.
  if (options.withScript) review.statements = makeScript(session, examination.facts(), examination.verdicts());
  ITERANDUM_TRY(judge.lookBefore(examination.facts(), examination.verdicts()));
  std::optional<Execution> execution;
  ElsewhereWatch elsewhere(session, catalogue, progress);
  ITERANDUM_TRY(tryChanges(session, examination.facts(), examination.verdicts(), execution, options.lockTimeout,
                           progress, &elsewhere));
  ITERANDUM_TRY(judge.judgeWritten(examination.facts(), examination.verdicts(), *execution));
  ITERANDUM_TRY(elsewhere.lookAfter(examination.facts(), examination.verdicts(), *execution));
  session.rollback();
  ITERANDUM_ASSIGN(review.elsewhere, elsewhere.lookBefore());
  finish(examination, execution->effects(), review);
  review.usedUp = numbersUsedUp(examination.facts());
  return review;
}

// Tables whose storage cannot roll back come last, when everything else went through.
bool writesWhatStays(const Facts& facts) {
  return std::any_of(facts.blocks().begin(), facts.blocks().end(),
                     [](const ExaminedBlock& block) { return block.table != nullptr && block.table->cannotRollBack; });
}

// Where the connection was lost while committing, the records tell what became of it: those of the receipt, read again
// and compared. Nothing else is proof: a number that the server knew a transaction by may be somebody else's by now.
Status commitOrFindOut(Session& session, const Catalogue& catalogue, const Receipt& receipt, Progress& progress) {
  Status done = session.commit(progress);
  if (done || done.error().kind != ErrorKind::OutcomeUnknown) return done;
  Progress unstopped;
  const auto state = writtenState(session, catalogue, receipt, unstopped);
  if (!state || *state == WrittenState::NotKnown) return done;
  if (*state == WrittenState::Written) return {};
  return fail(ErrorKind::ConnectionLost, "the connection was lost while committing, and the records were read again");
}

// One attempt at applying.
class Application {
 public:
  Application(Session& session, const Catalogue& catalogue, const ApplyOptions& options,
              const std::vector<Signature>& signatures, Progress& progress)
      : session_(session), catalogue_(catalogue), options_(options), signatures_(signatures), progress_(progress) {}

  Result<ApplyResult> run(const ChangeList& changes) {
    auto result = attempt(changes);
    if (result && result->receipt) {
      if (options_.keeper != nullptr) {
        if (Status kept = options_.keeper->confirm(); !kept && !result->afterwards) result->afterwards = kept.error();
      }
      return result;
    }
    if (result) {
      dropReceipt();
      return result;
    }
    return fail(toldTruly(std::move(result.error())));
  }

 private:
  Result<ApplyResult> attempt(const ChangeList& changes) {
    ApplyResult result;
    ITERANDUM_TRY(session_.begin(options_.lockTimeout, progress_));
    const Transaction transaction(session_);
    ExaminationOptions how;
    how.onConflict = options_.onConflict;
    Examination examination(session_, catalogue_, how, progress_);
    ITERANDUM_TRY(examination.run(changes));
    const std::vector<ReadRule> none;
    RuleJudge judge(session_, catalogue_, options_.rules != nullptr ? *options_.rules : none, progress_);
    ITERANDUM_TRY(judge.lookBefore(examination.facts(), examination.verdicts()));
    std::optional<Execution> execution;
    ITERANDUM_TRY(
        tryChanges(session_, examination.facts(), examination.verdicts(), execution, options_.lockTimeout, progress_));
    ITERANDUM_TRY(judge.judgeWritten(examination.facts(), examination.verdicts(), *execution));
    result.review.rehearsed = true;
    if (examination.verdicts().blocked()) {
      finish(examination, execution->effects(), result.review);
      return result;
    }
    Receipt receipt;
    receipt.appliedAt = nowUtc();
    receipt.appliedBy = options_.appliedBy;
    receipt.database = session_.info().address;
    receipt.title = changes.title;
    receipt.origins = changes.origins;
    receipt.signatures = signatures_;
    if (writesWhatStays(examination.facts())) {
      // Whether a receipt can be kept at all has to be known before.
      receipt.blocks = execution->receiptBlocks();
      ITERANDUM_TRY(keep(receipt, ReceiptStage::Trial));
      if (progress_.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
      ITERANDUM_TRY(writeWhatStays(examination.facts(), examination.verdicts(), *execution));
      receipt.blocks = execution->receiptBlocks();
      receipt.comments = commentsOn(receipt, changes);
      // What stays cannot be taken back by refusing: it goes on, and says that the receipt is not complete.
      if (Status kept = keep(receipt, ReceiptStage::Final); !kept) result.afterwards = kept.error();
    } else {
      receipt.blocks = execution->receiptBlocks();
      receipt.comments = commentsOn(receipt, changes);
      ITERANDUM_TRY(keep(receipt, ReceiptStage::Final));
      if (progress_.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
    }
    ITERANDUM_TRY(commitOrFindOut(session_, catalogue_, receipt, progress_));
    result.notReached = session_.notReachedByCommit();
    finish(examination, execution->effects(), result.review);
    result.receipt = std::move(receipt);
    return result;
  }

  // New records have their keys by now.
  [[nodiscard]] std::vector<Comment> commentsOn(const Receipt& receipt, const ChangeList& changes) const {
    std::vector<Comment> out = options_.comments;
    const auto isOnNew = [](const Comment& c) { return c.about.kind == CommentPlace::Kind::NewRecord; };
    if (std::none_of(out.begin(), out.end(), isOnNew)) return out;
    std::map<std::string, std::uint32_t> labelled;
    for (const ChangeBlock& block : changes.blocks()) {
      for (std::size_t row = 0; row < block.labels.size(); ++row) {
        if (!block.labels[row].empty()) labelled.emplace(block.labels[row], block.changeIndex[row]);
      }
    }
    for (Comment& comment : out) {
      const auto change = labelled.find(comment.about.label);
      if (!isOnNew(comment) || change == labelled.end()) continue;
      for (const ReceiptBlock& block : receipt.blocks) {
        const auto at = std::find(block.changeIndex.begin(), block.changeIndex.end(), change->second);
        if (block.action != Action::Add || block.cascaded || at == block.changeIndex.end()) continue;
        comment.about.kind = CommentPlace::Kind::Record;
        comment.about.label.clear();
        comment.about.keyColumns = block.keyColumns;
        for (const ValueColumn& keys : block.keys)
          comment.about.key.push_back(keys.at(static_cast<std::size_t>(at - block.changeIndex.begin())));
      }
    }
    return out;
  }

  Status writeWhatStays(const Facts& facts, Verdicts& verdicts, Execution& execution) {
    std::set<std::string> names;
    for (const ExaminedBlock& block : facts.blocks()) {
      if (block.table != nullptr && block.table->cannotRollBack) names.insert(displayName(block.table->name));
    }
    for (const std::string& name : names) stayingTables_ += (stayingTables_.empty() ? "" : ", ") + name;
    Status done = execution.run(makePlan(facts, verdicts, PlanFor::Writing), Writes::ThatStay);
    stays_ = execution.wroteWhatStays();
    ITERANDUM_TRY(done);
    if (!verdicts.blocked()) return {};
    std::string message = "refused:";
    for (const Finding& finding : verdicts.takeFindings()) {
      if (finding.blocks) message += " " + finding.message + ";";
    }
    return fail(ErrorKind::Refused, message);
  }

  Status keep(const Receipt& receipt, ReceiptStage stage) {
    if (options_.keeper == nullptr) return {};
    keptAny_ = true;
    Status kept = options_.keeper->keep(receipt, stage);
    if (!kept) kept.error().message = "the receipt cannot be kept: " + kept.error().message;
    return kept;
  }

  void dropReceipt() {
    if (options_.keeper != nullptr && keptAny_) options_.keeper->drop();
  }

  // Adds what is true about the writing, and only that.
  Error toldTruly(Error error) {
    if (error.kind == ErrorKind::OutcomeUnknown) return error;
    if (stays_) {
      error.kind = ErrorKind::PartlyWritten;
      error.message = "written only in part: tables whose storage cannot roll back keep what was written to them (" +
                      stayingTables_ +
                      "), all other changes were taken back; review again to see what is left: " + error.message;
      return error;
    }
    dropReceipt();
    // However the engine words it.
    if (error.kind == ErrorKind::Cancelled) error.message = "it was stopped";
    if (error.message.find("nothing was written") == std::string::npos) error.message += "; nothing was written";
    return error;
  }

  Session& session_;
  const Catalogue& catalogue_;
  const ApplyOptions& options_;
  const std::vector<Signature>& signatures_;
  Progress& progress_;
  bool keptAny_ = false;
  bool stays_ = false;
  std::string stayingTables_;
};

// Two transactions can stand in each other's way so that the server ends one of them. Nothing of that one is written,
// and trying it again a little later is what helps.
template <typename Attempt>
auto tryAgainWhileInTheWay(const Attempt& attempt, Progress& progress) -> decltype(attempt()) {
  constexpr int kTries = 8;
  for (int number = 1;; ++number) {
    auto result = attempt();
    if (result || result.error().kind != ErrorKind::TryAgain) return result;
    if (number == kTries) {
      Error error = result.error();
      error.message = "others kept changing the same records, and were quicker " + std::to_string(kTries) +
                      " times; nothing was written. Try again in a while (the server says: " + error.engineWords + ")";
      return fail(std::move(error));
    }
    if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped; nothing was written");
    // Spread out by process, so that two of them do not meet again in step.
    std::this_thread::sleep_for(std::chrono::milliseconds(number * (20 + getpid() % 31)));
  }
}

// Those who signed just these changes. Errors: NotSigned where that is not what the database asks for.
Result<std::vector<Signature>> signaturesThatHold(const ChangeList& changes, const ApplyOptions& options) {
  std::vector<Signature> out;
  if (options.signatures.empty() && options.signingRule == SigningRule::Anyone) return out;
  const std::vector<JudgedSignature> judged =
      judgeSignatures(options.signatures, changesDigest(changes), options.appliedBy);
  if (const std::string why = whyNotApplied(options.signingRule, judged); !why.empty()) {
    return fail(ErrorKind::NotSigned, why + "; nothing was written");
  }
  if (options.signingRule != SigningRule::Anyone && options.onConflict != OnConflict::Stop) {
    return fail(ErrorKind::NotSigned,
                "only what somebody else signed is applied to this database, and nobody who signed saw what would be "
                "written over or left out; nothing was written");
  }
  if (options.onConflict != OnConflict::Stop) return out;  // what is applied may be another thing then
  for (const JudgedSignature& s : judged) {
    if (s.fits && s.vouching != Vouching::False) out.push_back(s.signature);
  }
  return out;
}

}  // namespace

Result<Review> reviewChanges(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                             const ReviewOptions& options, Progress& progress) {
  auto review =
      tryAgainWhileInTheWay([&] { return reviewOnce(session, catalogue, changes, options, progress); }, progress);
  // A review writes nothing, come what may.
  if (!review && review.error().kind == ErrorKind::LockTimeout) review.error().message += "; nothing was written";
  return review;
}

Result<ApplyResult> applyChanges(Session& session, const Catalogue& catalogue, const ChangeList& changes,
                                 const ApplyOptions& options, Progress& progress) {
  ITERANDUM_ASSIGN(const std::vector<Signature> signatures, signaturesThatHold(changes, options));
  if (!options.copyTo.empty()) {
    if (Status copied = session.copyTo(options.copyTo, progress); !copied) {
      copied.error().message += "; nothing was written";
      return fail(std::move(copied.error()));
    }
  }
  auto result = tryAgainWhileInTheWay(
      [&] { return Application(session, catalogue, options, signatures, progress).run(changes); }, progress);
  const bool mayBeWritten =
      result ? result->receipt.has_value()
             : result.error().kind == ErrorKind::OutcomeUnknown || result.error().kind == ErrorKind::PartlyWritten;
  if (!mayBeWritten && !options.copyTo.empty()) (void)std::remove(options.copyTo.c_str());
  return result;
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
