// Verdicts: what is thought of each change of a change set: whether it is still to be written, and the findings.
//
// Begun by the examination, which reads only, and gone on with by the execution, which tries the writes. The facts that
// they stand on (facts.h) are not touched by them.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/review/facts.h"
#include "core/review/finding.h"

namespace iterandum {

enum class ChangeState : std::uint8_t {
  Open,         // to be written
  AlreadySo,    // nothing is left to write
  Skipped,      // dropped, because theirs was to be kept
  Blocked,      // has a finding that blocks
  Unresolvable  // has one that not even a statement can be made for: a table or column is missing
};

// Where changes lie, by what a record of theirs holds.
using TupleIndex = std::unordered_map<ValueTuple, RowPlace, TupleHash, TupleSame>;

class Verdicts {
 public:
  // The facts outlive the verdicts.
  explicit Verdicts(const Facts& facts) : facts_(facts) {}

  // All changes of the block are to be written, as far as is known. REQUIRES: blocks are begun in their order.
  void beginBlock(std::size_t rows) { states_.emplace_back(rows, ChangeState::Open); }
  void clear();

  [[nodiscard]] ChangeState of(const RowPlace& place) const { return states_[place.block][place.row]; }
  [[nodiscard]] bool isOpen(const RowPlace& place) const { return of(place) == ChangeState::Open; }
  // Of all changes of a block, by row.
  [[nodiscard]] const std::vector<ChangeState>& ofBlock(std::uint32_t block) const { return states_[block]; }
  // The change that is to touch the record with this identity; null: none, or one that was dropped. What it says is
  // settled when it is first asked about a table.
  [[nodiscard]] const RowPlace* touching(const Table& table, const ValueTuple& identity);

  // A finding about one change, with its table, key and index filled in.
  [[nodiscard]] Finding findingFor(const RowPlace& place, FindingKind kind, const std::string& message) const;
  // A finding that blocks takes an open change out of what is written.
  void note(const RowPlace& place, Finding finding);
  // The same, whatever the change was before.
  void refuse(const RowPlace& place, Finding finding);
  // A finding that takes no change out of what is written, though it may block all of them.
  void say(Finding finding) { add(std::move(finding)); }
  void refuseAll(std::uint32_t block, FindingKind kind, const std::string& column, const std::string& message,
                 ChangeState state);
  // It cannot be written because of something that has its finding elsewhere.
  void hold(const RowPlace& place) { at(place) = ChangeState::Blocked; }
  // Nothing is left to write for it.
  void settle(const RowPlace& place) { at(place) = ChangeState::AlreadySo; }
  // Theirs is kept.
  void drop(const RowPlace& place) { at(place) = ChangeState::Skipped; }
  // What was so already would not stay so: it is written all the same.
  void reopen(const RowPlace& place) {
    if (of(place) == ChangeState::AlreadySo) at(place) = ChangeState::Open;
  }

  [[nodiscard]] const std::vector<Finding>& findings() const { return findings_; }
  // In the order of the changes; none are left behind.
  [[nodiscard]] std::vector<Finding> takeFindings();
  [[nodiscard]] bool blocked() const { return blocked_; }

 private:
  [[nodiscard]] ChangeState& at(const RowPlace& place) { return states_[place.block][place.row]; }
  void add(Finding finding);

  const Facts& facts_;
  std::vector<std::vector<ChangeState>> states_;  // by block and row
  std::vector<Finding> findings_;
  bool blocked_ = false;
  std::map<const Table*, TupleIndex> touched_;
};

}  // namespace iterandum
