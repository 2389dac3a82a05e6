// sign: a name under a change set that was reviewed, and what a database asks of those that are applied to it.
#include <cstdio>

#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/rule_file.h"
#include "cli/signing.h"
#include "core/changes/change_file.h"
#include "core/store/kept_signing.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

const char* ruleInWords(SigningRule rule) {
  switch (rule) {
    case SigningRule::Anyone:
      return "whoever opens this database here may apply to it";
    case SigningRule::Signed:
      return "only what somebody else signed is applied to this database from here";
    case SigningRule::ByKey:
      break;
  }
  return "only what somebody else signed with a key that is trusted here is applied to this database from here";
}

Result<Exit> tellOrSetRule(const Arguments& a) {
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  if (!a.signingRule.empty()) {
    ITERANDUM_TRY(store->keepChoice(session->info().address, kSigningRuleChoice, a.signingRule));
  }
  ITERANDUM_ASSIGN(const SigningRule rule, keptSigningRule(*store, session->info().address));
  ITERANDUM_TRY(writeOut(std::string(ruleInWords(rule)) + "\n"));
  return Exit::Done;
}

// Nothing is signed that is not ready to be applied.
Result<Exit> sign(const Arguments& a) {
  if (a.file.empty()) return tellOrSetRule(a);
  if (a.output.empty()) return fail(ErrorKind::InvalidInput, "say where the signed change file goes", "-o");
  ITERANDUM_TRY(refuseTargets({a.output}, {a.file, a.rulesFile}, a.database));
  ITERANDUM_ASSIGN(ChangeDocument document, readSignedChanges(a.file));
  Signature signature;
  signature.by = a.signAs.empty() ? systemUserName() : a.signAs;
  signature.words = a.words;
  std::optional<SigningKey> key;
  if (!a.signingKey.empty()) {
    ITERANDUM_ASSIGN(key, findSigningKey(a.signingKey));
  }
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, false));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
  ITERANDUM_ASSIGN(const std::vector<ReadRule> rules, readRuleFile(a, catalogue));
  ReviewOptions options;
  options.rules = a.rulesFile.empty() ? nullptr : &rules;
  ITERANDUM_ASSIGN(const Review review, reviewChanges(*session, catalogue, document.changes, options, progress));
  if (!review.ready) {
    std::fprintf(stderr, "iterandum-cli: nothing is signed: this is not ready to be applied\n");
    ITERANDUM_TRY(writeOut(reviewText(review)));
    return Exit::Blocked;
  }
  signature.at = nowUtc();
  signature.database = session->info().address;
  signature.digest = changesDigest(document.changes);
  ITERANDUM_ASSIGN(signature, makeSignature(std::move(signature), key ? &*key : nullptr));
  putIn(std::move(signature), document.signatures);
  ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.output));
  ITERANDUM_TRY(file->write(writeChangeFile(document)));
  ITERANDUM_TRY(file->putInPlace());
  tellSignatures(document);
  return Exit::Done;
}

}  // namespace

Result<ChangeDocument> readSignedChanges(const std::string& path) {
  ITERANDUM_ASSIGN(const std::string text, readWhole(path));
  auto document = readChangeDocument(text);
  if (!document) {
    document.error().place = (path == "-" ? "standard input" : path) + ": " + document.error().place;
    return fail(document.error());
  }
  return document;
}

void tellSignatures(const ChangeDocument& document) {
  if (document.signatures.empty()) return;
  for (const JudgedSignature& judged :
       judgeSignatures(document.signatures, changesDigest(document.changes), systemUserName())) {
    say("note: " + inWords(judged, judged.signature.at));
  }
}

Exit runSign(const Arguments& arguments) {
  const auto result = sign(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
