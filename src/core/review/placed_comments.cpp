#include "core/review/placed_comments.h"

#include <algorithm>
#include <functional>
#include <optional>
#include <unordered_map>

namespace iterandum {
namespace {

// What was kept as JSON has lost its kind: a day is a text there.
Value asKept(const Value& value) { return value.isNull() ? value : Value::text(canonicalText(value)); }

bool sameTo(const std::optional<Value>& a, const std::optional<Value>& b) {
  return a.has_value() == b.has_value() && (!a || sameValue(*a, *b) || sameValue(asKept(*a), asKept(*b)));
}

// Records that comments are about, and the changes of them.
class CommentedChanges {
 public:
  CommentedChanges(const std::vector<Comment>& comments, const ChangeList& changes) {
    for (const Comment& comment : comments) {
      const CommentPlace& place = comment.about;
      if (place.kind == CommentPlace::Kind::Record)
        keys_[place.table][inOrder(place.keyColumns, place.key)] = std::nullopt;
      if (place.kind == CommentPlace::Kind::NewRecord) labels_[place.label] = std::nullopt;
    }
    if (keys_.empty() && labels_.empty()) return;
    for (const ChangeBlock& block : changes.blocks()) read(block);
  }

  [[nodiscard]] std::optional<std::uint32_t> of(const CommentPlace& place) const {
    if (place.kind == CommentPlace::Kind::NewRecord) return labels_.at(place.label);
    return keys_.at(place.table).at(inOrder(place.keyColumns, place.key));
  }

 private:
  using Keys = std::unordered_map<ValueTuple, std::optional<std::uint32_t>, TupleHash, TupleSame>;

  // Whatever the order in which the columns of a key are named.
  static ValueTuple inOrder(const std::vector<std::string>& columns, const ValueTuple& key) {
    std::map<std::string, Value> named;
    for (std::size_t k = 0; k < key.size(); ++k) named.emplace(columns[k], asKept(key[k]));
    ValueTuple out;
    for (auto& [column, value] : named) {
      out.push_back(Value::text(column));
      out.push_back(std::move(value));
    }
    return out;
  }

  void read(const ChangeBlock& block) {
    if (block.action == Action::Add) {
      for (std::size_t row = 0; row < block.rows(); ++row) {
        const auto wanted = labels_.find(block.labels[row]);
        if (wanted != labels_.end()) wanted->second = block.changeIndex[row];
      }
      return;
    }
    const auto wanted = keys_.find(block.table);
    if (wanted == keys_.end()) return;
    for (std::size_t row = 0; row < block.rows(); ++row) {
      const auto key = wanted->second.find(inOrder(block.keyColumns, block.key(row)));
      if (key != wanted->second.end()) key->second = block.changeIndex[row];
    }
  }

  std::map<TableName, Keys> keys_;
  std::map<std::string, std::optional<std::uint32_t>> labels_;
};

// The group itself; else the one that its column's changes are in by now.
std::optional<std::size_t> groupOf(const CommentPlace& place, const std::vector<ChangeGroup>& groups) {
  std::optional<std::size_t> near;
  for (std::size_t g = 0; g < groups.size(); ++g) {
    const ChangeGroup& group = groups[g];
    if (group.table != place.table || group.action != place.action) continue;
    if (group.action == Action::Edit && !place.column.empty() && group.column != place.column) continue;
    if (group.action != Action::Edit || sameTo(group.to, place.to)) return g;
    if (!near && (!group.to || !place.to)) near = g;
  }
  return near;
}

// Whether any change is what the comment is about.
bool isAbout(const CommentPlace& place, const ChangeList& changes, const CommentedChanges& commented) {
  if (place.kind == CommentPlace::Kind::All) return true;
  if (place.kind != CommentPlace::Kind::Group) return commented.of(place).has_value();
  return std::any_of(changes.blocks().begin(), changes.blocks().end(), [&](const ChangeBlock& block) {
    if (block.table != place.table || block.action != place.action || block.rows() == 0) return false;
    if (place.column.empty()) return true;
    return std::any_of(block.cells.begin(), block.cells.end(), [&](const ChangeBlock::Cells& cells) {
      if (cells.column != place.column) return false;
      if (!place.to) return true;
      for (std::size_t row = 0; row < block.rows(); ++row) {
        if (sameTo(cells.to.at(row), place.to)) return true;
      }
      return false;
    });
  });
}

}  // namespace

CommentPlace placeOf(const ChangeGroup& group) {
  CommentPlace out;
  out.kind = CommentPlace::Kind::Group;
  out.table = group.table;
  out.action = group.action;
  if (group.action == Action::Edit) {
    out.column = group.column;
    // A new record is called otherwise wherever it is staged.
    if (group.to && group.to->kind() != Value::Kind::PendingKey) out.to = group.to;
  }
  return out;
}

CommentPlace placeOf(const Change& change) {
  CommentPlace out;
  out.table = change.table;
  out.action = change.action;
  out.kind = CommentPlace::Kind::Group;
  if (change.action == Action::Add) {
    if (change.label.empty()) return out;
    out.kind = CommentPlace::Kind::NewRecord;
    out.action = Action::Edit;
    out.label = change.label;
    return out;
  }
  out.kind = CommentPlace::Kind::Record;
  out.action = Action::Edit;
  out.keyColumns = change.keyColumns;
  out.key = change.key;
  return out;
}

PlacedComments placeComments(const std::vector<Comment>& comments, const std::vector<ChangeGroup>& groups,
                             const ChangeList& changes) {
  PlacedComments out;
  out.ofGroups.resize(groups.size());
  const CommentedChanges commented(comments, changes);
  for (std::size_t i = 0; i < comments.size(); ++i) {
    const CommentPlace& place = comments[i].about;
    if (place.kind == CommentPlace::Kind::Group) {
      const auto group = groupOf(place, groups);
      (group ? out.ofGroups[*group] : out.ofAll).push_back(i);
    } else if (place.kind == CommentPlace::Kind::All) {
      out.ofAll.push_back(i);
    } else {
      const auto change = commented.of(place);
      (change ? out.ofEach[*change] : out.ofAll).push_back(i);
    }
  }
  return out;
}

void moveComments(std::vector<Comment>& comments, const ChangeList& from, const ChangeList& to,
                  const Catalogue& catalogue) {
  const CommentedChanges commented(comments, from);
  std::map<std::uint32_t, std::vector<CommentPlace*>> places;
  for (Comment& comment : comments) {
    const CommentPlace& place = comment.about;
    if (place.kind == CommentPlace::Kind::All || place.kind == CommentPlace::Kind::Group) continue;
    if (const auto change = commented.of(place)) places[*change].push_back(&comment.about);
  }
  for (const ChangeBlock& block : to.blocks()) {
    for (std::size_t row = 0; row < block.rows() && !places.empty(); ++row) {
      const auto wanted = places.find(block.changeIndex[row]);
      if (wanted == places.end()) continue;
      const CommentPlace place = placeOf(block.change(row));
      for (CommentPlace* moved : wanted->second) *moved = place;
    }
  }
  for (Comment& comment : comments) {
    const Table* table = comment.about.kind == CommentPlace::Kind::All ? nullptr : catalogue.find(comment.about.table);
    if (table != nullptr) comment.about.table = table->name;
  }
}

std::vector<Comment> commentsElsewhere(const std::vector<Comment>& comments, const ChangeList& changes) {
  const CommentedChanges commented(comments, changes);
  std::vector<Comment> out;
  for (const Comment& comment : comments) {
    if (!isAbout(comment.about, changes, commented)) out.push_back(comment);
  }
  return out;
}

}  // namespace iterandum
