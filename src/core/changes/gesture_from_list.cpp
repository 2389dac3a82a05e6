#include "core/changes/gesture_from_list.h"

#include "core/changes/change_set.h"

namespace iterandum {

GesturePart partFor(GesturePart::Kind kind, const Table& table) {
  GesturePart part;
  part.kind = kind;
  part.table = table.name;
  part.keyColumns = table.writeKeyColumns();
  part.keys.resize(part.keyColumns.size());
  return part;
}

namespace {

Status canBeNamed(const Catalogue& catalogue, const ChangeList& list) {
  for (const ChangeBlock& block : list.blocks()) {
    const Table* table = catalogue.find(block.table);
    if (table == nullptr) return fail(ErrorKind::InvalidFile, "there is no table " + displayName(block.table));
    if (block.action != Action::Add && block.keyColumns != table->writeKeyColumns()) {
      return fail(ErrorKind::InvalidFile,
                  "it names records of " + displayName(block.table) +
                      " in another way than by their key here; “iterandum-cli apply” can do it");
    }
  }
  return {};
}

// The new records' labels, and what they are called where they are staged.
using Labels = std::map<std::string, std::string, std::less<>>;

ValueColumn relabelled(const ValueColumn& values, const Labels& labels) {
  ValueColumn out;
  for (std::size_t i = 0; i < values.size(); ++i) {
    Value value = values.at(i);
    if (value.kind() == Value::Kind::PendingKey) {
      if (const auto label = labels.find(value.asString()); label != labels.end()) {
        value = Value::pendingKey(label->second);
      }
    }
    out.push(std::move(value));
  }
  return out;
}

void addEdits(const ChangeBlock& block, const GesturePart& part, const Labels& labels, Gesture& gesture) {
  for (const ChangeBlock::Cells& cells : block.cells) {
    GesturePart edit = part;
    edit.column = cells.column;
    if (block.action == Action::Edit) edit.from = cells.hasFrom ? cells.from : ValueColumn(block.rows(), Value());
    edit.to = labels.empty() ? cells.to : relabelled(cells.to, labels);
    gesture.parts.push_back(std::move(edit));
  }
}

void addRemoval(const ChangeBlock& block, GesturePart part, Gesture& gesture) {
  for (const ChangeBlock::Cells& cells : block.cells) {
    part.recordColumns.push_back(cells.column);
    part.records.push_back(cells.from);
  }
  gesture.parts.push_back(std::move(part));
}

// Where the rows of a block come from; none where no line of a file is known of any.
std::vector<LineOrigin> originsOf(const ChangeBlock& block, const FileOrigins& origins) {
  std::vector<LineOrigin> out;
  bool any = false;
  for (const std::uint32_t change : block.changeIndex) {
    out.push_back(origins.of(change));
    any = any || out.back().file != 0;
  }
  return any ? out : std::vector<LineOrigin>();
}

}  // namespace

Result<ListedGesture> gestureFrom(const Catalogue& catalogue, const ChangeList& list, std::uint64_t firstAddedId) {
  ITERANDUM_TRY(canBeNamed(catalogue, list));
  ListedGesture out;
  out.gesture.files = list.origins.files;
  std::uint64_t id = firstAddedId;
  Labels labels;
  for (const ChangeBlock& block : list.blocks()) {
    if (block.action != Action::Add) continue;
    for (std::size_t row = 0; row < block.rows(); ++row) {
      out.added[block.changeIndex[row]] = id;
      if (!block.labels[row].empty()) labels[block.labels[row]] = addedLabel(id);
      ++id;
    }
  }
  for (const ChangeBlock& block : list.blocks()) {
    const Table& table = *catalogue.find(block.table);
    switch (block.action) {
      case Action::Add: {
        GesturePart part = partFor(GesturePart::Kind::Add, table);
        for (const std::uint32_t change : block.changeIndex) part.addedIds.push_back(out.added[change]);
        part.origins = originsOf(block, list.origins);
        out.gesture.parts.push_back(part);
        part.kind = GesturePart::Kind::EditAdded;
        addEdits(block, part, labels, out.gesture);
        break;
      }
      case Action::Remove: {
        GesturePart part = partFor(GesturePart::Kind::Remove, table);
        part.keys = block.keys;
        addRemoval(block, std::move(part), out.gesture);
        break;
      }
      case Action::Edit: {
        GesturePart part = partFor(GesturePart::Kind::Edit, table);
        part.keys = block.keys;
        part.origins = originsOf(block, list.origins);
        addEdits(block, part, labels, out.gesture);
        break;
      }
    }
  }
  return out;
}

}  // namespace iterandum
