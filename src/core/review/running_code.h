// Which code of a database runs when a change set is written or rehearsed: its triggers, whoever wrote them. It runs
// with the rights of the user who reviews, so that they are told before it does.
#pragma once

#include <string>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/changes/change_list.h"

namespace iterandum {

// In words, sorted, each once: "tree_stamp on tree". Of all tables that the changes, the cascades behind them or other
// triggers may write; rather one too many than one too few.
[[nodiscard]] std::vector<std::string> runningCode(const Catalogue& catalogue, const ChangeList& changes);

// What a person is told about them; `code` is not empty.
[[nodiscard]] std::string runningCodeInWords(const std::vector<std::string>& code);

}  // namespace iterandum
