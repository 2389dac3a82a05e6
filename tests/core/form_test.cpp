// How the card's fields lie: whatever is arranged, every column is there once; documents read back as they were.
#include "core/forms/form.h"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <random>

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

Table tableOf(const std::vector<std::string>& columns) {
  Table table;
  table.name = {"", "tree"};
  for (const std::string& name : columns) {
    Column column;
    column.name = name;
    table.columns.push_back(column);
  }
  return table;
}

// "tag species | Where: street house_no | -note"
std::string said(const Form& form) {
  std::string out;
  for (const FormGroup& group : form.groups) {
    if (!out.empty()) out += " | ";
    out += group.heading.empty() ? "" : group.heading + ": ";
    for (std::size_t i = 0; i < group.fields.size(); ++i) out += (i > 0 ? " " : "") + group.fields[i].column;
  }
  for (const std::string& column : form.leftOut) out += " -" + column;
  return out;
}

TEST(FormTest, FieldsAreMovedPastHeadingsLabelledAndLeftOut) {
  const Table table = tableOf({"tag", "species", "street", "house_no", "note"});
  Form form = plainForm(table);
  EXPECT_EQ("tag species street house_no note", said(form));
  headField(form, "street", "Where");
  EXPECT_EQ("tag species | Where: street house_no note", said(form));
  moveField(form, "note", -1);
  EXPECT_EQ("tag species | Where: street note house_no", said(form));
  moveField(form, "street", -1);
  EXPECT_EQ("tag species street | Where: note house_no", said(form)) << "past the heading";
  moveField(form, "street", 1);
  EXPECT_EQ("tag species | Where: street note house_no", said(form));
  moveField(form, "tag", -1);
  moveField(form, "house_no", 1);
  EXPECT_EQ("tag species | Where: street note house_no", said(form)) << "the ends are the ends";
  moveFieldBefore(form, "note", "tag");
  EXPECT_EQ("note tag species | Where: street house_no", said(form));
  moveFieldBefore(form, "note", "");
  EXPECT_EQ("tag species | Where: street house_no note", said(form));
  leaveOutField(form, "house_no");
  EXPECT_EQ("tag species | Where: street note -house_no", said(form));
  moveField(form, "house_no", 1);
  labelField(form, "house_no", "no");
  EXPECT_EQ("tag species | Where: street note -house_no", said(form)) << "what is not shown is not moved";
  showAllFields(form);
  EXPECT_EQ("tag species | Where: street note house_no", said(form));
  headField(form, "street", "");
  EXPECT_EQ("tag species street note house_no", said(form)) << "without a heading it goes on above";
  headField(form, "tag", "All");
  headField(form, "tag", "");
  EXPECT_EQ("tag species street note house_no", said(form));
  labelField(form, "tag", "Number");
  hintField(form, "tag", "on the trunk");
  EXPECT_EQ((FormField{"tag", "Number", "on the trunk"}), form.groups[0].fields[0]);
}

TEST(FormTest, ItFitsATableThatHasChanged) {
  Form form = plainForm(tableOf({"tag", "species", "street"}));
  headField(form, "street", "Where");
  leaveOutField(form, "species");
  const Table now = tableOf({"tag", "height", "note"});
  EXPECT_EQ("tag height note", said(fitted(form, now)));
  EXPECT_THAT(goneFrom(form, now), ::testing::ElementsAre("street", "species"));
  Form empty;
  empty.table = "tree";
  EXPECT_EQ("tag height note", said(fitted(empty, now)));
  Form all = plainForm(now);
  for (const Column& column : now.columns) leaveOutField(all, column.name);
  EXPECT_EQ(" -tag -height -note", said(fitted(all, now))) << "nothing shown is a choice too";
}

TEST(FormTest, WhateverIsArrangedEveryColumnIsThereOnceAndReadsBack) {
  std::mt19937 random(7);
  const std::vector<std::string> columns{"a", "b", "c", "d", "e", "f"};
  const Table table = tableOf(columns);
  for (int round = 0; round < 300; ++round) {
    Form form = plainForm(table);
    for (int act = 0; act < 30; ++act) {
      const std::string& column = columns[random() % columns.size()];
      const std::string& other = columns[random() % columns.size()];
      switch (random() % 8) {
        case 0:
        case 1:
          moveField(form, column, random() % 2 == 0 ? 1 : -1);
          break;
        case 2:
          moveFieldBefore(form, column, random() % 4 == 0 ? "" : other);
          break;
        case 3:
          headField(form, column, random() % 3 == 0 ? "" : "H" + std::to_string(random() % 3));
          break;
        case 4:
          leaveOutField(form, column);
          break;
        case 5:
          if (random() % 3 == 0) showAllFields(form);
          break;
        case 6:
          labelField(form, column, random() % 2 == 0 ? "" : "L\"\n" + column);
          break;
        default:
          hintField(form, column, "h\xC3\xA9" + column);
          break;
      }
      std::vector<std::string> there = form.leftOut;
      for (const FormGroup& group : form.groups) {
        ASSERT_FALSE(group.fields.empty()) << said(form);
        for (const FormField& field : group.fields) there.push_back(field.column);
      }
      std::sort(there.begin(), there.end());
      ASSERT_EQ(columns, there) << said(form);
      ASSERT_EQ(form, fitted(form, table));
    }
    const auto back = formsFromJson(formsToJson({form}));
    ASSERT_TRUE(back) << back.error().text();
    ASSERT_EQ(std::vector<Form>{form}, *back);
  }
}

TEST(FormTest, BadDocumentsAreRefusedWithTheirPlace) {
  const auto why = [](const std::string& forms) {
    const auto read = formsFromJson("{\"format\": \"iterandum-forms\", \"version\": 1, \"forms\": " + forms + "}");
    return read ? std::string("taken") : read.error().text();
  };
  EXPECT_EQ("taken", why("[]"));
  EXPECT_EQ("taken", why(R"([{"table": "tree"}])"));
  EXPECT_THAT(why(R"([{"groups": []}])"), HasSubstr("/forms/0/table"));
  EXPECT_THAT(why(R"([{"table": ""}])"), HasSubstr("/forms/0/table"));
  EXPECT_THAT(why(R"([{"table": "tree"}, {"table": "tree"}])"), HasSubstr("a form for tree already"));
  EXPECT_THAT(why(R"([{"table": "tree", "colour": "green"}])"), HasSubstr("colour"));
  EXPECT_THAT(why(R"([{"table": "tree", "groups": [{"fields": [{"column": "tag"}, {"column": "tag"}]}]}])"),
              HasSubstr("/forms/0/groups/0/fields/1"));
  EXPECT_THAT(why(R"([{"table": "tree", "groups": [{"fields": [{"column": "tag"}]}], "left_out": ["tag"]}])"),
              HasSubstr("the column tag is there twice"));
  EXPECT_THAT(why(R"([{"table": "tree", "groups": {}}])"), HasSubstr("a list is wanted here"));
  EXPECT_THAT(why(R"([{"table": "tree", "left_out": [3]}])"), HasSubstr("/forms/0/left_out/0"));
  EXPECT_FALSE(formsFromJson(R"({"format": "iterandum-lenses", "version": 1, "forms": []})"));
  EXPECT_FALSE(formsFromJson(R"({"format": "iterandum-forms", "version": 2, "forms": []})"));
}

}  // namespace
}  // namespace iterandum::test
