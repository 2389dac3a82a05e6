// Forms: how the card lays out the fields of a table: in which order, under which headings, with which labels and
// hints, and which are left out. What a form says changes nothing of what is stored or how it is named elsewhere.
//
// A document of its own (docs/formats.md, "Forms"), kept in the store and exchanged as a file.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"

namespace iterandum {

struct FormField {
  std::string column;
  std::string label;  // empty: the column's name
  std::string hint;   // what is to be known when it is filled in; may be empty
  friend bool operator==(const FormField&, const FormField&) = default;
};

struct FormGroup {
  std::string heading;  // empty: none
  std::vector<FormField> fields;
  friend bool operator==(const FormGroup&, const FormGroup&) = default;
};

struct Form {
  std::string table;  // as parseTableName() takes it
  std::vector<FormGroup> groups;
  std::vector<std::string> leftOut;  // columns that have no field
  friend bool operator==(const Form&, const Form&) = default;
};

[[nodiscard]] std::string formsToJson(const std::vector<Form>& forms);
// Errors: InvalidFile with the JSON Pointer; a column that is there twice, or two forms for a table, are some.
[[nodiscard]] Result<std::vector<Form>> formsFromJson(std::string_view document);

// The form that a table has while nobody arranged anything: its columns as they come.
[[nodiscard]] Form plainForm(const Table& table);
// The form as it fits the table now: columns that it does not know stand at its end, those that are gone go, and with
// them what is empty. Every column is in it once, shown or left out.
[[nodiscard]] Form fitted(const Form& form, const Table& table);
// What the form speaks of and the table has no more.
[[nodiscard]] std::vector<std::string> goneFrom(const Form& form, const Table& table);

// --- arranging; each leaves every field where it is but the one it is about. A column that is not shown is left as it
// is. ---
// One place up (-1) or down (1), past a heading into the group there.
void moveField(Form& form, const std::string& column, int step);
// In front of another field, in that one's group; without one, to the end.
void moveFieldBefore(Form& form, const std::string& column, const std::string& before);
void labelField(Form& form, const std::string& column, const std::string& label);
void hintField(Form& form, const std::string& column, const std::string& hint);
// The heading above this field: it begins a group of that name. An empty one takes away the heading that stands above.
void headField(Form& form, const std::string& column, const std::string& heading);
void leaveOutField(Form& form, const std::string& column);
// Those that were left out come back, at the end.
void showAllFields(Form& form);

}  // namespace iterandum
