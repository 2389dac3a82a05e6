#include "core/changes/signature.h"

#include <xxhash.h>

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

#include "core/base/digest.h"
#include "core/changes/change_text.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

std::uint64_t hashOf(std::string_view bytes) { return XXH3_64bits(bytes.data(), bytes.size()); }

// In one form, whatever the order of its columns.
Change inOneForm(Change change) {
  std::sort(change.cells.begin(), change.cells.end(),
            [](const CellChange& a, const CellChange& b) { return a.column < b.column; });
  std::vector<std::pair<std::string, Value>> key;
  for (std::size_t k = 0; k < change.key.size(); ++k) key.emplace_back(change.keyColumns[k], std::move(change.key[k]));
  std::sort(key.begin(), key.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  for (std::size_t k = 0; k < key.size(); ++k) {
    change.keyColumns[k] = std::move(key[k].first);
    change.key[k] = std::move(key[k].second);
  }
  return change;
}

std::string textOf(const Change& change) {
  JsonWriter out;
  writeChange(out, change);
  return out.take();
}

// The additions that others point at get numbers in the place of their labels. Who gets which follows from what they
// are and from what hangs on them, so that it does not matter who wrote them down; where two are alike in all of that,
// from their order. The text that is signed names them by these numbers, so that two change sets with the same text
// are the same, however the numbers came about.
class Numbering {
 public:
  explicit Numbering(const ChangeList& changes) {
    for (const auto& [block, row] : additions(changes)) {
      Change change = inOneForm(block->change(row));
      if (!change.label.empty()) numberOf_.emplace(change.label, points_.size());
      points_.push_back({hashOf(textOf(unlabelled(change))), {}, {}, block->changeIndex[row]});
    }
    noteReferences(changes);
    // Told apart by their neighbours, and by the neighbours of those.
    constexpr int kRounds = 4;
    for (int round = 0; round < kRounds; ++round) mix();
    std::vector<std::size_t> order(points_.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      return std::tie(points_[a].hash, points_[a].index) < std::tie(points_[b].hash, points_[b].index);
    });
    std::vector<std::size_t> placeOf(order.size());
    for (std::size_t i = 0; i < order.size(); ++i) placeOf[order[i]] = i;
    for (auto& [label, number] : numberOf_) number = placeOf[number];
  }

  // With the numbers in the place of labels.
  [[nodiscard]] Change named(Change change) const {
    // A label by which nobody calls it is nothing.
    change.label = pointedAt_.contains(change.label) ? std::to_string(numberOf_.at(change.label)) : std::string();
    for (CellChange& cell : change.cells) {
      if (cell.to.kind() != Value::Kind::PendingKey) continue;
      const auto known = numberOf_.find(std::string(cell.to.asString()));
      if (known != numberOf_.end()) cell.to = Value::pendingKey(std::to_string(known->second));
    }
    return change;
  }

 private:
  struct Point {
    std::uint64_t hash = 0;
    std::vector<std::pair<std::uint64_t, std::size_t>> out;  // the column's hash, and whom it points at
    std::vector<std::uint64_t> in;                           // of those that are no additions
    std::uint32_t index = 0;
  };

  static std::vector<std::pair<const ChangeBlock*, std::size_t>> additions(const ChangeList& changes) {
    std::vector<std::pair<const ChangeBlock*, std::size_t>> out;
    for (const ChangeBlock& block : changes.blocks()) {
      if (block.action != Action::Add) continue;
      for (std::size_t row = 0; row < block.rows(); ++row) out.emplace_back(&block, row);
    }
    return out;
  }

  static Change unlabelled(Change change) {
    change.label.clear();
    for (CellChange& cell : change.cells) {
      if (cell.to.kind() == Value::Kind::PendingKey) cell.to = Value::pendingKey("");
    }
    return change;
  }

  void noteReferences(const ChangeList& changes) {
    std::size_t addition = 0;
    for (const ChangeBlock& block : changes.blocks()) {
      for (std::size_t row = 0; row < block.rows(); ++row) {
        const std::size_t self = block.action == Action::Add ? addition++ : points_.size();
        for (const ChangeBlock::Cells& cells : block.cells) {
          if (block.action == Action::Remove || cells.to.at(row).kind() != Value::Kind::PendingKey) continue;
          const auto target = numberOf_.find(std::string(cells.to.at(row).asString()));
          if (target == numberOf_.end()) continue;
          pointedAt_.insert(target->first);
          const std::uint64_t column = hashOf(cells.column);
          if (self < points_.size()) {
            points_[self].out.emplace_back(column, target->second);
          } else {
            points_[target->second].in.push_back(hashOf(textOf(unlabelled(inOneForm(block.change(row))))) ^ column);
          }
        }
      }
    }
  }

  void mix() {
    std::vector<std::vector<std::uint64_t>> parts(points_.size());
    for (std::size_t i = 0; i < points_.size(); ++i) {
      for (const auto& [column, target] : points_[i].out) {
        parts[i].push_back(hashOf("out" + std::to_string(column ^ points_[target].hash)));
        parts[target].push_back(hashOf("in" + std::to_string(column ^ points_[i].hash)));
      }
      parts[i].insert(parts[i].end(), points_[i].in.begin(), points_[i].in.end());
    }
    for (std::size_t i = 0; i < points_.size(); ++i) {
      std::sort(parts[i].begin(), parts[i].end());
      std::string all = std::to_string(points_[i].hash);
      for (const std::uint64_t part : parts[i]) all += " " + std::to_string(part);
      points_[i].hash = hashOf(all);
    }
  }

  std::vector<Point> points_;  // the additions
  std::map<std::string, std::size_t> numberOf_;
  std::set<std::string> pointedAt_;
};

Status wantText(const JsonNode& node, const std::string& place, std::string& text) {
  if (node.type != JsonNode::Type::String) return badDocument(place, "a string is wanted here");
  text = node.text;
  return {};
}

}  // namespace

std::string changesDigest(const ChangeList& changes) {
  const Numbering numbers(changes);
  std::vector<std::string> digests;
  for (const ChangeBlock& block : changes.blocks()) {
    for (std::size_t row = 0; row < block.rows(); ++row) {
      digests.push_back(sha256(textOf(numbers.named(inOneForm(block.change(row))))));
    }
  }
  std::sort(digests.begin(), digests.end());
  std::string all = "iterandum-changes 1\n";
  for (const std::string& digest : digests) all += digest;
  return sha256Hex(all);
}

std::string signedText(const Signature& signature) {
  JsonWriter out;
  out.beginObject().name("format").string("iterandum-signature").name("version").number(1);
  out.name("by").string(signature.by).name("at").string(signature.at).name("words").string(signature.words);
  out.name("database").string(signature.database).name("digest").string(signature.digest).endObject();
  return out.take();
}

void putIn(Signature signature, std::vector<Signature>& signatures) {
  std::erase_if(signatures, [&](const Signature& s) { return s.by == signature.by; });
  signatures.push_back(std::move(signature));
}

void writeSignatures(JsonWriter& out, const std::vector<Signature>& signatures) {
  if (signatures.empty()) return;
  out.name("signatures").beginArray();
  for (const Signature& s : signatures) {
    out.beginObject().name("by").string(s.by).name("at").string(s.at);
    if (!s.words.empty()) out.name("words").string(s.words);
    out.name("database").string(s.database).name("digest").string(s.digest);
    if (!s.proof.empty()) out.name("proof").string(s.proof);
    out.endObject();
  }
  out.endArray();
}

Result<std::vector<Signature>> readSignatures(const JsonNode& node, const std::string& place) {
  if (node.type != JsonNode::Type::Array) return badDocument(place, "an array is wanted here");
  // Each of them may take a call of GnuPG to be judged.
  constexpr std::size_t kMost = 50;
  constexpr std::size_t kLongestProof = 65536;
  if (node.items.size() > kMost) return badDocument(place, "there are more than 50 signatures");
  std::vector<Signature> out;
  for (std::size_t i = 0; i < node.items.size(); ++i) {
    const JsonNode& item = node.items[i];
    const std::string at = pointerTo(place, std::to_string(i));
    ITERANDUM_TRY(onlyKnownNames(item, at, {"by", "at", "words", "database", "digest", "proof"}));
    Signature signature;
    const std::map<std::string, std::string*> texts{{"by", &signature.by},         {"at", &signature.at},
                                                    {"words", &signature.words},   {"database", &signature.database},
                                                    {"digest", &signature.digest}, {"proof", &signature.proof}};
    for (const auto& [name, value] : item.members) {
      ITERANDUM_TRY(wantText(value, pointerTo(at, name), *texts.at(name)));
    }
    for (const char* needed : {"by", "at", "digest"}) {
      if (texts.at(needed)->empty()) return badDocument(pointerTo(at, needed), "is missing or empty");
    }
    if (signature.proof.size() > kLongestProof) return badDocument(at + "/proof", "this is longer than any signature");
    out.push_back(std::move(signature));
  }
  return out;
}

std::string packSignatures(const std::vector<Signature>& signatures) {
  JsonWriter out;
  out.beginObject();
  writeSignatures(out, signatures);
  out.endObject();
  return out.take();
}

Result<std::vector<Signature>> unpackSignatures(std::string_view text) {
  if (text.empty()) return std::vector<Signature>();
  ITERANDUM_ASSIGN(const JsonNode root, parseJson(text));
  ITERANDUM_TRY(onlyKnownNames(root, "", {"signatures"}));
  const JsonNode* list = root.find("signatures");
  return list == nullptr ? std::vector<Signature>() : readSignatures(*list, "/signatures");
}

}  // namespace iterandum
