// Writing many records in one statement, and finding the refused ones without a round trip for each: a batch that the
// server refuses is undone and halved, until the refused records stand alone. Shared by the engines that are servers.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "core/engines/session.h"

namespace iterandum {

// What one statement over a batch did.
struct BulkOutcome {
  std::int64_t touched = 0;          // records, as the server counts them
  std::vector<ValueTuple> returned;  // Insert: a row for each record, in order, where the step asks for it
};

// The server's side of it.
class BulkTarget {
 public:
  BulkTarget() = default;
  BulkTarget(const BulkTarget&) = delete;
  BulkTarget& operator=(const BulkTarget&) = delete;
  virtual ~BulkTarget() = default;

  // Writes the rows under a savepoint. A failure that can be laid at the rows' door (ErrorKind::Constraint, Refused)
  // must leave nothing of the statement behind. After success the savepoint stands until keep() or undo().
  [[nodiscard]] virtual Result<BulkOutcome> execute(const WriteStep& step, std::span<const std::uint32_t> rows,
                                                    Progress& progress) = 0;
  [[nodiscard]] virtual Status keep(Progress& progress) = 0;
  [[nodiscard]] virtual Status undo(Progress& progress) = 0;
  // Adds to an error what the server knows about it: who holds the lock.
  [[nodiscard]] virtual Error explained(Error error, const Table& table) = 0;
  // How many records, and how many bytes of keys and values, one statement takes at most.
  [[nodiscard]] virtual std::size_t mostRows() const = 0;
  [[nodiscard]] virtual std::size_t mostBytes() const = 0;
};

// Session::write() for such an engine.
[[nodiscard]] Status writeInBulk(BulkTarget& target, const WriteStep& step, const WriteReport& report,
                                 Progress& progress);

}  // namespace iterandum
