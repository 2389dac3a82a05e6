// Execution: what is kept of it, the records before and after.
#include <map>
#include <set>

#include "core/apply/execution.h"
#include "core/catalogue/column_rules.h"

namespace iterandum {
namespace {

// A value that its column's declared type would refuse is marked, so that it can be written back as it was.
ValueColumn marked(const Column* column, const ValueColumn& values, bool& any) {
  if (column == nullptr || !column->storesOffType || column->computed) return values;
  ValueColumn out;
  out.reserve(values.size());
  for (std::size_t r = 0; r < values.size(); ++r) {
    Value v = values.at(r);
    const bool canBeMarked = v.kind() == Value::Kind::Text || v.kind() == Value::Kind::Real;
    if (canBeMarked && isOffType(*column, v)) {
      v = Value::ofString(Value::Kind::Other, canonicalText(v));
      any = true;
    }
    out.push(std::move(v));
  }
  return out;
}

// A row id is in the key and nowhere else: no addition could bring it back.
void describeColumns(const Table& table, ReceiptBlock& out) {
  for (const Column& column : table.columns) out.columns.push_back(column.name);
  for (const std::string& name : out.columns) {
    const Column* column = table.column(name);
    if (column != nullptr && column->type == TypeClass::Any) out.anyTypeColumns.push_back(name);
    if (column != nullptr && column->notEditable.empty() && out.action != Action::Edit) out.written.push_back(name);
  }
}

void addRecords(const Table& table, const std::vector<ValueColumn>& values, std::vector<ValueColumn>& target,
                ReceiptBlock& out) {
  for (std::size_t c = 0; c < out.columns.size() && c < values.size(); ++c) {
    bool any = false;
    target.push_back(marked(table.column(out.columns[c]), values[c], any));
    if (any) out.anyTypeColumns.push_back(out.columns[c]);
  }
}

}  // namespace

ReceiptBlock Execution::receiptOf(std::uint32_t b) const {
  const ExaminedBlock& block = facts_.blocks()[b];
  ReceiptBlock out;
  out.action = block.changes.action;
  out.table = block.changes.table;
  describeColumns(*block.table, out);
  out.changeIndex = block.changes.changeIndex;
  if (out.action == Action::Edit) {
    for (const ChangeBlock::Cells& c : block.changes.cells) out.written.push_back(c.column);
  }
  if (out.action == Action::Add) {
    out.keyColumns = block.table->writeKeyColumns();
    for (std::size_t k = 0; k < out.keyColumns.size(); ++k) {
      // Nothing is known of it where the addition is still to come.
      ValueColumn key;
      for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
        const ValueTuple known = keyAfter(b, r);
        key.push(known.empty() ? Value() : known[k]);
      }
      out.keys.push_back(std::move(key));
    }
  } else {
    out.keyColumns = block.changes.keyColumns;
    out.keys = block.changes.keys;
    std::vector<ValueColumn> before;
    for (const std::string& name : out.columns) {
      const std::size_t at = block.recordColumn(name);
      before.push_back(at < block.before.size() ? block.before[at] : ValueColumn(block.changes.rows(), Value()));
    }
    addRecords(*block.table, before, out.before, out);
  }
  for (const ChangeState state : verdicts_.ofBlock(b)) {
    out.outcomes.push_back(state == ChangeState::Open        ? Outcome::Applied
                           : state == ChangeState::AlreadySo ? Outcome::AlreadySo
                                                             : Outcome::Skipped);
  }
  for (std::uint32_t r = 0; out.action == Action::Edit && r < block.changes.rows(); ++r) {
    if (!verdicts_.isOpen({b, r})) continue;
    for (std::size_t c = 0; c < block.changes.cells.size(); ++c) {
      const std::string& column = block.changes.cells[c].column;
      const std::size_t at = block.recordColumn(column);
      const bool same = at < block.before.size() && sameValue(block.before[at].at(r), block.changes.cells[c].to.at(r));
      if (same && block.writesCell(c, r)) out.kept[r].push_back(column);
    }
  }
  if (out.action != Action::Remove) {
    std::vector<ValueColumn> after = after_[b];
    if (after.empty()) after.assign(out.columns.size(), ValueColumn(block.changes.rows(), Value()));
    for (std::uint32_t r = 0; r < block.changes.rows(); ++r) {
      if (verdicts_.isOpen({b, r})) continue;
      for (std::size_t c = 0; c < after.size() && c < out.before.size(); ++c) after[c].set(r, out.before[c].at(r));
    }
    addRecords(*block.table, after, out.after, out);
  }
  return out;
}

void Execution::addCascades(std::vector<ReceiptBlock>& blocks) const {
  const std::vector<Consequence>& consequences = facts_.consequences();
  std::map<std::pair<const Table*, Consequence::Kind>, std::vector<std::size_t>> byTable;
  for (std::size_t i = 0; i < consequences.size(); ++i)
    byTable[{consequences[i].table, consequences[i].kind}].push_back(i);
  for (const auto& [which, members] : byTable) {
    const auto& [table, kind] = which;
    ReceiptBlock out;
    out.action = kind == Consequence::Kind::Remove ? Action::Remove : Action::Edit;
    out.table = table->name;
    out.cascaded = true;
    describeColumns(*table, out);
    out.keyColumns = table->writeKeyColumns();
    out.keys.resize(out.keyColumns.size());
    std::vector<ValueColumn> before(out.columns.size());
    std::vector<ValueColumn> after(out.columns.size());
    std::set<std::size_t> written;
    for (const std::size_t i : members) {
      const Consequence& c = consequences[i];
      const bool isThere = i < consequenceAfter_.size() && !consequenceAfter_[i].empty();
      out.changeIndex.push_back(c.causes.front().change);
      out.outcomes.push_back(Outcome::Applied);
      written.insert(c.columns.begin(), c.columns.end());
      for (std::size_t k = 0; k < out.keys.size(); ++k) out.keys[k].push(c.identity[k]);
      for (std::size_t col = 0; col < before.size(); ++col) {
        before[col].push(c.before[col]);
        after[col].push(isThere ? consequenceAfter_[i][col] : c.before[col]);
      }
    }
    if (out.action == Action::Edit) out.written = table->columnNames({written.begin(), written.end()});
    addRecords(*table, before, out.before, out);
    if (out.action == Action::Edit) addRecords(*table, after, out.after, out);
    blocks.push_back(std::move(out));
  }
}

std::vector<ReceiptBlock> Execution::receiptBlocks() const {
  std::vector<ReceiptBlock> blocks;
  for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
    if (facts_.blocks()[b].table != nullptr) blocks.push_back(receiptOf(b));
  }
  addCascades(blocks);
  return blocks;
}

}  // namespace iterandum
