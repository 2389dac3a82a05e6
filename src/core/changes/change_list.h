// ChangeList: a change set at rest, as a change file holds it and as review and apply take it.
//
// Changes of the same shape (action, table, key columns, cells with or without `from`) lie together in one block,
// column by column, so that a million edits are a few arrays and reach the engine in bulk. Each row of a block knows
// the index that the change has in the file: findings and receipts speak of it.
#pragma once

#include <cstdint>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"
#include "core/changes/file_origin.h"
#include "core/value/value_column.h"

namespace iterandum {

enum class Action : std::uint8_t { Edit, Add, Remove };
[[nodiscard]] const char* actionName(Action action);

// One change on its own: how changes are put in and shown one by one.
struct CellChange {
  std::string column;
  bool hasFrom = false;
  Value from;
  Value to;  // unused in a removal
};

struct Change {
  Action action = Action::Edit;
  TableName table;
  std::vector<std::string> keyColumns;  // empty for an addition
  ValueTuple key;
  std::vector<CellChange> cells;
  std::string label;  // additions only; may be empty
};

struct ChangeBlock {
  struct Cells {
    std::string column;
    bool hasFrom = false;
    ValueColumn from;
    ValueColumn to;
  };
  Action action = Action::Edit;
  TableName table;
  std::vector<std::string> keyColumns;
  std::vector<ValueColumn> keys;  // one for each key column
  std::vector<Cells> cells;
  std::vector<std::uint32_t> changeIndex;
  std::vector<std::string> labels;  // additions only: one for each row

  [[nodiscard]] std::size_t rows() const { return changeIndex.size(); }
  [[nodiscard]] ValueTuple key(std::size_t row) const;
  [[nodiscard]] Change change(std::size_t row) const;
};

class ChangeList {
 public:
  std::string title;
  FileOrigins origins;  // by index; change files do not carry them

  // Appends; the change gets the next index unless one is given.
  void add(const Change& change);
  void addAt(const Change& change, std::uint32_t index);

  [[nodiscard]] const std::vector<ChangeBlock>& blocks() const { return blocks_; }
  [[nodiscard]] std::vector<ChangeBlock>& blocks() { return blocks_; }
  // One more than the highest index given; changes merged into others leave gaps.
  [[nodiscard]] std::uint32_t count() const { return next_; }
  [[nodiscard]] bool empty() const { return blocks_.empty(); }
  // All changes by index. Copies: for files and for screens, not for the work on a million.
  [[nodiscard]] std::vector<std::pair<std::uint32_t, Change>> inOrder() const;

 private:
  ChangeBlock& blockFor(const Change& change);
  std::vector<ChangeBlock> blocks_;
  std::unordered_map<std::string, std::size_t> byShape_;
  std::uint32_t next_ = 0;
};

}  // namespace iterandum
