// Change files: good ones read and write back the same; bad ones name the place and do nothing.
#include "core/changes/change_file.h"

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <random>

namespace iterandum::test {
namespace {

std::string file(const std::string& changes) {
  return R"({"format":"iterandum-changes","version":1,"changes":[)" + changes + "]}";
}

std::string errorOf(const std::string& document) {
  const auto read = readChangeFile(document);
  return read ? "fine" : read.error().place;
}

TEST(ChangeFileTest, ReadsAndWritesBackTheSame) {
  const std::string document = R"({
  "format": "iterandum-changes",
  "version": 1,
  "title": "Re-grade",
  "changes": [
    {"action": "edit", "table": "tree", "key": {"tree_id": 4711}, "cells": {"condition_code": {"from": 2, "to": 3}}},
    {"action": "add", "table": "species", "label": "new-lime", "cells": {"name": {"to": "Tilia x europaea"}}},
    {"action": "edit", "table": "tree", "key": {"tree_id": 4712}, "cells": {"species_id": {"from": 9, "to": {"ref":"new-lime"}}}},
    {"action": "remove", "table": "inspection", "key": {"tree_id": 4711, "inspected_on": "2025-03-02"}, "cells": {"remark": {"from": "duplicate"}}},
    {"action": "edit", "table": "\"odd.name\"", "key": {"rowid": 1}, "cells": {"x": {"to": null}}},
    {"action": "add", "table": "main.log", "cells": {}},
    {"action": "remove", "table": "log", "key": {"rowid": 2}}
  ]
}
)";
  const auto changes = readChangeFile(document);
  ASSERT_TRUE(changes.has_value()) << changes.error().text();
  EXPECT_EQ(7U, changes->count());
  const auto again = readChangeFile(writeChangeFile(*changes));
  ASSERT_TRUE(again.has_value());
  EXPECT_EQ(writeChangeFile(*changes), writeChangeFile(*again));
  EXPECT_NE(std::string::npos, writeChangeFile(*changes).find(R"("table": "\"odd.name\"")"));
}

TEST(ChangeFileTest, NoChangesAndAByteOrderMarkAreFine) {
  EXPECT_EQ("fine", errorOf(file("")));
  EXPECT_EQ("fine", errorOf("\xEF\xBB\xBF" + file("")));
}

TEST(ChangeFileTest, MistakesNameThePlace) {
  const std::pair<const char*, std::string> cases[] = {
      {"/", "[]"},
      {"/format", R"({"version":1,"changes":[]})"},
      {"/format", R"({"format":"iterandum-receipt","version":1,"changes":[]})"},
      {"/version", R"({"format":"iterandum-changes","version":2,"changes":[]})"},
      {"/version", R"({"format":"iterandum-changes","version":"1","changes":[]})"},
      {"/changes", R"({"format":"iterandum-changes","version":1})"},
      {"/changes", R"({"format":"iterandum-changes","version":1,"changes":{}})"},
      {"/colour", R"({"format":"iterandum-changes","version":1,"colour":"blue","changes":[]})"},
      {"/title", R"({"format":"iterandum-changes","version":1,"title":5,"changes":[]})"},
      {"/changes/0", file("5")},
      {"/changes/0/action", file(R"({"table":"t"})")},
      {"/changes/0/action", file(R"({"action":"mend","table":"t"})")},
      {"/changes/0/table", file(R"({"action":"add"})")},
      {"/changes/0/table", file(R"({"action":"add","table":"a.b.c"})")},
      {"/changes/0/table", file(R"({"action":"add","table":"\"open"})")},
      {"/changes/0/key", file(R"({"action":"edit","table":"t","cells":{"a":{"to":1}}})")},
      {"/changes/0/key", file(R"({"action":"edit","table":"t","key":{},"cells":{"a":{"to":1}}})")},
      {"/changes/0/key", file(R"({"action":"add","table":"t","key":{"id":1}})")},
      {"/changes/0/key/id", file(R"({"action":"remove","table":"t","key":{"id":{"ref":"x"}}})")},
      {"/changes/0/key/id", file(R"({"action":"remove","table":"t","key":{"id":[1]}})")},
      {"/changes/0/label", file(R"({"action":"remove","table":"t","key":{"id":1},"label":"x"})")},
      {"/changes/1/label",
       file(R"({"action":"add","table":"t","label":"x"},{"action":"add","table":"t","label":"x"})")},
      {"/changes/0/cells", file(R"({"action":"edit","table":"t","key":{"id":1}})")},
      {"/changes/0/cells", file(R"({"action":"edit","table":"t","key":{"id":1},"cells":{}})")},
      {"/changes/0/cells/a/to", file(R"({"action":"edit","table":"t","key":{"id":1},"cells":{"a":{"from":1}}})")},
      {"/changes/0/cells/a/from", file(R"({"action":"add","table":"t","cells":{"a":{"from":1,"to":2}}})")},
      {"/changes/0/cells/a/to",
       file(R"({"action":"remove","table":"t","key":{"id":1},"cells":{"a":{"from":1,"to":2}}})")},
      {"/changes/0/cells/a~1b/was",
       file(R"({"action":"edit","table":"t","key":{"id":1},"cells":{"a/b":{"was":1,"to":2}}})")},
      {"/changes/0/cells/a/to/base64", file(R"({"action":"add","table":"t","cells":{"a":{"to":{"base64":"***"}}}})")},
      {"/changes/0/cells/a/to/ref", file(R"({"action":"add","table":"t","cells":{"a":{"to":{"ref":"nobody"}}}})")},
      {"/changes/0/cells", file(R"({"action":"add","table":"t","cells":{"a":{"to":1},"a":{"to":2}}})")},
      {"/changes/0/note", file(R"({"action":"add","table":"t","note":"x"})")},
  };
  for (const auto& [place, document] : cases) EXPECT_EQ(place, errorOf(document)) << document;
}

TEST(ChangeFileTest, CutOffAndScrambledFilesNeverCrash) {
  const std::string good = file(
      R"({"action":"edit","table":"t","key":{"id":1},"cells":{"a":{"from":null,"to":{"base64":"AA=="}}}},{"action":"add","table":"u","label":"x"})");
  for (std::size_t size = 0; size < good.size(); ++size) EXPECT_NE("fine", errorOf(good.substr(0, size)));
  std::mt19937 random(4);
  for (int i = 0; i < 20000; ++i) {
    std::string bad = good;
    for (int k = 0; k < 3; ++k) bad[random() % bad.size()] = static_cast<char>(random());
    (void)errorOf(bad);
  }
}

TEST(ChangeFileTest, ThousandsOfChangesOfOneShapeLieInOneBlock) {
  std::string list;
  for (int i = 0; i < 5000; ++i)
    list += (i ? "," : "") + std::string(R"({"action":"edit","table":"t","key":{"id":)") + std::to_string(i) +
            R"(},"cells":{"a":{"from":1,"to":2}}})";
  const auto changes = readChangeFile(file(list));
  ASSERT_TRUE(changes.has_value());
  ASSERT_EQ(1U, changes->blocks().size());
  EXPECT_EQ(5000U, changes->blocks()[0].rows());
  EXPECT_TRUE(changes->blocks()[0].cells[0].to.isConstant());
}

}  // namespace
}  // namespace iterandum::test
