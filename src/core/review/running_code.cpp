#include "core/review/running_code.h"

#include <algorithm>
#include <set>

#include "core/catalogue/database_code.h"

namespace iterandum {

std::vector<std::string> runningCode(const Catalogue& catalogue, const ChangeList& changes) {
  std::set<const Table*> reached;
  std::vector<const Table*> next;
  const auto reach = [&](const Table* table) {
    if (table != nullptr && reached.insert(table).second) next.push_back(table);
  };
  for (const ChangeBlock& block : changes.blocks()) reach(catalogue.find(block.table));
  std::set<std::string> out;
  while (!next.empty()) {
    const Table& table = *next.back();
    next.pop_back();
    for (const IncomingReference& in : catalogue.referencesTo(table.name)) {
      const Table& child = catalogue.tables()[in.table];
      const Reference& reference = child.references[in.reference];
      const auto acts = [](ReferenceAction action) {
        return action != ReferenceAction::NoAction && action != ReferenceAction::Restrict;
      };
      if (!reference.stated && (acts(reference.onDelete) || acts(reference.onUpdate))) reach(&child);
    }
    for (const Trigger& trigger : table.triggers) {
      out.insert(trigger.name + " on " + displayName(table.name) +
                 (trigger.text.empty() ? " (you may not read what it does)" : ""));
      for (const Table& other : catalogue.tables()) {
        if (mentionsName(trigger.text, other.name.name)) reach(&other);
      }
    }
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
