#include "app/session/applying.h"

#include <QDir>
#include <QFileInfo>
#include <QRegularExpression>
#include <algorithm>
#include <iterator>
#include <set>

#include "app/session/desk.h"
#include "app/style/moments.h"
#include "core/apply/applied_additions.h"
#include "core/apply/outcome.h"
#include "core/review/placed_comments.h"
#include "core/store/kept_signing.h"
#include "core/store/receipt_keeper.h"

namespace iterandum {
namespace {

std::vector<Comment> without(std::vector<Comment> all, const std::vector<Comment>& left) {
  std::erase_if(all, [&](const Comment& one) { return std::find(left.begin(), left.end(), one) != left.end(); });
  return all;
}

// Where the copy of a database goes: beside the store, under the database's name and the moment.
Result<std::string> newCopy(const std::string& storePath, const std::string& title, const std::string& moment) {
  const QString folder = QFileInfo(toQ(storePath)).absolutePath() + QStringLiteral("/copies");
  if (!QDir().mkpath(folder)) return fail(ErrorKind::InvalidFile, "the folder cannot be made", folder.toStdString());
  QString name = toQ(title + " " + moment);
  name.replace(QRegularExpression(QStringLiteral("[^\\w .-]")), QStringLiteral("-"));
  for (int number = 1;; ++number) {
    const QString path = folder + QLatin1Char('/') + name +
                         (number == 1 ? QString() : QStringLiteral(" (%1)").arg(number)) + QStringLiteral(".sqlite");
    if (!QFileInfo::exists(path)) return path.toStdString();
  }
}

// What the receipt is to be about; nothing where no log has it.
Result<std::optional<StagedForReceipt>> stagedFor(const std::shared_future<Result<std::int64_t>>& held,
                                                  std::size_t gestures, const std::optional<SplitChanges>& part) {
  StagedForReceipt out;
  try {
    ITERANDUM_ASSIGN(out.log, held.get());
  } catch (const std::future_error&) {
    return std::nullopt;  // the store could not be opened by whoever keeps the log
  }
  if (out.log == 0) return std::nullopt;
  out.gestures = gestures;
  if (part) out.partAndRest.emplace(part->part, part->rest);
  return out;
}

// An apply before whose outcome nobody heard may have been written: then it is not done again.
Result<bool> wasWritten(Session& session, const Catalogue& catalogue, Store& store, std::int64_t log,
                        Progress& progress) {
  bool any = false;
  ITERANDUM_ASSIGN(const std::vector<std::int64_t> undecided, store.undecidedOf(log));
  for (const std::int64_t id : undecided) {
    ITERANDUM_ASSIGN(const Receipt receipt, store.receipt(id));
    ITERANDUM_ASSIGN(const WrittenState state, writtenState(session, catalogue, receipt, progress));
    if (state != WrittenState::Written) continue;
    ITERANDUM_TRY(store.confirmReceipt(id));
    any = true;
  }
  return any;
}

}  // namespace

void Applying::start(const std::string& title, std::optional<SplitChanges> part) {
  if (running()) return;
  ChangeSet only;
  if (part) only.apply(part->part);
  const ChangeSet& changes = part ? only : desk_.changes();
  std::vector<Comment> said = desk_.kept().comments();
  std::set<std::string> spokenOf;
  for (const Comment& comment : said) spokenOf.insert(comment.about.label);
  const ChangeList list = changes.toChangeList(title, spokenOf);
  left_ = commentsElsewhere(said, list);
  said = without(said, left_);
  // What was said of all of it was said of the rest, too.
  const auto ofAll = [](const Comment& one) { return one.about.kind == CommentPlace::Kind::All; };
  if (part) {
    std::copy_if(said.begin(), said.end(), std::back_inserter(left_), ofAll);
  } else {
    left_.clear();
  }
  const std::size_t gestures = desk_.changes().position();
  desk_.behind().cancelAll();
  // Both tasks need the part; which of them takes it first is nobody's to say.
  auto staged = [held = desk_.staged().hold(), gestures, part] { return stagedFor(held, gestures, part); };
  progress_ = desk_.front().post(
      this,
      [list, kept = desk_.kept().houseRules(), byChange = additionsByChange(changes, list),
       path = desk_.storeThread().path(), staged = std::move(staged), copies = desk_.kept().copiesFirst(),
       rule = desk_.kept().signingRule(), signatures = desk_.kept().signatures(),
       said](Session& session, Progress& progress) -> Result<Outcome> {
        Outcome outcome;
        if (copies && session.info().canBeCopied) {
          ITERANDUM_ASSIGN(outcome.copy, newCopy(path, session.info().title, nowUtc()));
        }
        ITERANDUM_ASSIGN(const Catalogue now, session.readCatalogue(progress));
        ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
        ITERANDUM_ASSIGN(std::optional<StagedForReceipt> about, staged());
        if (about) {
          ITERANDUM_ASSIGN(outcome.writtenBefore, wasWritten(session, now, *store, about->log, progress));
        }
        if (outcome.writtenBefore) return outcome;
        StoreReceiptKeeper keeper(*store, std::move(about));
        ApplyOptions options;
        options.appliedBy = systemUserName();
        options.keeper = &keeper;
        options.copyTo = outcome.copy;
        options.signatures = signatures;
        options.comments = said;
        ITERANDUM_ASSIGN(const SigningRule asked, keptSigningRule(*store, session.info().address));
        options.signingRule = std::max(rule, asked);  // another window may have made it stricter
        // What cannot be read stops nothing; the review says so.
        std::vector<std::string> unread;
        const std::vector<ReadRule> rules = readableRules(kept, contextNow(now), unread);
        if (!rules.empty()) options.rules = &rules;
        ITERANDUM_ASSIGN(outcome.result, applyChanges(session, now, list, options, progress));
        if (outcome.result.receipt) outcome.added = appliedAdditions(*outcome.result.receipt, byChange);
        return outcome;
      },
      [this, gestures, part = std::move(part)](Result<Outcome>&& outcome) {
        take(std::move(outcome), gestures, part);
      });
  emit started();
}

void Applying::stop() {
  if (progress_) progress_->cancel();
}

void Applying::take(Result<Outcome>&& outcome, std::size_t gestures, const std::optional<SplitChanges>& part) {
  progress_.reset();
  if (!outcome || !outcome->result.receipt) desk_.staged().letGo();
  if (!outcome) {
    desk_.staged().lookForWritten();  // and for what other windows did, if that is what stood in the way
    const ErrorKind kind = outcome.error().kind;
    const bool nothing = kind != ErrorKind::OutcomeUnknown && kind != ErrorKind::PartlyWritten;
    const QString words = toQ(outcome.error().text());
    emit failed(nothing ? tr("Nothing was applied: %1").arg(words) : words);
    return;
  }
  if (outcome->writtenBefore) {
    desk_.staged().lookForWritten();
    emit failed(
        tr("Nothing was applied now: what was applied before had been written, though nobody was told. It is in "
           "the history, and staged no more."));
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
  if (!result.notReached.empty()) message += tr(" Note: %1.").arg(toQ(result.notReached));
  desk_.kept().forgetSaid(left_);
  emit written();
  desk_.marks().markApplied(*result.receipt, desk_.catalogue());
  if (!outcome->copy.empty()) {
    message += QLatin1Char(' ') + tr("As it was before: %1.").arg(toQ(outcome->copy));
  }
  if (part) message += QLatin1Char(' ') + tr("What was not chosen is staged still.");
  desk_.staged().forgetApplied(gestures, outcome->added, part);
  emit applied(message);
  lookAgain(*result.receipt);
}

// In a transaction of its own, on another connection: what others see.
void Applying::lookAgain(const Receipt& receipt) {
  desk_.behind().post(
      this,
      [receipt, catalogue = desk_.sharedCatalogue()](Session& session, Progress& progress) {
        return readBack(session, *catalogue, receipt, progress);
      },
      [this](Result<ReadBack>&& now) {
        if (!now || now->different == 0) return;
        QStringList names;
        for (const std::string& name : now->first) names << toQ(name);
        if (now->different > now->first.size()) names << QStringLiteral("…");
        emit overtaken(tr("Read again after applying: %n record(s) of %1 (hold) something else already: %2.", "",
                          static_cast<int>(now->different))
                           .arg(now->records)
                           .arg(names.join(QStringLiteral(", "))));
      });
}

}  // namespace iterandum
