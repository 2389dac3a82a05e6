// Comments: what they are about, wherever the change set goes.
#include "core/changes/comment.h"

#include <gmock/gmock.h>

#include <algorithm>
#include <random>

#include "core/acts/adopt_changes.h"
#include "core/apply/apply.h"
#include "core/changes/change_file.h"
#include "core/review/placed_comments.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

Change edit(std::int64_t tree, const char* column, Value to) {
  Change out;
  out.table = {"", "tree"};
  out.keyColumns = {"tree_id"};
  out.key = {Value::integer(tree)};
  out.cells.push_back({column, true, Value::integer(2), std::move(to)});
  return out;
}

Comment say(const char* words, CommentPlace about = {}) {
  return {"Ada Thorne", "2026-05-01T10:11:12Z", words, std::move(about)};
}

// Odd names and values, in the places of `changes` and in places that are nowhere.
std::vector<Comment> randomComments(const ChangeList& changes, std::mt19937& random) {
  std::vector<Comment> out;
  const auto all = changes.inOrder();
  const std::vector<ChangeGroup> groups = groupChanges(changes);
  const std::size_t count = random() % 12;
  for (std::size_t i = 0; i < count; ++i) {
    CommentPlace place;
    switch (random() % 5) {
      case 0:
        place = placeOf(all[random() % all.size()].second);
        break;
      case 1:
        place = placeOf(groups[random() % groups.size()]);
        break;
      case 2:
        place = placeOf(edit(1000 + static_cast<std::int64_t>(random() % 9), "x", Value()));
        break;
      case 3:
        place.kind = CommentPlace::Kind::Group;
        place.table = {"a.b", "odd \"name\""};
        place.column = "ä, ö";
        place.to = random() % 2 == 0 ? Value() : Value::bytes(std::string("\0x", 2));
        break;
      default:
        break;
    }
    Comment comment = say(random() % 2 == 0 ? "why\nthen? \"…\"" : "ok", place);
    comment.at[18] = static_cast<char>('0' + random() % 10);
    comment.by += std::to_string(random() % 3);
    out.push_back(std::move(comment));
  }
  std::vector<Comment> inOrder;
  putIn(out, inOrder);
  return inOrder;
}

ChangeList randomChanges(std::mt19937& random) {
  ChangeList out;
  std::vector<std::int64_t> trees(40);
  for (std::size_t i = 0; i < trees.size(); ++i) trees[i] = static_cast<std::int64_t>(i);
  std::shuffle(trees.begin(), trees.end(), random);
  const std::size_t count = 1 + random() % 20;
  for (std::size_t i = 0; i < count; ++i) {
    Change change = edit(trees[i], random() % 2 == 0 ? "condition" : "girth", Value::integer(random() % 3));
    if (random() % 3 == 0) change.cells.push_back({"planted", true, Value(), Value::text("2024-02-29")});
    if (random() % 4 == 0) {
      change.action = Action::Remove;
    } else if (random() % 5 == 0) {
      change.action = Action::Add;
      change.key.clear();
      change.keyColumns.clear();
      for (CellChange& cell : change.cells) cell.hasFrom = false;
      if (random() % 2 == 0) change.label = "new-" + std::to_string(i);
    }
    out.add(change);
  }
  return out;
}

// In a change file, in what is kept, and on a receipt they are the same; where they belong is told by looking at each
// change and each group one by one.
TEST(CommentTest, RandomOnesComeBackAndAreFoundWhereTheyBelong) {
  for (unsigned seed = 1; seed <= 300; ++seed) {
    SCOPED_TRACE("seed " + std::to_string(seed));
    std::mt19937 random(seed);
    const ChangeList changes = randomChanges(random);
    const std::vector<Comment> comments = randomComments(changes, random);
    const auto kept = unpackComments(packComments(comments));
    ASSERT_TRUE(kept) << kept.error().text();
    EXPECT_EQ(comments.size(), kept->size());
    const auto document = readChangeDocument(writeChangeFile(changes, {}, comments));
    ASSERT_TRUE(document) << document.error().text();
    ASSERT_EQ(comments, document->comments);
    EXPECT_EQ(changesDigest(changes), changesDigest(document->changes)) << "they are no part of what is signed";
    EXPECT_EQ(writeChangeFile(changes, {}, comments), writeChangeFile(*document));

    const std::vector<ChangeGroup> groups = groupChanges(document->changes);
    const PlacedComments placed = placeComments(comments, groups, document->changes);
    std::size_t found = placed.ofAll.size();
    for (std::size_t g = 0; g < groups.size(); ++g) {
      for (const std::size_t i : placed.ofGroups[g]) EXPECT_EQ(placeOf(groups[g]), comments[i].about);
      found += placed.ofGroups[g].size();
    }
    for (const auto& [index, change] : document->changes.inOrder()) {
      const auto here = placed.ofEach.find(index);
      if (here == placed.ofEach.end()) continue;
      for (const std::size_t i : here->second) EXPECT_EQ(placeOf(change), comments[i].about);
      found += here->second.size();
    }
    EXPECT_EQ(comments.size(), found) << "each in one place";
    for (const std::size_t i : placed.ofAll) {
      const CommentPlace& about = comments[i].about;
      const auto isOfChange = [&](const auto& one) { return placeOf(one.second) == about; };
      const auto isOfGroup = [&](const ChangeGroup& group) { return placeOf(group) == about; };
      const auto all = document->changes.inOrder();
      EXPECT_TRUE(about.kind == CommentPlace::Kind::All || about.kind == CommentPlace::Kind::Group ||
                  std::none_of(all.begin(), all.end(), isOfChange));
      EXPECT_TRUE(about.kind != CommentPlace::Kind::Group || std::none_of(groups.begin(), groups.end(), isOfGroup));
    }
    const auto elsewhere = commentsElsewhere(comments, document->changes);
    for (const Comment& one : elsewhere) EXPECT_NE(CommentPlace::Kind::All, one.about.kind);
  }
}

TEST(CommentTest, TheSameOneIsPutInOnceAndTheyLieInTheOrderInWhichTheyWereSaid) {
  std::vector<Comment> all;
  Comment later = say("yes");
  later.at = "2026-05-02T00:00:00Z";
  putIn({later}, all);
  putIn({say("is it?"), later}, all);
  ASSERT_EQ(2U, all.size());
  EXPECT_EQ("is it?", all[0].words);
}

TEST(CommentTest, APlaceInWords) {
  CommentPlace group;
  group.kind = CommentPlace::Kind::Group;
  group.table = {"", "tree"};
  group.column = "condition";
  group.to = Value::integer(3);
  EXPECT_EQ("condition to 3 in tree", inWords(group));
  group.to = Value();
  EXPECT_EQ("condition to no value in tree", inWords(group));
  EXPECT_EQ("tree 4711", inWords(placeOf(edit(4711, "condition", Value()))));
  EXPECT_EQ("", inWords(CommentPlace()));
}

TEST(CommentTest, WhatIsNoCommentIsRefusedWithItsPlace) {
  const auto refused = [](const std::string& comments) {
    const auto read =
        readChangeDocument(R"({"format":"iterandum-changes","version":1,"comments":)" + comments + R"(,"changes":[]})");
    return read ? std::string("read") : read.error().text();
  };
  const std::string head = R"([{"by":"Ada","at":"2026-05-01T10:11:12Z")";
  EXPECT_EQ("read", refused(head + R"(,"words":"?"}])"));
  EXPECT_THAT(refused("{}"), HasSubstr("/comments"));
  EXPECT_THAT(refused(head + "}]"), HasSubstr("/comments/0/words"));
  EXPECT_THAT(refused(head + R"(,"words":""}])"), HasSubstr("/comments/0/words"));
  EXPECT_THAT(refused(head + R"(,"words":7}])"), HasSubstr("/comments/0/words"));
  EXPECT_THAT(refused(head + R"(,"words":"?","about":"tree"}])"), HasSubstr("/comments/0/about"));
  EXPECT_THAT(refused(head + R"(,"words":"?","about":{"table":"tree"}}])"), HasSubstr("/comments/0/about/action"));
  EXPECT_THAT(refused(head + R"(,"words":"?","about":{"table":"tree","key":{}}}])"), HasSubstr("/about/key"));
  EXPECT_THAT(refused(head + R"(,"words":"?","about":{"table":"tree","action":"fell"}}])"), HasSubstr("/about/action"));
  EXPECT_THAT(refused(head + R"(,"words":"?","about":{"table":"tree","action":"edit","to":3}}])"),
              HasSubstr("/about/to"));
  EXPECT_THAT(refused(head + R"(,"words":"?","mood":"good"}])"), HasSubstr("/comments/0/mood"));
  EXPECT_THAT(refused(head + R"(,"words":")" + std::string(kLongestComment + 1, 'x') + R"("}])"),
              HasSubstr("longer than a comment is"));
}

class CommentsAppliedTest : public EngineTest {};
ITERANDUM_ON_ALL_ENGINES(CommentsAppliedTest);

// Found again by another key than the file's own, a day as a key's part, a new record: each comment is where it was
// said, and on the receipt under the keys that the records have then.
TEST_P(CommentsAppliedTest, TheyGoWithTheirRecords) {
  TestDatabase db(
      "CREATE TABLE species (species_id INTEGER PRIMARY KEY, name VARCHAR(40) NOT NULL UNIQUE);"
      "INSERT INTO species VALUES (1, 'oak'), (2, 'elm');"
      "CREATE TABLE visit (tree_id INTEGER, visited DATE, remark VARCHAR(40), PRIMARY KEY (tree_id, "
      "visited)); INSERT INTO visit VALUES (7, '2025-03-02', 'fine')",
      GetParam());
  const auto document = readChangeDocument(R"({"format":"iterandum-changes","version":1,"comments":[
    {"by":"Ada","at":"2026-05-01T10:11:12Z","words":"which elm?","about":{"table":"species","key":{"name":"elm"}}},
    {"by":"Ada","at":"2026-05-01T10:11:13Z","words":"was I there?",
     "about":{"table":"visit","key":{"visited":"2025-03-02","tree_id":7}}},
    {"by":"Ada","at":"2026-05-01T10:11:14Z","words":"is it new?","about":{"table":"species","label":"lime"}},
    {"by":"Bo","at":"2026-05-01T10:11:15Z","words":"where is it?","about":{"table":"species","key":{"name":"ash"}}}],
    "changes":[
    {"action":"edit","table":"species","key":{"name":"elm"},"cells":{"name":{"from":"elm","to":"wych elm"}}},
    {"action":"edit","table":"visit","key":{"tree_id":7,"visited":"2025-03-02"},
     "cells":{"remark":{"from":"fine","to":"ill"}}},
    {"action":"add","table":"species","label":"lime","cells":{"species_id":{"to":9},"name":{"to":"lime"}}}]})");
  ASSERT_TRUE(document) << document.error().text();
  Progress progress;
  const auto adopted = adoptChanges(db.session(), db.catalogue(), document->changes, progress);
  ASSERT_TRUE(adopted) << adopted.error().text();
  std::vector<Comment> comments = document->comments;
  moveComments(comments, document->changes, adopted->changes, db.catalogue());
  const auto placed = placeComments(comments, groupChanges(adopted->changes), adopted->changes);
  EXPECT_THAT(placed.ofAll, ElementsAre(3U));
  EXPECT_THAT(placed.ofEach.at(0), ElementsAre(0U));
  EXPECT_THAT(placed.ofEach.at(1), ElementsAre(1U));
  EXPECT_THAT(placed.ofEach.at(2), ElementsAre(2U));
  EXPECT_THAT(comments[0].about.keyColumns, ElementsAre("species_id"));
  // Kept as text between, where a day is no more than its letters.
  const auto kept = unpackComments(packComments(comments));
  ASSERT_TRUE(kept);
  const auto again = placeComments(*kept, groupChanges(adopted->changes), adopted->changes);
  EXPECT_THAT(again.ofEach.at(1), ElementsAre(1U));
  EXPECT_EQ(1U, commentsElsewhere(*kept, adopted->changes).size());

  ApplyOptions options;
  options.comments = *kept;
  const auto applied = applyChanges(db.session(), db.catalogue(), adopted->changes, options, progress);
  ASSERT_TRUE(applied && applied->receipt);
  const std::vector<Comment>& said = applied->receipt->comments;
  ASSERT_EQ(4U, said.size());
  EXPECT_EQ(CommentPlace::Kind::Record, said[2].about.kind);
  EXPECT_THAT(inWords(said[2].about), HasSubstr("species 9"));
  const auto unpacked = unpackReceipt(packReceipt(*applied->receipt));
  ASSERT_TRUE(unpacked);
  EXPECT_EQ(said, unpacked->comments);
  const auto read = readReceiptJson(receiptJson(*applied->receipt));
  ASSERT_TRUE(read) << read.error().text();
  ASSERT_EQ(4U, read->comments.size());
  EXPECT_EQ("is it new?", read->comments[2].words);
}

}  // namespace
}  // namespace iterandum::test
