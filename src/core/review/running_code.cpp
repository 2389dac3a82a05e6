#include "core/review/running_code.h"

#include <algorithm>
#include <set>

#include "core/catalogue/database_code.h"

namespace iterandum {

ReachedCode reachedCode(const Catalogue& catalogue, const std::vector<TableName>& changed) {
  ReachedCode out;
  std::set<const Table*> reached;
  const auto reach = [&](const Table* table) {
    if (table != nullptr && reached.insert(table).second) out.tables.push_back(table);
  };
  for (const TableName& name : changed) reach(catalogue.find(name));
  for (std::size_t next = 0; next < out.tables.size(); ++next) {
    const Table& table = *out.tables[next];
    for (const IncomingReference& in : catalogue.referencesTo(table.name)) {
      const Table& child = catalogue.tables()[in.table];
      const Reference& reference = child.references[in.reference];
      const auto acts = [](ReferenceAction action) {
        return action != ReferenceAction::NoAction && action != ReferenceAction::Restrict;
      };
      if (!reference.stated && (acts(reference.onDelete) || acts(reference.onUpdate))) reach(&child);
    }
    for (const Trigger& trigger : table.triggers) {
      out.triggers.emplace_back(&table, &trigger);
      for (const Table& other : catalogue.tables()) {
        if (mentionsName(trigger.text, other.name.name)) reach(&other);
      }
    }
  }
  return out;
}

std::string triggerInWords(const Table& table, const Trigger& trigger) {
  return trigger.name + " on " + displayName(table.name);
}

std::vector<std::string> runningCode(const Catalogue& catalogue, const ChangeList& changes) {
  std::vector<TableName> changed;
  for (const ChangeBlock& block : changes.blocks()) changed.push_back(block.table);
  std::set<std::string> out;
  for (const auto& [table, trigger] : reachedCode(catalogue, changed).triggers) {
    out.insert(triggerInWords(*table, *trigger) + (trigger->text.empty() ? " (you may not read what it does)" : ""));
  }
  return {out.begin(), out.end()};
}

std::string runningCodeInWords(const std::vector<std::string>& code) {
  // As many as a person reads at one go.
  constexpr std::size_t kMost = 8;
  std::string list;
  for (std::size_t i = 0; i < code.size() && i < kMost; ++i) list += (i == 0 ? "" : ", ") + code[i];
  if (code.size() > kMost) list += " and " + std::to_string(code.size() - kMost) + " more";
  return "code of this database runs when these changes are tried or written: " + list +
         ". It runs with your rights; what it does outside the database cannot be taken back. This is said once";
}

}  // namespace iterandum
