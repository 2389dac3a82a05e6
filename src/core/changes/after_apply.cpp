#include "core/changes/after_apply.h"

#include <algorithm>

namespace iterandum {
namespace {

class Rebaser {
 public:
  Rebaser(const ChangeSet& applied, const AppliedAdditions& added) : applied_(applied), added_(added) {}

  void rebase(const GesturePart& part, std::vector<GesturePart>& out) const {
    if (part.kind == GesturePart::Kind::Add || part.kind == GesturePart::Kind::EditAdded ||
        part.kind == GesturePart::Kind::DropAdded) {
      rebaseAdded(part, out);
    } else {
      rebaseExisting(part, out);
    }
  }

 private:
  static GesturePart emptied(const GesturePart& part, GesturePart::Kind kind) {
    GesturePart out;
    out.kind = kind;
    out.table = part.table;
    out.keyColumns = part.keyColumns;
    out.keys.resize(part.keyColumns.size());
    out.column = part.column;
    out.recordColumns = part.recordColumns;
    out.records.resize(part.recordColumns.size());
    return out;
  }

  // What stood for the key of a new record is that key now.
  [[nodiscard]] Value settled(const Value& value) const {
    if (value.kind() != Value::Kind::PendingKey) return value;
    for (const auto& [id, record] : added_) {
      if (value.asString() == addedLabel(id) && record.key.size() == 1) return record.key[0];
    }
    return value;
  }

  void rebaseAdded(const GesturePart& part, std::vector<GesturePart>& out) const {
    GesturePart still = part;
    still.addedIds.clear();
    still.to = {};
    still.origins.clear();
    for (std::size_t i = 0; i < part.addedIds.size(); ++i) {
      const auto done = added_.find(part.addedIds[i]);
      if (done == added_.end()) {
        still.addedIds.push_back(part.addedIds[i]);
        if (!part.origins.empty()) still.origins.push_back(part.origins[i]);
        if (part.kind == GesturePart::Kind::EditAdded) still.to.push(settled(part.to.at(i)));
      } else if (part.kind != GesturePart::Kind::Add) {
        out.push_back(ofApplied(part, i, done->second));
      }
    }
    if (!still.addedIds.empty()) out.push_back(std::move(still));
  }

  // What was done to a new record, done to the record that it is now.
  GesturePart ofApplied(const GesturePart& part, std::size_t row, const AppliedAddition& record) const {
    GesturePart one =
        emptied(part, part.kind == GesturePart::Kind::EditAdded ? GesturePart::Kind::Edit : GesturePart::Kind::Remove);
    one.keyColumns = record.keyColumns;
    one.keys.clear();
    for (const Value& v : record.key) one.keys.emplace_back(1, v);
    if (part.kind == GesturePart::Kind::EditAdded) {
      const auto at = std::find(record.columns.begin(), record.columns.end(), part.column) - record.columns.begin();
      const auto column = static_cast<std::size_t>(at);
      one.from.push(column < record.values.size() ? record.values[column] : Value());
      one.to.push(settled(part.to.at(row)));
      if (!part.origins.empty()) one.origins.push_back(part.origins[row]);
    } else {
      one.recordColumns = record.columns;
      one.records.clear();
      for (const Value& v : record.values) one.records.emplace_back(1, v);
    }
    return one;
  }

  void rebaseExisting(const GesturePart& part, std::vector<GesturePart>& out) const {
    const TableChanges* table = applied_.table(part.table);
    if (table == nullptr || table->keyColumns() != part.keyColumns) {
      out.push_back(part);
      for (std::size_t i = 0; i < out.back().to.size(); ++i) {
        if (out.back().to.at(i).kind() == Value::Kind::PendingKey) out.back().to.set(i, settled(out.back().to.at(i)));
      }
      return;
    }
    GesturePart moved = emptied(part, part.kind);
    for (std::size_t i = 0; i < part.rows(); ++i) {
      ValueTuple key;
      for (const ValueColumn& k : part.keys) key.push_back(k.at(i));
      const auto record = table->find(key);
      if (record && table->isRemoved(*record)) continue;  // it is gone, and what was staged for it with it
      const auto now = [&](const std::string& column, const Value& before) {
        const auto cell = record ? table->cell(*record, column) : std::nullopt;
        return cell ? settled(cell->to) : before;
      };
      for (std::size_t k = 0; k < key.size(); ++k) moved.keys[k].push(now(part.keyColumns[k], key[k]));
      if (part.kind == GesturePart::Kind::Edit || part.kind == GesturePart::Kind::KeepMine)
        moved.from.push(now(part.column, part.from.at(i)));
      if (part.kind == GesturePart::Kind::Edit) moved.to.push(settled(part.to.at(i)));
      if (!part.origins.empty()) moved.origins.push_back(part.origins[i]);
      for (std::size_t c = 0; c < part.recordColumns.size(); ++c)
        moved.records[c].push(now(part.recordColumns[c], part.records[c].at(i)));
    }
    if (moved.rows() > 0) out.push_back(std::move(moved));
  }

  const ChangeSet& applied_;
  const AppliedAdditions& added_;
};

}  // namespace

Gesture afterApply(const ChangeSet& applied, const AppliedAdditions& added, const Gesture& gesture) {
  Gesture out;
  out.title = gesture.title;
  out.files = gesture.files;
  const Rebaser rebaser(applied, added);
  for (const GesturePart& part : gesture.parts) rebaser.rebase(part, out.parts);
  return out;
}

}  // namespace iterandum
