#include "core/changes/change_list.h"

#include <algorithm>

#include "core/value/codec.h"

namespace iterandum {
namespace {

std::string shapeOf(const Change& change) {
  ByteWriter shape;
  shape.number(static_cast<std::uint64_t>(change.action));
  shape.string(change.table.schema);
  shape.string(change.table.name);
  shape.number(change.keyColumns.size());
  for (const std::string& column : change.keyColumns) shape.string(column);
  for (const CellChange& cell : change.cells) {
    shape.string(cell.column);
    shape.number(cell.hasFrom ? 1 : 0);
  }
  return shape.take();
}

}  // namespace

const char* actionName(Action action) {
  switch (action) {
    case Action::Edit:
      return "edit";
    case Action::Add:
      return "add";
    case Action::Remove:
      break;
  }
  return "remove";
}

ValueTuple ChangeBlock::key(std::size_t row) const {
  ValueTuple tuple;
  tuple.reserve(keys.size());
  for (const ValueColumn& column : keys) tuple.push_back(column.at(row));
  return tuple;
}

Change ChangeBlock::change(std::size_t row) const {
  Change out;
  out.action = action;
  out.table = table;
  out.keyColumns = keyColumns;
  out.key = key(row);
  if (!labels.empty()) out.label = labels[row];
  for (const Cells& c : cells) {
    CellChange cell;
    cell.column = c.column;
    cell.hasFrom = c.hasFrom;
    if (c.hasFrom) cell.from = c.from.at(row);
    if (action != Action::Remove) cell.to = c.to.at(row);
    out.cells.push_back(std::move(cell));
  }
  return out;
}

ChangeBlock& ChangeList::blockFor(const Change& change) {
  const auto [it, isNew] = byShape_.try_emplace(shapeOf(change), blocks_.size());
  if (isNew) {
    ChangeBlock block;
    block.action = change.action;
    block.table = change.table;
    block.keyColumns = change.keyColumns;
    block.keys.resize(change.keyColumns.size());
    for (const CellChange& cell : change.cells) {
      ChangeBlock::Cells cells;
      cells.column = cell.column;
      cells.hasFrom = cell.hasFrom;
      block.cells.push_back(std::move(cells));
    }
    blocks_.push_back(std::move(block));
  }
  return blocks_[it->second];
}

void ChangeList::add(const Change& change) { addAt(change, next_); }

void ChangeList::addAt(const Change& change, std::uint32_t index) {
  ChangeBlock& block = blockFor(change);
  block.changeIndex.push_back(index);
  for (std::size_t k = 0; k < block.keys.size(); ++k) block.keys[k].push(change.key[k]);
  for (std::size_t c = 0; c < block.cells.size(); ++c) {
    if (block.cells[c].hasFrom) block.cells[c].from.push(change.cells[c].from);
    if (change.action != Action::Remove) block.cells[c].to.push(change.cells[c].to);
  }
  if (change.action == Action::Add) block.labels.push_back(change.label);
  next_ = std::max(next_, index + 1);
}

std::vector<std::pair<std::uint32_t, Change>> ChangeList::inOrder() const {
  std::vector<std::pair<std::uint32_t, Change>> out;
  for (const ChangeBlock& block : blocks_) {
    for (std::size_t row = 0; row < block.rows(); ++row) out.emplace_back(block.changeIndex[row], block.change(row));
  }
  std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  return out;
}

}  // namespace iterandum
