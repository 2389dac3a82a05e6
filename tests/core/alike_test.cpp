// Spellings that are nearly alike, also against a plain comparison of each with each.
#include "core/scope/alike.h"

#include <gmock/gmock.h>

#include <random>

namespace iterandum::test {
namespace {

std::string groupsOf(const std::vector<std::string>& texts) {
  std::string out;
  for (const auto& group : alikeGroups(texts)) {
    out += out.empty() ? "" : "; ";
    for (std::size_t i = 0; i < group.size(); ++i) out += (i ? " = " : "") + texts[group[i]];
  }
  return out;
}

TEST(AlikeTest, CaseAccentsBlanksAndSignsDoNotTellApart) {
  EXPECT_EQ("Harbour Row = harbour  row = Harbour-Row; Größe = GROSSE",
            groupsOf({"Harbour Row", "Mill Lane", "harbour  row", "Größe", "Harbour-Row", "GROSSE"}));
  EXPECT_EQ("café = Cafe", groupsOf({"café", "Cafe"}));
}

TEST(AlikeTest, OneLetterMoreLessOrOtherIsNearlyAlike) {
  EXPECT_EQ("Harbour Row = Harbor Row = Harbour Roe", groupsOf({"Harbour Row", "Harbor Row", "Harbour Roe"}));
  EXPECT_EQ("", groupsOf({"Harbour Row", "Harbour"}));
  EXPECT_EQ("", groupsOf({"oak", "ash", "oaks"})) << "short words differ by a letter";
}

TEST(AlikeTest, NumbersTellThingsApart) {
  EXPECT_EQ("", groupsOf({"QH-04711", "QH-04712", "House 12", "House 1"}));
  EXPECT_EQ("House 12 = house12", groupsOf({"House 12", "house12"}));
}

TEST(AlikeTest, SignsAndWhatIsNoTextAreLeftAlone) {
  EXPECT_EQ("", groupsOf({"", "-", "--", "?", "\xff\xfe", "\xff"}));
  EXPECT_EQ("", groupsOf({}));
}

std::size_t editDistance(const std::string& a, const std::string& b) {
  std::vector<std::size_t> row(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) row[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t diagonal = row[0];
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t above = row[j];
      row[j] = std::min({row[j] + 1, row[j - 1] + 1, diagonal + (a[i - 1] == b[j - 1] ? 0 : 1)});
      diagonal = above;
    }
  }
  return row[b.size()];
}

TEST(AlikeTest, TheSameGroupsAsByComparingEachWithEach) {
  std::mt19937 random(20261126);
  for (int round = 0; round < 200; ++round) {
    std::vector<std::string> texts;
    for (int i = 0; i < 30; ++i) {
      std::string text;
      const std::size_t length = 3 + random() % 5;
      for (std::size_t c = 0; c < length; ++c) text += static_cast<char>('a' + random() % 2);
      if (std::find(texts.begin(), texts.end(), text) == texts.end()) texts.push_back(text);
    }
    std::vector<std::size_t> set(texts.size());
    for (std::size_t i = 0; i < set.size(); ++i) set[i] = i;
    for (std::size_t i = 0; i < texts.size(); ++i) {
      for (std::size_t j = 0; j < i; ++j) {
        if (texts[i].size() < 5 || texts[j].size() < 5 || editDistance(texts[i], texts[j]) > 1) continue;
        const std::size_t from = std::max(set[i], set[j]);
        const std::size_t to = std::min(set[i], set[j]);
        std::replace(set.begin(), set.end(), from, to);
      }
    }
    std::vector<std::size_t> found(texts.size());
    for (std::size_t i = 0; i < found.size(); ++i) found[i] = i;
    for (const auto& group : alikeGroups(texts)) {
      for (const std::size_t i : group) found[i] = group.front();
    }
    EXPECT_EQ(set, found) << ::testing::PrintToString(texts);
  }
}

}  // namespace
}  // namespace iterandum::test
