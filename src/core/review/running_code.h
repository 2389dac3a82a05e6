// Which code of a database runs when a change set is written or rehearsed: its triggers, whoever wrote them. It runs
// with the rights of the user who reviews, so that they are told before it does.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/changes/change_list.h"

namespace iterandum {

// What changes of some tables may set in motion; rather one too many than one too few.
struct ReachedCode {
  std::vector<const Table*> tables;  // that the changes, cascades behind them or triggers may write
  std::vector<std::pair<const Table*, const Trigger*>> triggers;
};
// Not owned: all of the catalogue's.
[[nodiscard]] ReachedCode reachedCode(const Catalogue& catalogue, const std::vector<TableName>& changed);
// "tree_stamp on tree".
[[nodiscard]] std::string triggerInWords(const Table& table, const Trigger& trigger);

// In words, sorted, each once: "tree_stamp on tree".
[[nodiscard]] std::vector<std::string> runningCode(const Catalogue& catalogue, const ChangeList& changes);

// What a person is told about them; `code` is not empty.
[[nodiscard]] std::string runningCodeInWords(const std::vector<std::string>& code);

}  // namespace iterandum
