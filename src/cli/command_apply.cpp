// review, apply and revert: change files against a database.
#include <algorithm>
#include <cstdio>

#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/interrupt.h"
#include "cli/rule_file.h"
#include "cli/signing.h"
#include "core/base/names.h"
#include "core/changes/change_file.h"
#include "core/paper/paper.h"
#include "core/review/running_code.h"
#include "core/store/kept_signing.h"
#include "core/store/receipt_keeper.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

std::chrono::milliseconds lockTimeout(const Arguments& a) {
  return std::chrono::milliseconds(static_cast<long>(a.lockTimeout.value_or(10.0) * 1000));
}

// Once for each database, before anything runs. Where the store cannot be read it is said again.
void tellWhatRuns(const std::string& address, const Catalogue& catalogue, const ChangeList& changes) {
  std::vector<std::string> code = runningCode(catalogue, changes);
  if (code.empty()) return;
  const auto path = Store::defaultPath();
  auto store = path ? Store::open(*path, std::chrono::seconds(1)) : Result<std::unique_ptr<Store>>(fail(path.error()));
  if (store) {
    const auto told = (*store)->toldCode(address);
    if (told) std::erase_if(code, [&](const std::string& name) { return told->contains(name); });
  }
  if (code.empty()) return;
  std::fprintf(stderr, "note: %s\n", visibleText(runningCodeInWords(code)).c_str());
  if (store) (void)(*store)->rememberToldCode(address, code);
}

// As a page to be printed and signed.
Status printPaper(const Review& review, const ChangeDocument& document, const Catalogue& catalogue, Session& session,
                  Progress& progress) {
  const ChangeList& changes = document.changes;
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(const CalledBy calledBy, store->readableChoices(session.info().address));
  RecordNames names(catalogue, calledBy);
  wantNames(changes, names);
  ITERANDUM_TRY(names.read(session, progress));
  const PaperHead head{changes.title, session.info().address, nowUtc(), systemUserName(), document.comments};
  return writeOut(reviewPaper(head, changes, review, names));
}

Status printReview(const Review& review, const Catalogue& catalogue, const std::string& format) {
  if (format == "json") return writeOut(reviewJson(review, catalogue));
  return writeOut(format == "sql" ? reviewScript(review) : reviewText(review));
}

Result<Exit> review(const Arguments& a) {
  ITERANDUM_ASSIGN(const ChangeDocument document, readSignedChanges(a.file));
  const ChangeList& changes = document.changes;
  tellSignatures(document);
  tellComments(document);
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, false));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
  if (!a.noRehearsal) tellWhatRuns(session->info().address, catalogue, changes);
  ITERANDUM_ASSIGN(const std::vector<ReadRule> rules, readRuleFile(a, catalogue));
  ReviewOptions options;
  options.rules = a.rulesFile.empty() ? nullptr : &rules;
  options.rehearse = !a.noRehearsal;
  options.lockTimeout = lockTimeout(a);
  options.withScript = a.format != "text" && !a.format.empty();
  ITERANDUM_ASSIGN(const Review result, reviewChanges(*session, catalogue, changes, options, progress));
  ITERANDUM_TRY(a.format == "html" ? printPaper(result, document, catalogue, *session, progress)
                                   : printReview(result, catalogue, a.format));
  return result.ready ? Exit::Done : Exit::Blocked;
}

// The receipt goes to the store, and to a file if one is named, before anything is committed.
class StoreAndFile : public ReceiptKeeper {
 public:
  Status open(const Arguments& a) {
    ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
    ITERANDUM_ASSIGN(store_, Store::open(path, lockTimeout(a)));
    inStore_ = std::make_unique<StoreReceiptKeeper>(*store_);
    if (a.receipt.empty()) return {};
    ITERANDUM_ASSIGN(file_, PendingFile::open(a.receipt));
    return {};
  }
  [[nodiscard]] Store& store() const { return *store_; }
  Status keep(const Receipt& receipt, ReceiptStage stage) override {
    // What went down a pipe cannot be taken back: there the final one alone is tried.
    const bool tried = stage == ReceiptStage::Final || (file_ && file_->canBeRewritten());
    if (file_ && tried) ITERANDUM_TRY(file_->write(receiptJson(receipt)));
    return inStore_->keep(receipt, stage);
  }
  Status confirm() override {
    Status placed = file_ ? file_->putInPlace() : Status();
    ITERANDUM_TRY(inStore_->confirm());
    return placed;
  }
  void drop() override { inStore_->drop(); }

 private:
  std::unique_ptr<Store> store_;
  std::unique_ptr<StoreReceiptKeeper> inStore_;
  std::unique_ptr<PendingFile> file_;
};

std::string appliedText(const Receipt& receipt) {
  std::size_t skipped = 0;
  std::size_t alreadySo = 0;
  for (const ReceiptBlock& block : receipt.blocks) {
    for (const Outcome o : block.outcomes) {
      skipped += o == Outcome::Skipped ? 1 : 0;
      alreadySo += o == Outcome::AlreadySo ? 1 : 0;
    }
  }
  std::string out = "applied " + several(receipt.appliedCount(), "change", "changes") + " to " + receipt.database +
                    " at " + receipt.appliedAt;
  if (alreadySo > 0) out += "; " + std::to_string(alreadySo) + " were so already";
  if (skipped > 0) out += "; " + std::to_string(skipped) + " left as they are now";
  return out + "\n";
}

Exit appliedBut(const std::string& what) {
  std::fprintf(stderr, "iterandum-cli: the changes are applied, but %s\n", what.c_str());
  return Exit::AppliedBut;
}

Result<Exit> apply(const Arguments& a) {
  ITERANDUM_TRY(refuseTargets({a.receipt, a.copyFirst}, {a.file, a.rulesFile}, a.database));
  if (a.copyFirst == "-") return fail(ErrorKind::InvalidInput, "the copy is made as a file; name one", "--copy-first");
  ITERANDUM_ASSIGN(const ChangeDocument document, readSignedChanges(a.file));
  const ChangeList& changes = document.changes;
  StoreAndFile keeper;
  ITERANDUM_TRY(keeper.open(a));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, false));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
  tellWhatRuns(session->info().address, catalogue, changes);
  ITERANDUM_ASSIGN(const std::vector<ReadRule> rules, readRuleFile(a, catalogue));
  ApplyOptions options;
  options.rules = a.rulesFile.empty() ? nullptr : &rules;
  options.onConflict =
      a.onConflict == "mine" ? OnConflict::Mine : (a.onConflict == "theirs" ? OnConflict::Theirs : OnConflict::Stop);
  options.lockTimeout = lockTimeout(a);
  options.appliedBy = systemUserName();
  options.keeper = &keeper;
  options.copyTo = a.copyFirst;
  options.signatures = document.signatures;
  options.comments = document.comments;
  ITERANDUM_ASSIGN(options.signingRule, keptSigningRule(keeper.store(), session->info().address));
  const StopsOnInterrupt interrupt(progress);
  ITERANDUM_ASSIGN(const ApplyResult result, applyChanges(*session, catalogue, changes, options, progress));
  if (!result.receipt) {
    ITERANDUM_TRY(printReview(result.review, catalogue, a.format));
    return Exit::Blocked;
  }
  Exit exit = Exit::Done;
  if (result.afterwards) exit = appliedBut("the receipt is not where it should be: " + result.afterwards->text());
  if (!result.notReached.empty()) exit = appliedBut(result.notReached);
  // A reader that went away has not read that they are: standard error says so.
  const Status said = writeOut(a.format == "json" ? receiptJson(*result.receipt) : appliedText(*result.receipt));
  if (!said) exit = appliedBut("that could not be written out: " + said.error().text());
  return exit;
}

Result<Receipt> receiptFile(const std::string& path) {
  ITERANDUM_ASSIGN(const std::string document, readWhole(path));
  auto receipt = readReceiptJson(document);
  if (!receipt) receipt.error().place = path + ": " + receipt.error().place;
  return receipt;
}

// One that the store has of this very database.
Result<Receipt> keptReceipt(const Arguments& a) {
  Arguments ofDatabase = a;
  ofDatabase.database = a.file;
  ITERANDUM_ASSIGN(const auto session, openDatabase(ofDatabase, true));
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(const std::vector<KeptReceipt> kept, store->receipts(session->info().address));
  const auto one =
      std::find_if(kept.begin(), kept.end(), [&](const KeptReceipt& r) { return r.id == *a.receiptNumber; });
  const std::string place = "--receipt " + std::to_string(*a.receiptNumber);
  if (one == kept.end()) {
    return fail(ErrorKind::NotFound, "no receipt of this number is kept for the database; 'history' lists them", place);
  }
  if (one->pending) {
    return fail(ErrorKind::InvalidFile, "whether it was applied is not known; look at the records first", place);
  }
  return store->receipt(one->id);
}

Result<Exit> revert(const Arguments& a) {
  const bool fromStore = a.receiptNumber.has_value();
  ITERANDUM_TRY(refuseTargets({a.output}, {fromStore ? std::string() : a.file}, fromStore ? a.file : std::string()));
  ITERANDUM_ASSIGN(const Receipt receipt, fromStore ? keptReceipt(a) : receiptFile(a.file));
  const Reversal reversal = revertReceipt(receipt);
  ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.output));
  ITERANDUM_TRY(file->write(writeChangeFile(reversal.changes)));
  ITERANDUM_TRY(file->putInPlace());
  for (const std::string& n : reversal.notes) std::fprintf(stderr, "note: %s\n", n.c_str());
  return Exit::Done;
}

}  // namespace

Exit runReview(const Arguments& arguments) {
  const auto result = review(arguments);
  return result ? *result : report(result.error());
}

Exit runApply(const Arguments& arguments) {
  const auto result = apply(arguments);
  return result ? *result : report(result.error());
}

Exit runRevert(const Arguments& arguments) {
  const auto result = revert(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
