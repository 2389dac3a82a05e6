// Signatures: over exactly which changes, whose, and what a database asks of them.
#include "core/signing/judged_signature.h"

#include <gmock/gmock.h>

#include <cstdlib>
#include <random>
#include <set>

#include "core/store/kept_signing.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::IsEmpty;

ChangeList listOf(const std::vector<Change>& changes) {
  ChangeList out;
  for (const Change& change : changes) out.add(change);
  return out;
}

// --- the digest

// New records that point at each other and are pointed at, edits, removals; some of the new ones are alike.
std::vector<Change> randomChanges(std::mt19937& random) {
  std::vector<Change> out;
  const auto value = [&]() -> Value {
    switch (random() % 5) {
      case 0:
        return Value::integer(random() % 3);
      case 1:
        return Value::text(random() % 2 == 0 ? "" : "lime \"old\"");
      case 2:
        return Value::decimal("2.50");
      case 3:
        return Value();
      default:
        return Value::text("Ä" + std::to_string(random() % 3));
    }
  };
  const std::size_t added = random() % 6;
  for (std::size_t i = 0; i < added; ++i) {
    Change add;
    add.action = Action::Add;
    add.table = {"", random() % 2 == 0 ? "species" : "genus"};
    add.label = "new-" + std::to_string(i);
    add.cells.push_back({"name", false, {}, random() % 2 == 0 ? Value::text("lime") : value()});
    if (random() % 2 == 0) {
      add.cells.push_back({"parent_id", false, {}, Value::pendingKey("new-" + std::to_string(random() % added))});
    }
    out.push_back(std::move(add));
  }
  for (std::size_t i = 0; i < 1 + random() % 6; ++i) {
    Change change;
    change.action = random() % 3 == 0 ? Action::Remove : Action::Edit;
    change.table = {"", "tree"};
    change.keyColumns = {"area", "tree_id"};
    change.key = {Value::text("north"), Value::integer(static_cast<std::int64_t>(i))};
    change.cells.push_back({"condition", random() % 2 == 0 || change.action == Action::Remove, value(), value()});
    if (added > 0 && change.action == Action::Edit) {
      change.cells.push_back(
          {"species_id", true, Value::integer(9), Value::pendingKey("new-" + std::to_string(random() % added))});
    }
    out.push_back(std::move(change));
  }
  return out;
}

// The same, written down by somebody else.
std::vector<Change> inOtherWords(std::vector<Change> changes, std::mt19937& random) {
  std::shuffle(changes.begin(), changes.end(), random);
  const auto renamed = [](const std::string& label) { return "x" + std::string(label.rbegin(), label.rend()); };
  for (Change& change : changes) {
    std::shuffle(change.cells.begin(), change.cells.end(), random);
    if (!change.label.empty()) change.label = renamed(change.label);
    for (CellChange& cell : change.cells) {
      if (cell.to.kind() == Value::Kind::PendingKey)
        cell.to = Value::pendingKey(renamed(std::string(cell.to.asString())));
    }
    if (change.keyColumns.size() == 2 && random() % 2 == 0) {
      std::swap(change.keyColumns[0], change.keyColumns[1]);
      std::swap(change.key[0], change.key[1]);
    }
  }
  return changes;
}

// One thing in it is another. False: it came out as it was.
bool alterOne(std::vector<Change>& changes, std::mt19937& random) {
  Change& change = changes[random() % changes.size()];
  switch (random() % 7) {
    case 0:
      changes.erase(changes.begin() + (&change - changes.data()));
      // What pointed at it points at nothing that is there.
      return true;
    case 1:
      change.table.schema = "other";
      return true;
    case 2:
      if (change.key.empty()) return false;
      change.key[1] = Value::integer(4711);
      return true;
    case 3: {
      CellChange& cell = change.cells.front();
      if (!cell.hasFrom) return false;
      cell.from = Value::text("what nobody saw");
      return true;
    }
    case 4: {
      CellChange& cell = change.cells.front();
      if (change.action == Action::Remove) return false;
      cell.to = Value::text("what nobody wanted");
      return true;
    }
    case 5:
      change.cells.push_back({"note", true, Value::text("a"), Value::text("b")});
      if (change.action == Action::Add) change.cells.back().hasFrom = false;
      return true;
    default:
      change.cells.front().column = "girth";
      return true;
  }
}

TEST(ChangesDigestTest, IsThatOfTheChangesHoweverTheyAreWrittenDown) {
  std::mt19937 random(23);
  for (int round = 0; round < 3000; ++round) {
    const std::vector<Change> changes = randomChanges(random);
    ChangeList list = listOf(changes);
    const std::string digest = changesDigest(list);
    ASSERT_EQ(64U, digest.size());
    list.title = "Another title";
    const auto read = readChangeFile(writeChangeFile(list));
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(digest, changesDigest(*read)) << writeChangeFile(list);
    const ChangeList other = listOf(inOtherWords(changes, random));
    // Where two new records are alike in all that they are and in all that hangs on them, who is which follows from
    // their order: then another order may be another digest.
    if (changesDigest(other) != digest) {
      std::set<std::string> alike;
      bool twins = false;
      for (const Change& change : changes) {
        if (change.action != Action::Add) continue;
        twins = twins || !alike.insert(change.table.name + canonicalText(change.cells.front().to)).second;
      }
      ASSERT_TRUE(twins) << writeChangeFile(list) << writeChangeFile(other);
    }
    std::vector<Change> altered = changes;
    if (!alterOne(altered, random)) continue;
    ASSERT_NE(digest, changesDigest(listOf(altered))) << writeChangeFile(list) << writeChangeFile(listOf(altered));
  }
}

// Two new records that are alike, and what points at them: both at one is another thing than each at one.
TEST(ChangesDigestTest, WhoPointsAtWhichOfTwoAlikeIsInIt) {
  const std::string both = "add species name=\"lime\" @a\nadd species name=\"lime\" @b\n";
  const auto pointing = [&](const std::string& first, const std::string& second) {
    return changesDigest(TestDatabase::changes(both + "edit tree tree_id=7 species_id:1->{\"ref\":\"" + first +
                                               "\"}\nedit tree tree_id=8 species_id:1->{\"ref\":\"" + second + "\"}"));
  };
  EXPECT_NE(pointing("a", "b"), pointing("a", "a"));
  EXPECT_EQ(pointing("a", "a"), pointing("b", "b")) << "one of them has both, whatever it is called";
  EXPECT_EQ(pointing("a", "b"), pointing("b", "a"));
}

// --- what a signature is worth

Signature plain(const std::string& by, const std::string& digest = "d") {
  return {by, "2026-05-01T10:11:12Z", "seen", "sqlite:/a", digest, ""};
}

TEST(JudgedSignatureTest, PlainNamesAreWorthWhatTheRuleSays) {
  const auto why = [](SigningRule rule, const std::vector<Signature>& signatures) {
    return whyNotApplied(rule, judgeSignatures(signatures, "d", "bram"));
  };
  EXPECT_EQ("", why(SigningRule::Anyone, {}));
  EXPECT_EQ("only what somebody else signed is applied to this database; nobody has signed this",
            why(SigningRule::Signed, {}));
  EXPECT_EQ("", why(SigningRule::Signed, {plain("ada")}));
  EXPECT_THAT(why(SigningRule::Signed, {plain("bram")}), HasSubstr("you signed it yourself"));
  EXPECT_THAT(why(SigningRule::Signed, {plain("ada", "older")}), HasSubstr("what was signed was changed since"));
  EXPECT_THAT(why(SigningRule::ByKey, {plain("ada")}), HasSubstr("is not vouched for"));
  EXPECT_EQ("", why(SigningRule::Signed, {plain("ada", "older"), plain("bram"), plain("cleo")}));
  // Where no digest could be made nothing fits it.
  EXPECT_THAT(whyNotApplied(SigningRule::Signed, judgeSignatures({plain("ada", "")}, "", "bram")),
              HasSubstr("was changed since"));
  EXPECT_EQ(
      "signed by ada, on a day, “seen” (a plain name, which nobody vouches for): it holds no longer, for the "
      "changes are others now",
      inWords(judgeSignatures({plain("ada", "older")}, "d", "bram").front(), "on a day"));
}

// Two people, each with keys of their own.
class OpenPgpTest : public ::testing::Test {
 protected:
  void SetUp() override {
    for (const char* who : {"ada", "bram"}) {
      std::filesystem::create_directory(home(who));
      std::filesystem::permissions(home(who), std::filesystem::perms::owner_all);
      const std::string name = std::string(who) + "@quillhaven.example";
      ASSERT_TRUE(gpg(who, "--quick-generate-key " + name + " ed25519 sign never"));
    }
  }
  void TearDown() override {
    for (const char* who : {"ada", "bram"}) {
      (void)std::system(("GNUPGHOME='" + home(who) + "' gpgconf --kill all > /dev/null 2>&1").c_str());
    }
    unsetenv("GNUPGHOME");
  }
  [[nodiscard]] std::string home(const std::string& who) const { return folder.file(who); }
  [[nodiscard]] bool gpg(const std::string& who, const std::string& words) const {
    return std::system(("GNUPGHOME='" + home(who) + "' gpg --batch --quiet --pinentry-mode loopback --passphrase '' " +
                        words + " > /dev/null 2>&1")
                           .c_str()) == 0;
  }
  void as(const std::string& who) const { setenv("GNUPGHOME", home(who).c_str(), 1); }
  void introduceAda(bool trusted) const {
    ASSERT_TRUE(gpg("ada", "--yes --armor --output '" + folder.file("ada.asc") + "' --export ada@quillhaven.example"));
    ASSERT_TRUE(gpg("bram", "--import '" + folder.file("ada.asc") + "'"));
    if (trusted) {
      ASSERT_TRUE(gpg("bram", "--yes --quick-lsign-key " + fingerprint));
    }
  }
  Signature signedByAda() {
    as("ada");
    const auto key = findSigningKey("ada@");
    EXPECT_TRUE(key) << key.error().text();
    if (!key) return {};
    fingerprint = key->fingerprint;
    auto made = makeSignature(plain("somebody"), &*key);
    EXPECT_TRUE(made) << made.error().text();
    return made ? *made : Signature();
  }
  static JudgedSignature judged(const Signature& signature) {
    return judgeSignatures({signature}, "d", "bram").front();
  }

  TemporaryFolder folder;
  std::string fingerprint;
};

TEST_F(OpenPgpTest, AKeyIsWorthWhatIsKnownOfItHere) {
  const Signature made = signedByAda();
  EXPECT_EQ("ada@quillhaven.example", made.by) << "the key's name, whatever was said";
  EXPECT_EQ(Vouching::Key, judged(made).vouching);
  EXPECT_TRUE(judged(made).own);
  EXPECT_THAT(whyNotApplied(SigningRule::ByKey, {judged(made)}), HasSubstr("you signed it yourself"));
  as("bram");
  EXPECT_EQ(Vouching::NotKnown, judged(made).vouching);
  EXPECT_THAT(whyNotApplied(SigningRule::ByKey, {judged(made)}), HasSubstr("is not vouched for"));
  introduceAda(false);
  EXPECT_EQ(Vouching::NotTrusted, judged(made).vouching);
  EXPECT_THAT(whyNotApplied(SigningRule::ByKey, {judged(made)}), HasSubstr("is not vouched for"));
  introduceAda(true);
  EXPECT_EQ(Vouching::Key, judged(made).vouching);
  EXPECT_FALSE(judged(made).own);
  EXPECT_EQ("", whyNotApplied(SigningRule::ByKey, {judged(made)}));
}

TEST_F(OpenPgpTest, WhateverIsAlteredIsNotWhatWasSigned) {
  const Signature made = signedByAda();
  as("bram");
  introduceAda(true);
  ASSERT_EQ(Vouching::Key, judged(made).vouching);
  std::vector<Signature> altered(6, made);
  altered[0].by = "bram@quillhaven.example";
  altered[1].at = "2026-05-02T10:11:12Z";
  altered[2].words = "";
  altered[3].database = "sqlite:/b";
  altered[4].digest = "e";
  altered[5].proof = "no proof at all";
  for (const Signature& one : altered) {
    SCOPED_TRACE(signedText(one));
    EXPECT_EQ(Vouching::False, judged(one).vouching);
    EXPECT_NE("", whyNotApplied(SigningRule::Signed, {judged(one)}));
  }
  // Bram's own key under Ada's name.
  as("bram");
  const auto key = findSigningKey("bram@");
  ASSERT_TRUE(key);
  Signature pretended = plain("ada@quillhaven.example");
  pretended.proof = *signWithKey(signedText(pretended), *key);
  EXPECT_EQ(Vouching::False, judged(pretended).vouching);
}

TEST_F(OpenPgpTest, AKeyThatIsNotThereIsNamed) {
  as("ada");
  const auto none = findSigningKey("cleo");
  ASSERT_FALSE(none);
  EXPECT_EQ("no key of yours is called 'cleo'; there are: ada@quillhaven.example", none.error().message);
  setenv("GNUPGHOME", folder.file("nowhere").c_str(), 1);
  EXPECT_THAT(signingKeys(), IsEmpty());
  EXPECT_THAT(findSigningKey("").error().message, HasSubstr("there is no key to sign with"));
}

// --- applying

class SignedApplyTest : public EngineTest {
 protected:
  Result<ApplyResult> apply(SigningRule rule, const std::vector<Signature>& signatures,
                            OnConflict onConflict = OnConflict::Stop) {
    ApplyOptions options;
    options.appliedBy = "bram";
    options.signingRule = rule;
    options.signatures = signatures;
    options.onConflict = onConflict;
    LambdaKeeper keeper([](const Receipt&, ReceiptStage) { return Status(); });
    options.keeper = &keeper;
    Progress progress;
    return applyChanges(db.session(), db.catalogue(), list, options, progress);
  }
  [[nodiscard]] std::string grade() const { return db.rows("SELECT condition FROM tree WHERE tree_id = 7"); }

  TestDatabase db{smallRegister(GetParam()), GetParam()};
  ChangeList list = TestDatabase::changes("edit tree tree_id=7 condition:2->3");
};

TEST_P(SignedApplyTest, OnlyWhatSomebodyElseSignedIsWritten) {
  const Signature ada = plain("ada", changesDigest(list));
  const std::vector<std::pair<SigningRule, std::vector<Signature>>> refused{
      {SigningRule::Signed, {}},
      {SigningRule::Signed, {plain("bram", changesDigest(list))}},
      {SigningRule::Signed, {plain("ada", changesDigest(TestDatabase::changes("edit tree tree_id=7 condition:2->4")))}},
      {SigningRule::ByKey, {ada}}};
  for (const auto& [rule, signatures] : refused) {
    const auto result = apply(rule, signatures);
    ASSERT_FALSE(result);
    EXPECT_EQ(ErrorKind::NotSigned, result.error().kind);
    EXPECT_THAT(result.error().message, HasSubstr("nothing was written"));
    EXPECT_EQ("2", grade());
  }
  for (const OnConflict way : {OnConflict::Mine, OnConflict::Theirs}) {
    const auto result = apply(SigningRule::Signed, {ada}, way);
    ASSERT_FALSE(result);
    EXPECT_THAT(result.error().message, HasSubstr("nobody who signed saw what would be written over"));
    EXPECT_EQ("2", grade());
  }
  const auto result = apply(SigningRule::Signed, {plain("cleo", "older"), ada});
  ASSERT_TRUE(result) << result.error().text();
  ASSERT_TRUE(result->receipt);
  EXPECT_EQ("3", grade());
  // On the receipt stand those who signed just this.
  EXPECT_EQ(std::vector<Signature>{ada}, result->receipt->signatures);
  const auto unpacked = unpackReceipt(packReceipt(*result->receipt));
  ASSERT_TRUE(unpacked);
  EXPECT_EQ(std::vector<Signature>{ada}, unpacked->signatures);
  const auto read = readReceiptJson(receiptJson(*result->receipt));
  ASSERT_TRUE(read) << read.error().text();
  EXPECT_EQ(std::vector<Signature>{ada}, read->signatures);
}

ITERANDUM_ON_ALL_ENGINES(SignedApplyTest);

TEST(KeptSigningTest, AWordOfANewerVersionLetsNothingThrough) {
  const TemporaryFolder folder;
  auto store = Store::open(folder.file("store.sqlite"));
  ASSERT_TRUE(store);
  EXPECT_EQ(SigningRule::Anyone, *keptSigningRule(**store, "sqlite:/a"));
  ASSERT_TRUE((*store)->keepChoice("sqlite:/a", kSigningRuleChoice, "by-key"));
  EXPECT_EQ(SigningRule::ByKey, *keptSigningRule(**store, "sqlite:/a"));
  EXPECT_EQ(SigningRule::Anyone, *keptSigningRule(**store, "sqlite:/b"));
  ASSERT_TRUE((*store)->keepChoice("sqlite:/a", kSigningRuleChoice, "by-three"));
  const auto unknown = keptSigningRule(**store, "sqlite:/a");
  ASSERT_FALSE(unknown);
  EXPECT_EQ(ErrorKind::NotSigned, unknown.error().kind);
}

}  // namespace
}  // namespace iterandum::test
