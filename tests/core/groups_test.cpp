// A change list as it is read: what one gesture did is one line, and no cell is in two.
#include "core/review/groups.h"

#include <gmock/gmock.h>

#include <random>
#include <set>

namespace iterandum::test {
namespace {

using ::testing::ElementsAre;

const TableName kStreet{"", "street"};

GesturePart edit(const std::string& column, const std::vector<std::pair<std::int64_t, std::string>>& cells) {
  GesturePart part;
  part.kind = GesturePart::Kind::Edit;
  part.table = kStreet;
  part.keyColumns = {"street_id"};
  part.keys.resize(1);
  part.column = column;
  for (const auto& [key, to] : cells) {
    part.keys[0].push(Value::integer(key));
    part.from.push(Value::text("before " + std::to_string(key)));
    part.to.push(Value::text(to));
  }
  return part;
}

std::vector<std::string> read(const ChangeSet& changes) {
  std::vector<std::string> out;
  for (const ChangeGroup& g : groupChanges(changes.toChangeList({}), GestureWords(changes))) {
    std::string line = g.column + " " + std::to_string(g.changes.size());
    if (!g.words.empty()) line += " " + g.words + (g.wholeGesture ? "" : " …");
    if (g.words.empty() && g.to) line += " to " + std::string(g.to->asString());
    out.push_back(line);
  }
  return out;
}

TEST(GroupsTest, WhatOneGestureDidIsOneLineUnderItsWords) {
  ChangeSet changes;
  changes.apply({"Steps to Stairs in 3 streets", {edit("name", {{1, "A Stairs"}, {2, "B Stairs"}, {3, "C Stairs"}})}});
  changes.apply({"note to old in 2 streets", {edit("note", {{1, "old"}, {2, "old"}})}});
  EXPECT_THAT(read(changes), ElementsAre("name 3 Steps to Stairs in 3 streets", "note 2 to old"));
  // One that was corrected by hand afterwards stands for itself.
  changes.apply({"name in one street", {edit("name", {{2, "Bee Stairs"}})}});
  EXPECT_THAT(read(changes),
              ElementsAre("name 2 Steps to Stairs in 3 streets …", "name 1 to Bee Stairs", "note 2 to old"));
  ASSERT_TRUE(changes.undo());
  EXPECT_THAT(read(changes), ElementsAre("name 3 Steps to Stairs in 3 streets", "note 2 to old"));
  // A gesture over two columns says of each which it is.
  changes.apply({"Corrections from a list", {edit("name", {{4, "D"}, {5, "E"}}), edit("note", {{4, "x"}, {5, "y"}})}});
  EXPECT_THAT(read(changes), ElementsAre("name 3 Steps to Stairs in 3 streets", "name 2 Corrections from a list …",
                                         "note 2 to old", "note 2 Corrections from a list …"));
  EXPECT_THAT(groupChanges(changes.toChangeList({})).size(), 8U) << "without gestures, by value";
}

// Against the last gesture that wrote each cell, kept in a map.
TEST(GroupsTest, EveryCellIsInTheGroupOfTheGestureThatWroteItLast) {
  for (unsigned seed = 0; seed < 300; ++seed) {
    std::mt19937 random(seed);
    ChangeSet changes;
    std::map<std::pair<std::string, std::int64_t>, std::string> owner;
    for (unsigned g = 0; g < 1 + random() % 6; ++g) {
      const std::string title = "gesture " + std::to_string(g);
      const std::string column = random() % 2 == 0 ? "name" : "note";
      const bool different = random() % 2 == 0;
      std::vector<std::pair<std::int64_t, std::string>> cells;
      for (std::int64_t key = 1; key < 20; ++key) {
        if (random() % 3 != 0) continue;
        cells.emplace_back(key, different ? title + "/" + std::to_string(key) : title);
      }
      if (cells.empty()) continue;
      changes.apply({title, {edit(column, cells)}});
      for (const auto& [key, to] : cells) owner[{column, key}] = different && cells.size() > 1 ? title : std::string();
      if (random() % 5 == 0) {
        // What is put back is nobody's.
        GesturePart back = edit(column, {{cells.front().first, ""}});
        back.kind = GesturePart::Kind::PutBackCells;
        changes.apply({"back", {back}});
        owner.erase({column, cells.front().first});
      }
    }
    const ChangeList list = changes.toChangeList({});
    std::map<std::uint32_t, std::int64_t> keyOf;
    for (const auto& [index, change] : list.inOrder()) keyOf[index] = change.key.front().asInteger();
    std::map<std::pair<std::string, std::int64_t>, std::string> found;
    for (const ChangeGroup& group : groupChanges(list, GestureWords(changes))) {
      for (const std::uint32_t change : group.changes) {
        EXPECT_TRUE(found.emplace(std::pair(group.column, keyOf[change]), group.words).second)
            << seed << ": " << group.column << " of " << keyOf[change] << " is in two groups";
      }
    }
    EXPECT_EQ(owner, found) << seed;
  }
}

}  // namespace
}  // namespace iterandum::test
