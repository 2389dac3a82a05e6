#include "core/apply/plan.h"

#include <algorithm>
#include <map>
#include <unordered_map>
#include <unordered_set>

#include "core/apply/plan_graph.h"

namespace iterandum {
namespace {

// Parents before children; tables in a circle keep the order of the catalogue.
std::map<const Table*, long> tableRanks(const Catalogue& catalogue) {
  std::map<const Table*, long> rank;
  const std::vector<Table>& tables = catalogue.tables();
  for (const Table& t : tables) rank[&t] = 0;
  for (std::size_t pass = 0; pass < tables.size() && pass < 64; ++pass) {
    bool changed = false;
    for (const Table& t : tables) {
      for (const Reference& r : t.references) {
        const Table* parent = r.targetMissing ? nullptr : catalogue.find(r.target);
        if (parent == nullptr || parent == &t || rank[&t] > rank[parent]) continue;
        rank[&t] = rank[parent] + 1;
        changed = true;
      }
    }
    if (!changed) break;
  }
  return rank;
}

constexpr std::uint32_t kInACircle = UINT32_MAX;

class Planner {
 public:
  Planner(const Facts& facts, const Verdicts& verdicts, PlanFor purpose)
      : facts_(facts), verdicts_(verdicts), purpose_(purpose), ranks_(tableRanks(facts.catalogue())) {}

  Plan make() {
    gatherLinks();
    findLevels();
    PlanGraph graph(facts_, makeNodes());
    for (const Dependency& link : links_)
      graph.connect(nodeOf_[placeNumber(link.first)], nodeOf_[placeNumber(link.then)], link);
    return {graph.order()};
  }

 private:
  static std::uint64_t placeNumber(const RowPlace& p) { return (std::uint64_t{p.block} << 32U) | p.row; }
  [[nodiscard]] const ExaminedBlock& block(std::uint32_t b) const { return facts_.blocks()[b]; }

  [[nodiscard]] bool takesPart(const RowPlace& p) const {
    const ExaminedBlock& b = block(p.block);
    const ChangeState state = verdicts_.of(p);
    const bool open = state == ChangeState::Open || (purpose_ == PlanFor::Reading && state == ChangeState::Blocked);
    if (!open || b.changes.action != Action::Edit) return open;
    for (std::size_t c = 0; c < b.changes.cells.size(); ++c) {
      if (b.writesCell(c, p.row)) return true;
    }
    return false;  // a cascade does all of it
  }

  void gatherLinks() {
    for (const Dependency& d : facts_.dependencies()) {
      if (!(d.first == d.then) && takesPart(d.first) && takesPart(d.then)) links_.push_back(d);
    }
    gatherOwnLinks();
    std::unordered_map<std::string, RowPlace> labels;
    for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
      const ChangeBlock& changes = block(b).changes;
      for (std::uint32_t r = 0; r < changes.labels.size(); ++r) {
        if (!changes.labels[r].empty()) labels[changes.labels[r]] = {b, r};
      }
    }
    if (labels.empty()) return;
    for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
      if (block(b).table == nullptr || block(b).changes.action == Action::Remove) continue;
      for (std::size_t c = 0; c < block(b).changes.cells.size(); ++c) gatherLabels(b, c, labels);
    }
  }

  // A record that points at itself can be removed as it is, but not where others have let go of it just before: InnoDB
  // then takes it for still pointed at. It lets go of itself first.
  void gatherOwnLinks() {
    std::unordered_set<std::uint64_t> left;
    for (const Dependency& d : links_) {
      if (d.kind == Dependency::Kind::Leaves) left.insert(placeNumber(d.then));
    }
    if (left.empty()) return;
    for (const Dependency& d : facts_.dependencies()) {
      const bool own = d.first == d.then && d.kind == Dependency::Kind::Leaves;
      if (own && takesPart(d.first) && left.contains(placeNumber(d.then))) links_.push_back(d);
    }
  }

  void gatherLabels(std::uint32_t b, std::size_t c, const std::unordered_map<std::string, RowPlace>& labels) {
    const ChangeBlock& changes = block(b).changes;
    for (std::uint32_t r = 0; r < changes.rows(); ++r) {
      const Value to = changes.cells[c].to.at(r);
      if (to.kind() != Value::Kind::PendingKey) continue;
      const auto label = labels.find(std::string(to.asString()));
      if (label == labels.end() || !takesPart({b, r}) || !takesPart(label->second)) continue;
      links_.push_back({Dependency::Kind::Provides, label->second, {b, r}, nullptr, nullptr, c});
    }
  }

  [[nodiscard]] std::vector<std::size_t> cellsOf(const RowPlace& p) const {
    std::vector<std::size_t> out;
    const ExaminedBlock& b = block(p.block);
    if (b.changes.action == Action::Remove) return out;
    for (std::size_t c = 0; c < b.changes.cells.size(); ++c) {
      if (b.writesCell(c, p.row)) out.push_back(c);
    }
    return out;
  }

  [[nodiscard]] PlanOrder orderOf(const RowPlace& p) const {
    const ExaminedBlock& b = block(p.block);
    const auto found = ranks_.find(b.table);
    const long rank = found == ranks_.end() ? 0 : found->second;
    const bool removal = b.changes.action == Action::Remove;
    const int phase = b.changes.action == Action::Add ? 0 : (removal ? 2 : 1);
    return {phase, removal ? -rank : rank, p.block, cellsOf(p), 0, 0};
  }

  // A record that waits for another one is in the same level only where the order of the batches does it anyway. So an
  // edge always leads to a higher level or, within one, to a later batch: batches cannot wait for each other in a
  // circle where their records do not.
  void findLevels() {
    struct Place {
      std::vector<std::size_t> then;  // links
      std::size_t waits = 0;
      std::uint32_t level = 0;
    };
    std::unordered_map<std::uint64_t, Place> places;
    for (std::size_t i = 0; i < links_.size(); ++i) {
      places[placeNumber(links_[i].first)].then.push_back(i);
      ++places[placeNumber(links_[i].then)].waits;
    }
    std::vector<std::uint64_t> ready;
    for (const auto& [number, place] : places) {
      levels_[number] = kInACircle;
      if (place.waits == 0) ready.push_back(number);
    }
    while (!ready.empty()) {
      const std::uint64_t number = ready.back();
      ready.pop_back();
      const Place& place = places[number];
      levels_[number] = place.level;
      for (const std::size_t i : place.then) {
        Place& next = places[placeNumber(links_[i].then)];
        const bool anyway = orderOf(links_[i].first) < orderOf(links_[i].then);
        next.level = std::max(next.level, place.level + (anyway ? 0 : 1));
        if (--next.waits == 0) ready.push_back(placeNumber(links_[i].then));
      }
    }
  }

  std::vector<PlanNode> makeNodes() {
    std::vector<PlanNode> nodes;
    std::map<PlanOrder, std::size_t> batches;
    for (std::uint32_t b = 0; b < facts_.blocks().size(); ++b) {
      if (block(b).table == nullptr) continue;
      for (std::uint32_t r = 0; r < block(b).changes.rows(); ++r) {
        const RowPlace place{b, r};
        if (!takesPart(place)) continue;
        PlanOrder order = orderOf(place);
        const auto level = levels_.empty() ? levels_.end() : levels_.find(placeNumber(place));
        if (level != levels_.end()) std::get<4>(order) = level->second;
        if (level != levels_.end() && level->second == kInACircle) std::get<5>(order) = r + 1;
        const auto [it, isNew] = batches.try_emplace(order, nodes.size());
        if (isNew) {
          PlanNode node;
          node.order = order;
          node.block = b;
          node.cells = std::get<3>(order);
          nodes.push_back(std::move(node));
        }
        nodes[it->second].rows.push_back(r);
        if (level != levels_.end()) nodeOf_[placeNumber(place)] = it->second;
      }
    }
    return nodes;
  }

  const Facts& facts_;
  const Verdicts& verdicts_;
  PlanFor purpose_;
  std::map<const Table*, long> ranks_;
  std::vector<Dependency> links_;
  std::unordered_map<std::uint64_t, std::uint32_t> levels_;
  std::unordered_map<std::uint64_t, std::size_t> nodeOf_;
};

}  // namespace

Plan makePlan(const Facts& facts, const Verdicts& verdicts, PlanFor purpose) {
  return Planner(facts, verdicts, purpose).make();
}

}  // namespace iterandum
