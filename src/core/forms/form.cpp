#include "core/forms/form.h"

#include <algorithm>
#include <optional>
#include <set>
#include <utility>

namespace iterandum {
namespace {

struct Place {
  std::size_t group;
  std::size_t field;
};

std::optional<Place> placeOf(const Form& form, const std::string& column) {
  for (std::size_t g = 0; g < form.groups.size(); ++g) {
    const auto& fields = form.groups[g].fields;
    const auto at = std::find_if(fields.begin(), fields.end(), [&](const FormField& f) { return f.column == column; });
    if (at != fields.end()) return Place{g, static_cast<std::size_t>(at - fields.begin())};
  }
  return std::nullopt;
}

FormField takeOut(Form& form, const Place& place) {
  auto& fields = form.groups[place.group].fields;
  FormField field = std::move(fields[place.field]);
  fields.erase(fields.begin() + static_cast<std::ptrdiff_t>(place.field));
  return field;
}

void putIn(Form& form, const Place& place, FormField field) {
  auto& fields = form.groups[place.group].fields;
  fields.insert(fields.begin() + static_cast<std::ptrdiff_t>(place.field), std::move(field));
}

void dropEmptyGroups(Form& form) {
  std::erase_if(form.groups, [](const FormGroup& group) { return group.fields.empty(); });
}

void append(Form& form, const std::string& column) {
  if (form.groups.empty()) form.groups.emplace_back();
  form.groups.back().fields.push_back({column, {}, {}});
}

}  // namespace

Form plainForm(const Table& table) {
  Form form;
  form.table = displayName(table.name);
  for (const Column& column : table.columns) append(form, column.name);
  return form;
}

Form fitted(const Form& form, const Table& table) {
  Form out = form;
  std::set<std::string> named;
  const auto gone = [&](const std::string& column) {
    return table.column(column) == nullptr || !named.insert(column).second;
  };
  for (FormGroup& group : out.groups) std::erase_if(group.fields, [&](const FormField& f) { return gone(f.column); });
  std::erase_if(out.leftOut, gone);
  dropEmptyGroups(out);
  for (const Column& column : table.columns) {
    if (!named.contains(column.name)) append(out, column.name);
  }
  return out;
}

std::vector<std::string> goneFrom(const Form& form, const Table& table) {
  std::vector<std::string> out;
  const auto note = [&](const std::string& column) {
    if (table.column(column) == nullptr) out.push_back(column);
  };
  for (const FormGroup& group : form.groups) {
    for (const FormField& field : group.fields) note(field.column);
  }
  for (const std::string& column : form.leftOut) note(column);
  return out;
}

void moveField(Form& form, const std::string& column, int step) {
  const auto at = placeOf(form, column);
  if (!at) return;
  const std::size_t last = form.groups[at->group].fields.size() - 1;
  const bool up = step < 0;
  Place to = *at;
  if (up ? at->field > 0 : at->field < last) {
    to.field += up ? std::size_t(-1) : 1;
  } else if (up ? at->group > 0 : at->group + 1 < form.groups.size()) {
    to.group += up ? std::size_t(-1) : 1;
    to.field = up ? form.groups[to.group].fields.size() : 0;
  } else {
    return;
  }
  putIn(form, to, takeOut(form, *at));
  dropEmptyGroups(form);
}

void moveFieldBefore(Form& form, const std::string& column, const std::string& before) {
  const auto at = placeOf(form, column);
  if (!at || column == before || (!before.empty() && !placeOf(form, before))) return;
  FormField field = takeOut(form, *at);
  if (before.empty()) {
    form.groups.back().fields.push_back(std::move(field));
  } else {
    putIn(form, *placeOf(form, before), std::move(field));
  }
  dropEmptyGroups(form);
}

void labelField(Form& form, const std::string& column, const std::string& label) {
  if (const auto at = placeOf(form, column)) form.groups[at->group].fields[at->field].label = label;
}

void hintField(Form& form, const std::string& column, const std::string& hint) {
  if (const auto at = placeOf(form, column)) form.groups[at->group].fields[at->field].hint = hint;
}

void headField(Form& form, const std::string& column, const std::string& heading) {
  const auto at = placeOf(form, column);
  if (!at) return;
  FormGroup& group = form.groups[at->group];
  if (!heading.empty() && at->field > 0) {
    const auto from = group.fields.begin() + static_cast<std::ptrdiff_t>(at->field);
    FormGroup below{heading, {std::make_move_iterator(from), std::make_move_iterator(group.fields.end())}};
    group.fields.erase(from, group.fields.end());
    form.groups.insert(form.groups.begin() + static_cast<std::ptrdiff_t>(at->group) + 1, std::move(below));
  } else if (!heading.empty() || at->group == 0) {
    group.heading = heading;
  } else {
    // Without a heading it goes on with the group above.
    FormGroup here = std::move(group);
    form.groups.erase(form.groups.begin() + static_cast<std::ptrdiff_t>(at->group));
    auto& above = form.groups[at->group - 1].fields;
    above.insert(above.end(), std::make_move_iterator(here.fields.begin()), std::make_move_iterator(here.fields.end()));
  }
}

void leaveOutField(Form& form, const std::string& column) {
  const auto at = placeOf(form, column);
  if (!at) return;
  form.leftOut.push_back(takeOut(form, *at).column);
  dropEmptyGroups(form);
}

void showAllFields(Form& form) {
  for (const std::string& column : std::exchange(form.leftOut, {})) append(form, column);
}

}  // namespace iterandum
