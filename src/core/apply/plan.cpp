#include "core/apply/plan.h"

#include <algorithm>
#include <map>
#include <queue>
#include <set>
#include <tuple>

namespace iterandum {
namespace {

struct PlaceLess {
  bool operator()(const RowPlace& a, const RowPlace& b) const {
    return std::tie(a.block, a.row) < std::tie(b.block, b.row);
  }
};

using OrderKey = std::tuple<int, long, std::uint32_t, std::vector<std::size_t>, std::uint32_t>;

struct Node {
  OrderKey order;
  std::uint32_t block = 0;
  std::vector<std::size_t> cells;
  std::vector<std::uint32_t> rows;
  bool single = false;
  bool split = false;           // a first part was written already (passing value, or NULL for a reference)
  std::set<std::size_t> after;  // nodes that wait for this one
  std::set<std::pair<std::size_t, const UniqueKey*>> gives;  // of those, the ones that wait for a unique value only
  std::map<std::size_t, std::size_t> pendingFor;             // this addition's cell that waits for the key of that node
  std::size_t waits = 0;
  bool done = false;
};

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

class Planner {
 public:
  Planner(const Examination& examination, PlanFor purpose)
      : examination_(examination), purpose_(purpose), ranks_(tableRanks(examination.catalogue())) {}

  Plan make() {
    gatherDependencies();
    chooseSingles();
    makeNodes();
    connect();
    order();
    return std::move(plan_);
  }

 private:
  struct Link {
    RowPlace first;
    RowPlace then;
    const UniqueKey* key = nullptr;
    std::optional<std::size_t> pendingCell;  // of `then`: waits for the key of the addition `first`
  };

  [[nodiscard]] const ExaminedBlock& block(std::uint32_t b) const { return examination_.blocks()[b]; }

  [[nodiscard]] bool takesPart(const RowPlace& p) const {
    const ChangeState state = block(p.block).states[p.row];
    return state == ChangeState::Open || (purpose_ == PlanFor::Reading && state == ChangeState::Blocked);
  }

  void gatherDependencies() {
    for (const Dependency& d : examination_.dependencies()) {
      if (takesPart(d.first) && takesPart(d.then) && !(d.first == d.then))
        links_.push_back({d.first, d.then, d.key, {}});
    }
    std::map<std::string, RowPlace> labels;
    for (std::uint32_t b = 0; b < examination_.blocks().size(); ++b) {
      const ChangeBlock& changes = block(b).changes;
      for (std::uint32_t r = 0; r < changes.labels.size(); ++r) {
        if (!changes.labels[r].empty()) labels[changes.labels[r]] = {b, r};
      }
    }
    if (labels.empty()) return;
    for (std::uint32_t b = 0; b < examination_.blocks().size(); ++b) {
      const ChangeBlock& changes = block(b).changes;
      if (changes.action == Action::Remove) continue;
      for (std::size_t c = 0; c < changes.cells.size(); ++c) {
        for (std::uint32_t r = 0; r < changes.rows(); ++r) {
          const Value to = changes.cells[c].to.at(r);
          if (to.kind() != Value::Kind::PendingKey) continue;
          const auto label = labels.find(std::string(to.asString()));
          if (label == labels.end() || !takesPart({b, r}) || !takesPart(label->second)) continue;
          links_.push_back({label->second, {b, r}, nullptr, c});
        }
      }
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

  [[nodiscard]] OrderKey orderOf(const RowPlace& p) const {
    const ExaminedBlock& b = block(p.block);
    const auto found = ranks_.find(b.table);
    const long rank = found == ranks_.end() ? 0 : found->second;
    const bool removal = b.changes.action == Action::Remove;
    const int phase = b.changes.action == Action::Add ? 0 : (removal ? 2 : 1);
    return {phase, removal ? -rank : rank, p.block, cellsOf(p), 0};
  }

  void chooseSingles() {
    for (const Link& link : links_) {
      // Where the order of the batches does it anyway, the records can stay in them.
      if (orderOf(link.first) < orderOf(link.then)) continue;
      singles_.insert(link.first);
      singles_.insert(link.then);
    }
  }

  void makeNodes() {
    std::map<OrderKey, std::size_t> batches;
    for (std::uint32_t b = 0; b < examination_.blocks().size(); ++b) {
      if (block(b).table == nullptr) continue;
      for (std::uint32_t r = 0; r < block(b).changes.rows(); ++r) {
        const RowPlace place{b, r};
        if (!takesPart(place)) continue;
        OrderKey order = orderOf(place);
        const bool single = singles_.contains(place);
        if (single) std::get<4>(order) = r + 1;
        const auto [it, isNew] = batches.try_emplace(order, nodes_.size());
        if (isNew) {
          Node node;
          node.order = order;
          node.block = b;
          node.cells = std::get<3>(order);
          node.single = single;
          nodes_.push_back(std::move(node));
        }
        nodes_[it->second].rows.push_back(r);
        if (single || !links_.empty()) nodeOf_[place] = it->second;
      }
    }
  }

  void connect() {
    for (const Link& link : links_) {
      const std::size_t first = nodeOf_[link.first];
      const std::size_t then = nodeOf_[link.then];
      if (first == then && !link.pendingCell) continue;
      if (link.pendingCell) nodes_[then].pendingFor[first] = *link.pendingCell;
      if (nodes_[first].after.insert(then).second) ++nodes_[then].waits;
      if (link.key != nullptr && nodes_[first].single) nodes_[first].gives.emplace(then, link.key);
    }
  }

  void release(std::size_t index) {
    for (const std::size_t next : nodes_[index].after) {
      if (--nodes_[next].waits == 0 && !nodes_[next].done) ready_.emplace(nodes_[next].order, next);
    }
    nodes_[index].after.clear();
  }

  void order() {
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
      if (nodes_[i].waits == 0) ready_.emplace(nodes_[i].order, i);
    }
    std::size_t left = nodes_.size();
    while (left > 0) {
      if (ready_.empty()) {
        breakCircle();
        if (ready_.empty()) continue;
      }
      const std::size_t index = ready_.begin()->second;
      ready_.erase(ready_.begin());
      if (nodes_[index].done) continue;
      emit(index);
      --left;
    }
  }

  void emit(std::size_t index) {
    Node& node = nodes_[index];
    node.done = true;
    PlanStep step;
    step.block = node.block;
    step.cells = node.cells;
    step.rows = node.rows;
    const Action action = block(node.block).changes.action;
    step.kind = action == Action::Add ? WriteStep::Kind::Insert
                                      : (action == Action::Edit ? WriteStep::Kind::Update : WriteStep::Kind::Remove);
    if (action == Action::Add && node.split) {
      step.kind = WriteStep::Kind::Update;
      step.ofAddition = true;
      step.cells.clear();
      for (const auto& [unused, cell] : node.pendingFor) step.cells.push_back(cell);
    }
    plan_.steps.push_back(std::move(step));
    release(index);
  }

  // No node can go first: some circle is left. Writes a first part of one node that gets the others going.
  void breakCircle() {
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
      if (!nodes_[i].done && !nodes_[i].split && giveUpUnique(i)) return;
    }
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
      if (!nodes_[i].done && !nodes_[i].split && insertWithoutReferences(i)) return;
    }
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
      if (nodes_[i].done) continue;
      nodes_[i].waits = 0;  // no way around: the database will say what is wrong with it
      ready_.emplace(nodes_[i].order, i);
      return;
    }
  }

  bool giveUpUnique(std::size_t index) {
    Node& node = nodes_[index];
    if (node.gives.empty() || block(node.block).changes.action == Action::Add) return false;
    node.split = true;
    std::set<const UniqueKey*> keys;
    for (const auto& [then, key] : node.gives) keys.insert(key);
    for (const UniqueKey* key : keys) {
      PlanStep step;
      step.block = node.block;
      step.rows = node.rows;
      step.passing = key;
      plan_.steps.push_back(std::move(step));
    }
    for (const auto& [then, key] : node.gives) {
      if (node.after.erase(then) != 0 && --nodes_[then].waits == 0) ready_.emplace(nodes_[then].order, then);
    }
    return true;
  }

  bool insertWithoutReferences(std::size_t index) {
    Node& node = nodes_[index];
    const ExaminedBlock& b = block(node.block);
    if (node.pendingFor.empty() || b.changes.action != Action::Add) return false;
    for (const auto& [unused, cell] : node.pendingFor) {
      const Column* column = b.table->column(b.changes.cells[cell].column);
      if (column == nullptr || !column->nullable) return false;
    }
    node.split = true;
    PlanStep step;
    step.kind = WriteStep::Kind::Insert;
    step.block = node.block;
    step.rows = node.rows;
    for (const std::size_t c : node.cells) {
      const bool later =
          std::any_of(node.pendingFor.begin(), node.pendingFor.end(), [&](const auto& p) { return p.second == c; });
      if (!later) step.cells.push_back(c);
    }
    plan_.steps.push_back(std::move(step));
    // Those that only waited for this record's key can go on; the node itself still waits for the keys it points at.
    for (auto it = node.after.begin(); it != node.after.end();) {
      const std::size_t next = *it;
      it = node.after.erase(it);
      if (--nodes_[next].waits == 0) ready_.emplace(nodes_[next].order, next);
    }
    return true;
  }

  const Examination& examination_;
  PlanFor purpose_;
  std::map<const Table*, long> ranks_;
  std::vector<Link> links_;
  std::set<RowPlace, PlaceLess> singles_;
  std::vector<Node> nodes_;
  std::map<RowPlace, std::size_t, PlaceLess> nodeOf_;
  std::set<std::pair<OrderKey, std::size_t>> ready_;
  Plan plan_;
};

}  // namespace

Plan makePlan(const Examination& examination, PlanFor purpose) { return Planner(examination, purpose).make(); }

std::optional<std::size_t> passingColumn(const ExaminedBlock& block, std::uint32_t row, const UniqueKey& key) {
  const auto written = [&](std::size_t c) {
    const auto cell = block.cellOf(block.table->columns[c].name);
    return cell && block.writesCell(*cell, row);
  };
  for (const std::size_t c : key.columns) {
    if (written(c) && block.table->columns[c].nullable) return c;
  }
  for (const std::size_t c : key.columns) {
    if (written(c) && passingValue(block.table->columns[c], 0)) return c;
  }
  return std::nullopt;
}

namespace {

// Whole numbers far from what people use, inside the bounds that are known, within 32 bits.
std::optional<std::int64_t> passingNumber(const Column& column, int attempt) {
  std::int64_t low = column.minInteger.value_or(INT64_MIN);
  std::int64_t high = column.maxInteger.value_or(INT64_MAX);
  if (column.minimum) low = column.minimum->kind() == Value::Kind::Integer ? column.minimum->asInteger() : 0;
  if (column.maximum && column.maximum->kind() == Value::Kind::Integer) high = column.maximum->asInteger();
  constexpr std::int64_t kFar = 2000000011;
  const std::int64_t n = column.minimum || low >= 0 ? std::min(high, kFar) - attempt : std::max(low, -kFar) + attempt;
  return n < low || n > high ? std::nullopt : std::optional(n);
}

}  // namespace

std::optional<Value> passingValue(const Column& column, int attempt) {
  constexpr int kMostAttempts = 64;
  if (attempt >= kMostAttempts) return std::nullopt;
  if (column.nullable) return attempt == 0 ? std::optional<Value>(Value()) : std::nullopt;
  if (!column.allowed.empty()) {
    if (static_cast<std::size_t>(attempt) >= column.allowed.size()) return std::nullopt;
    return column.allowed[static_cast<std::size_t>(attempt)];
  }
  const std::string mark = "~" + std::to_string(attempt);
  switch (column.type) {
    case TypeClass::Integer:
    case TypeClass::Real:
    case TypeClass::Decimal:
    case TypeClass::Any: {
      const auto n = passingNumber(column, attempt);
      if (!n) return std::nullopt;
      return column.type == TypeClass::Real ? Value::real(static_cast<double>(*n)) : Value::integer(*n);
    }
    case TypeClass::Text:
      if (column.maxLength && static_cast<std::size_t>(*column.maxLength) < mark.size()) return std::nullopt;
      return Value::text(mark);
    case TypeClass::Date:
      return Value::ofString(Value::Kind::Text,
                             "9999-12-" + std::string(attempt % 28 < 9 ? "0" : "") + std::to_string(attempt % 28 + 1));
    default:
      return std::nullopt;
  }
}

}  // namespace iterandum
