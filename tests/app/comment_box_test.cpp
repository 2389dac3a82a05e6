// What is said of a change set before it is applied, by mouse and keys in the real window.
#include <QComboBox>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QTextDocument>
#include <fstream>

#include "app/counted_hands.h"
#include "app/file_dialog.h"
#include "core/changes/change_file.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

class WindowCommentsTest : public WindowTest {
 protected:
  void stage(int row, const char* column, const char* value) {
    openTable("tree");
    at(row, column);
    type(value);
    key(Qt::Key_Return);
  }
  void reviewAgain() {
    goToReview();
    ASSERT_TRUE(wait([&] { return review()->ready(); })) << staged();
  }
  // What stands on the page, as text.
  [[nodiscard]] std::string shown(const char* name) const {
    const auto* label = review()->findChild<QLabel*>(name);
    QTextDocument text;
    if (label != nullptr) text.setHtml(label->text());
    return text.toPlainText().toStdString();
  }
  [[nodiscard]] std::vector<std::string> about() const {
    const auto* box = review()->findChild<QComboBox*>("commentOn");
    std::vector<std::string> out;
    for (int i = 0; i < box->count(); ++i) out.push_back(box->itemText(i).toStdString());
    return out;
  }
  void write(const char* words) {
    ASSERT_TRUE(wait([&] { return review()->findChild<QPlainTextEdit*>("commentWords")->hasFocus(); }));
    type(words);
    key(Qt::Key_Return, Qt::ControlModifier);
  }
  [[nodiscard]] std::vector<Comment> comments() const { return window->desk()->kept().comments(); }
  void chooseGroup(int row) {
    auto* list = review()->findChild<QListWidget*>("groups");
    QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(row)).center());
  }
  void comeBack() const {
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get()));
  }
  void saveAs(const std::string& path) {
    answerWith(path);
    key(Qt::Key_S, Qt::ControlModifier);
    comeBack();
  }
  void openFile(const std::string& path) {
    comeBack();
    answerWith(path);
    key(Qt::Key_Q, Qt::ControlModifier | Qt::AltModifier);
    comeBack();
  }
  static ChangeDocument documentIn(const std::string& path) {
    std::ifstream in(path);
    auto read = readChangeDocument(std::string(std::istreambuf_iterator<char>(in), {}));
    EXPECT_TRUE(read) << read.error().text();
    return read ? *read : ChangeDocument();
  }
};

TEST_F(WindowCommentsTest, OfAGroupByKeysAndOfARecordByItsLinkAndBothAreOnTheReceipt) {
  stage(0, "condition", "3");
  stage(1, "condition", "3");
  reviewAgain();
  EXPECT_EQ("", shown("groupComments"));
  key(Qt::Key_W, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_THAT(about(), ::testing::ElementsAre(HasSubstr("condition"), "all of it"));
  write("who measured these?");
  ASSERT_TRUE(wait([&] { return !comments().empty(); }));
  EXPECT_THAT(shown("groupComments"), HasSubstr("who measured these?"));
  EXPECT_THAT(review()->findChild<QListWidget*>("groups")->item(1)->text().toStdString(), HasSubstr("1 comment"));
  // The link beside the second record.
  auto* records = review()->findChild<QLabel*>("groupRecords");
  emit records->linkActivated("c1");
  ASSERT_TRUE(wait([&] { return review()->findChild<QPlainTextEdit*>("commentWords")->isVisible(); }));
  EXPECT_EQ(3U, about().size());
  write("this one was felled");
  ASSERT_TRUE(wait([&] { return comments().size() == 2; }));
  EXPECT_THAT(shown("groupRecords"), HasSubstr("this one was felled"));
  EXPECT_EQ(CommentPlace::Kind::Record, comments()[1].about.kind);
  EXPECT_THAT(review()->findChild<QListWidget*>("groups")->item(1)->text().toStdString(), HasSubstr("2 comments"));
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return changes().empty(); }));
  EXPECT_THAT(comments(), IsEmpty());
  const auto store = Store::open(db.file("state/store.sqlite"));
  ASSERT_TRUE(store);
  const auto kept = (*store)->receipts({});
  ASSERT_TRUE(kept && kept->size() == 1);
  const auto receipt = (*store)->receipt(kept->front().id);
  ASSERT_TRUE(receipt);
  ASSERT_EQ(2U, receipt->comments.size());
  EXPECT_EQ("who measured these?", receipt->comments[0].words);
  EXPECT_EQ(systemUserName(), receipt->comments[1].by);
}

TEST_F(WindowCommentsTest, WhatIsTypedIsKeptUntilItIsSaidAndWhatWasSaidCanBeTakenBack) {
  stage(0, "condition", "3");
  reviewAgain();
  pressInReview("Comment…");
  type("half a thou");
  key(Qt::Key_Escape);
  EXPECT_FALSE(review()->findChild<QPlainTextEdit*>("commentWords")->isVisible());
  EXPECT_TRUE(review()->isVisible());
  // A rehearsal, and another gesture, take nothing away.
  stage(1, "condition", "4");
  reviewAgain();
  pressInReview("Comment…");
  EXPECT_EQ("half a thou", review()->findChild<QPlainTextEdit*>("commentWords")->toPlainText().toStdString());
  key(Qt::Key_End, Qt::ControlModifier);
  write("ght");
  ASSERT_TRUE(wait([&] { return comments().size() == 1; }));
  EXPECT_EQ("half a thought", comments()[0].words);
  emit review()->findChild<QLabel*>("groupComments")->linkActivated("x0");
  ASSERT_TRUE(wait([&] { return comments().empty(); }));
  EXPECT_EQ("", shown("groupComments"));
}

// What is said of a part goes with the part; what is said of the rest stays.
TEST_F(WindowCommentsTest, OfAPartAndOfTheRest) {
  stage(0, "condition", "3");
  stage(1, "height", "11");
  reviewAgain();
  for (const int row : {1, 2}) {
    chooseGroup(row);
    key(Qt::Key_W, Qt::ControlModifier | Qt::ShiftModifier);
    write(row == 1 ? "first" : "second");
    ASSERT_TRUE(wait([&] { return comments().size() == static_cast<std::size_t>(row); }));
  }
  chooseGroup(1);
  pressInReview("Only this group");
  ASSERT_TRUE(wait([&] { return review()->ready() && review()->partRecords() == 1U; }));
  EXPECT_THAT(shown("groupComments"), HasSubstr("first"));
  EXPECT_THAT(shown("groupComments"), HasSubstr("of what is not reviewed here")) << "the other one is not lost";
  key(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return counts().edited == 1 && review()->ready(); })) << staged();
  ASSERT_EQ(1U, comments().size());
  EXPECT_EQ("second", comments()[0].words);
  EXPECT_THAT(shown("groupComments"), Not(HasSubstr("first")));
}

// Away in a file, answered by somebody else, and back; then on another desk, where the new record has another label.
TEST_F(WindowCommentsTest, AwayAnsweredAndBack) {
  openTable("species");
  key(Qt::Key_N, Qt::ControlModifier);
  ASSERT_TRUE(wait([&] { return counts().added == 1; }));
  at(3, "name");
  type("yew");
  key(Qt::Key_Return);
  stage(0, "condition", "3");
  reviewAgain();
  const std::string before = staged();
  for (int row = 0; row < 4; ++row) {
    chooseGroup(row);
    if (review()->findChild<QLabel*>("groupHeading")->text().contains("new record")) break;
  }
  auto* records = review()->findChild<QLabel*>("groupRecords");
  ASSERT_NE(nullptr, records);
  const QString text = records->text();
  const qsizetype link = text.indexOf("href='c");
  ASSERT_GE(link, 0);
  emit records->linkActivated(text.mid(link + 6, text.indexOf('\'', link + 6) - link - 6));
  ASSERT_TRUE(wait([&] { return review()->findChild<QPlainTextEdit*>("commentWords")->isVisible(); }));
  write("is there no yew yet?");
  ASSERT_TRUE(wait([&] { return comments().size() == 1; }));
  const std::string sent = db.file("sent.json");
  saveAs(sent);
  ChangeDocument document = documentIn(sent);
  ASSERT_EQ(1U, document.comments.size());
  EXPECT_EQ(CommentPlace::Kind::NewRecord, document.comments[0].about.kind);
  Comment answer{"Bo Lund", "2026-05-01T10:11:12Z", "no, it is new", document.comments[0].about};
  answer.at[3] = '9';  // later than the question
  putIn({answer}, document.comments);
  const std::string back = db.file("back.json");
  std::ofstream(back) << writeChangeFile(document);
  openFile(back);
  ASSERT_TRUE(wait([&] { return comments().size() == 2 && review()->ready(); })) << message().toStdString();
  EXPECT_THAT(message().toStdString(), HasSubstr("taken in of it: 0 signatures, 2 comments"));
  EXPECT_EQ(before, staged());
  EXPECT_THAT(shown("groupRecords"), HasSubstr("no, it is new"));
  // Elsewhere.
  while (!changes().empty()) key(Qt::Key_Z, Qt::ControlModifier);
  for (const Comment& one : comments()) window->desk()->kept().takeBackComment(one);
  ASSERT_TRUE(wait([&] { return comments().empty(); }));
  openFile(back);
  ASSERT_TRUE(wait([&] { return comments().size() == 2 && review()->ready(); })) << message().toStdString();
  EXPECT_NE(document.comments[0].about.label, comments()[0].about.label);
  for (int row = 0; row < 4; ++row) {
    chooseGroup(row);
    if (review()->findChild<QLabel*>("groupHeading")->text().contains("new record")) break;
  }
  EXPECT_THAT(shown("groupRecords"), HasSubstr("is there no yew yet?"));
}

// What another window signs and says is there at the next rehearsal, and none of it is lost by what is said here.
TEST_F(WindowCommentsTest, AnotherWindowSaysSomethingMeanwhile) {
  stage(0, "condition", "3");
  reviewAgain();
  {
    const auto store = Store::open(db.file("state/store.sqlite"));
    ASSERT_TRUE(store);
    Comment other{"Bo Lund", "2026-05-01T10:11:12Z", "from elsewhere", {}};
    const Signature signature{"Bo Lund", "2026-05-01T10:11:12Z", "", "", "not this", ""};
    const std::string address = window->desk()->info().address;
    ASSERT_TRUE((*store)->amendChoice(address, "comments", [&](const std::string&) { return packComments({other}); }));
    ASSERT_TRUE((*store)->amendChoice(address, kSignaturesChoice,
                                      [&](const std::string&) { return packSignatures({signature}); }));
  }
  key(Qt::Key_W, Qt::ControlModifier | Qt::ShiftModifier);
  write("from here");
  ASSERT_TRUE(wait([&] { return comments().size() == 2; })) << "what lay in the store is not written over";
  EXPECT_EQ("from elsewhere", comments()[0].words);
  reviewAgain();
  key(Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
  ASSERT_TRUE(wait([&] { return window->desk()->kept().signatures().size() == 1; }));
}

}  // namespace
}  // namespace iterandum::test
