// A second pair of eyes, by mouse and keys in the real window.
#include <QComboBox>
#include <fstream>

#include "app/counted_hands.h"
#include "app/file_dialog.h"
#include "core/store/kept_signing.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;
using ::testing::StartsWith;

class WindowSigningTest : public WindowTest {
 protected:
  void stageGrade(const char* grade) {
    openTable("tree");
    at(0, "condition");
    type(grade);
    key(Qt::Key_Return);
  }
  void reviewAgain() {
    goToReview();
    ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  }
  [[nodiscard]] std::string signatures() const {
    const auto* words = review()->findChild<QLabel*>("signatures");
    return words->isVisible() ? words->text().toStdString() : "";
  }
  void signAs(const char* name, const char* words) {
    pressInReview("Sign what is reviewed…");
    auto* who = review()->findChild<QComboBox*>("signAs");
    who->setFocus();
    who->lineEdit()->selectAll();
    type(name);
    key(Qt::Key_Tab);
    if (words[0] != 0) type(words);
    key(Qt::Key_Return);
    ASSERT_TRUE(wait([&] {
      const std::vector<Signature> all = window->desk()->kept().signatures();
      return !all.empty() && all.back().by == name && signatures().find(name) != std::string::npos;
    }));
  }
  // With the list unfolded, as a hand does it.
  void askForSignatures() {
    pressInReview("Sign what is reviewed…");
    auto* rule = review()->findChild<QComboBox*>("signingRule");
    rule->setFocus();
    key(Qt::Key_Down);
    EXPECT_EQ("only what somebody else signed", rule->currentText().toStdString());
    pressInReview("Leave it");
  }
  // From a file dialog.
  void comeBack() const {
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
  }
  void applyAll() { key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier); }
  [[nodiscard]] std::string grade() const { return db.rows("SELECT condition FROM tree WHERE tree_id = 7"); }
};

TEST_F(WindowSigningTest, ASignatureHoldsForJustWhatWasReviewedAndStaysOnTheReceipt) {
  stageGrade("3");
  reviewAgain();
  EXPECT_EQ("", signatures());
  // By keys: opened, and left.
  key(Qt::Key_Q, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return review()->findChild<QLineEdit*>("signWords")->isVisible(); }));
  key(Qt::Key_Escape);
  EXPECT_FALSE(review()->findChild<QLineEdit*>("signWords")->isVisible());
  signAs("Ada Thorne", "seen on site");
  EXPECT_THAT(signatures(), StartsWith("Signed by Ada Thorne, "));
  EXPECT_THAT(signatures(), HasSubstr("“seen on site” (a plain name, which nobody vouches for)"));
  EXPECT_THAT(signatures(), Not(HasSubstr("no longer")));
  // Whatever is changed voids it; what is put back as it was is what was signed.
  stageGrade("4");
  reviewAgain();
  EXPECT_THAT(signatures(), HasSubstr("it holds no longer, for the changes are others now"));
  key(Qt::Key_Z, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return review()->ready(); }));
  EXPECT_THAT(signatures(), Not(HasSubstr("no longer")));
  applyAll();
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_EQ("3", grade());
  EXPECT_THAT(window->desk()->kept().signatures(), IsEmpty());
  const auto store = Store::open(db.file("state/store.sqlite"));
  ASSERT_TRUE(store);
  const auto kept = (*store)->receipts({});
  ASSERT_TRUE(kept);
  ASSERT_EQ(1U, kept->size());
  const auto receipt = (*store)->receipt(kept->front().id);
  ASSERT_TRUE(receipt);
  ASSERT_EQ(1U, receipt->signatures.size());
  EXPECT_EQ("Ada Thorne", receipt->signatures.front().by);
}

TEST_F(WindowSigningTest, WhereItIsTheRuleNothingElseIsApplied) {
  stageGrade("3");
  reviewAgain();
  askForSignatures();
  EXPECT_THAT(signatures(), HasSubstr("Only what somebody else signed is applied to this database; nobody has"));
  applyAll();
  ASSERT_TRUE(wait([&] { return review()->findChild<QLabel*>("reviewProblem") != nullptr; }));
  EXPECT_THAT(review()->findChild<QLabel*>("reviewProblem")->text().toStdString(), HasSubstr("nobody has signed this"));
  EXPECT_EQ("2", grade());
  EXPECT_EQ("edit 7 condition=3", staged());
  reviewAgain();
  signAs(systemUserName().c_str(), "");
  EXPECT_THAT(signatures(), HasSubstr("you signed it yourself"));
  signAs("Ada Thorne", "");
  EXPECT_THAT(signatures(), Not(HasSubstr("Only what")));
  applyAll();
  ASSERT_TRUE(wait([&] { return changes().empty(); })) << signatures();
  EXPECT_EQ("3", grade());
}

// Sent away to be signed, and had back: nothing is staged twice.
TEST_F(WindowSigningTest, WhatComesBackSignedIsWhatIsStaged) {
  openTable("species");
  key(Qt::Key_N, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return counts().added == 1; }));
  at(3, "name");
  type("yew");
  key(Qt::Key_Return);
  stageGrade("3");
  const std::uint64_t yew = changes().table({"", "species"})->added().begin()->first;
  window->desk()->staged().stageEdits(
      "yew",
      {{{{"", "tree"}, {Value::integer(8)}, 0}, "species_id", Value::integer(1), Value::pendingKey(addedLabel(yew))}});
  reviewAgain();
  const std::string before = staged();
  const std::string sent = db.file("sent.json");
  answerWith(sent);
  key(Qt::Key_S, Qt::ControlModifier);
  std::ifstream in(sent);
  auto document = readChangeDocument(std::string(std::istreambuf_iterator<char>(in), {}));
  ASSERT_TRUE(document) << document.error().text();
  ASSERT_EQ(3U, document->changes.count());
  Signature ada{"Ada Thorne", "2026-05-01T10:11:12Z", "", "", changesDigest(document->changes), ""};
  document->signatures = {ada};
  const std::string back = db.file("back.json");
  std::ofstream(back) << writeChangeFile(document->changes, document->signatures);
  comeBack();
  answerWith(back);
  key(Qt::Key_Q, Qt::ControlModifier | Qt::AltModifier);
  comeBack();
  ASSERT_TRUE(wait([&] { return review()->ready() && !signatures().empty(); })) << message().toStdString();
  EXPECT_EQ(before, staged());
  EXPECT_THAT(message().toStdString(), HasSubstr("is staged here already; taken in of it: 1 signature, 0 comments"));
  EXPECT_THAT(signatures(), StartsWith("Signed by Ada Thorne"));
  EXPECT_THAT(signatures(), Not(HasSubstr("no longer")));
  // On an empty desk it is staged from the file, and the signature holds as well.
  key(Qt::Key_Z, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return review()->ready() && staged() != before; }));
  EXPECT_THAT(signatures(), HasSubstr("no longer"));
  while (!changes().empty()) key(Qt::Key_Z, Qt::ControlModifier);
  comeBack();
  answerWith(back);
  key(Qt::Key_Q, Qt::ControlModifier | Qt::AltModifier);
  comeBack();
  ASSERT_TRUE(wait([&] { return !changes().empty() && review()->ready() && !signatures().empty(); }))
      << message().toStdString();
  EXPECT_EQ("add name=yew; edit 7 condition=3; edit 8 species_id=new-2", staged()) << "under a label of its own";
  EXPECT_THAT(signatures(), Not(HasSubstr("no longer")));
}

// All receipts into a file; altered on the way, none of them is taken in.
TEST_F(WindowSigningTest, ReceiptsLeaveTheDeskAndComeBack) {
  stageGrade("3");
  reviewAgain();
  applyAll();
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  const std::string path = db.file("receipts.jsonl");
  answerWith(path);
  key(Qt::Key_K, Qt::ControlModifier);
  choose("Write all receipts");
  ASSERT_TRUE(wait([&] { return message().contains("1 receipt is written as"); })) << message().toStdString();
  std::ifstream in(path);
  std::string content(std::istreambuf_iterator<char>(in), {});
  comeBack();
  answerWith(path);
  key(Qt::Key_K, Qt::ControlModifier);
  choose("Take in receipts");
  ASSERT_TRUE(wait([&] { return message().contains("The others of 1 were here already"); })) << message().toStdString();
  content.replace(content.find("\"tree_id\":7"), 11, "\"tree_id\":8");
  std::ofstream(path) << content;
  comeBack();
  answerWith(path);
  key(Qt::Key_K, Qt::ControlModifier);
  choose("Take in receipts");
  ASSERT_TRUE(wait([&] { return message().startsWith("Nothing was taken in: line 2: this receipt was altered"); }))
      << message().toStdString();
}

}  // namespace
}  // namespace iterandum::test
