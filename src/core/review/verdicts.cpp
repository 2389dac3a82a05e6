#include "core/review/verdicts.h"

#include <algorithm>

namespace iterandum {

void Verdicts::clear() {
  states_.clear();
  findings_.clear();
  touched_.clear();
  blocked_ = false;
}

Finding Verdicts::findingFor(const RowPlace& place, FindingKind kind, const std::string& message) const {
  const ExaminedBlock& block = facts_.blocks()[place.block];
  Finding finding;
  finding.kind = kind;
  finding.change = block.changes.changeIndex[place.row];
  finding.table = block.changes.table;
  finding.keyColumns = block.changes.keyColumns;
  finding.key = block.changes.key(place.row);
  finding.message = recordInWords(finding.table, finding.key) + ": " + message;
  return finding;
}

void Verdicts::add(Finding finding) {
  blocked_ = blocked_ || finding.blocks;
  findings_.push_back(std::move(finding));
}

void Verdicts::note(const RowPlace& place, Finding finding) {
  if (finding.blocks && isOpen(place)) hold(place);
  add(std::move(finding));
}

void Verdicts::refuse(const RowPlace& place, Finding finding) {
  hold(place);
  add(std::move(finding));
}

void Verdicts::refuseAll(std::uint32_t block, FindingKind kind, const std::string& column, const std::string& message,
                         ChangeState state) {
  for (std::uint32_t row = 0; row < states_[block].size(); ++row) {
    Finding finding = findingFor({block, row}, kind, message);
    finding.column = column;
    add(std::move(finding));
    ChangeState& own = states_[block][row];
    if (own != ChangeState::Unresolvable) own = state;
  }
}

std::vector<Finding> Verdicts::takeFindings() {
  std::stable_sort(findings_.begin(), findings_.end(),
                   [](const Finding& a, const Finding& b) { return a.change < b.change; });
  return std::move(findings_);
}

const RowPlace* Verdicts::touching(const Table& table, const ValueTuple& identity) {
  auto [it, isNew] = touched_.try_emplace(&table);
  if (isNew) {
    for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
      const ExaminedBlock& block = facts_.blocks()[b];
      if (block.table != &table || block.changes.action == Action::Add || block.found.empty()) continue;
      for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
        if (block.found[r] != 0 && states_[b][r] != ChangeState::Skipped)
          it->second.try_emplace(block.writeKey(r), RowPlace{b, r});
      }
    }
  }
  const auto place = it->second.find(identity);
  return place == it->second.end() ? nullptr : &place->second;
}

}  // namespace iterandum
