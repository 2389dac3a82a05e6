// What waits for what among the batches of a plan. Internal to core/apply.
#pragma once

#include <optional>
#include <set>
#include <tuple>
#include <vector>

#include "core/apply/plan.h"

namespace iterandum {

// The place of a batch in the order, where nothing else decides: additions, edits, removals; parents before children
// (removals the other way round); by block; by what is written; by level; a single record last.
using PlanOrder = std::tuple<int, long, std::uint32_t, std::vector<std::size_t>, std::uint32_t, std::uint32_t>;

// A batch, or a single record where it is in a circle or behind one.
struct PlanNode {
  PlanOrder order;
  std::uint32_t block = 0;
  std::vector<std::size_t> cells;
  std::vector<std::uint32_t> rows;
  std::vector<std::size_t> out;  // edges
  std::vector<std::size_t> in;
  std::size_t waits = 0;          // edges in that are still alive
  std::vector<std::size_t> left;  // cells that its first part left out
  bool added = false;             // the first part is written
  bool done = false;
};

struct PlanEdge {
  std::size_t from = 0;
  std::size_t to = 0;
  Dependency what;
  bool alive = true;
};

// Puts the nodes in order and gives the steps.
class PlanGraph {
 public:
  PlanGraph(const Facts& facts, std::vector<PlanNode> nodes) : facts_(facts), nodes_(std::move(nodes)) {}
  void connect(std::size_t from, std::size_t to, const Dependency& what);
  [[nodiscard]] std::vector<PlanStep> order();

 private:
  enum class Way { None, Empty, Pass, Release, PassAlong };  // the lower, the less it does besides

  [[nodiscard]] const ExaminedBlock& block(const PlanNode& node) const { return facts_.blocks()[node.block]; }
  void emit(std::size_t index);
  void end(std::size_t edge);
  void breakCircle();
  // The edges of some circle among what is left, in its order.
  [[nodiscard]] std::vector<std::size_t> circle();
  [[nodiscard]] Way wayThrough(const PlanEdge& edge) const;
  [[nodiscard]] Way wayOfGivingUp(const PlanEdge& edge) const;
  [[nodiscard]] bool canBeEmptied(const PlanEdge& edge) const;
  [[nodiscard]] std::vector<std::size_t> releasable(const PlanEdge& edge) const;
  [[nodiscard]] std::vector<std::size_t> cellsOf(const PlanEdge& edge) const;
  void takeWay(Way way, std::size_t edge);
  void passThrough(const PlanEdge& edge);
  void release(const PlanEdge& edge);
  void addWithout(std::size_t index);
  // No way through: the database will say what is wrong with it, or allow it in the end.
  void force(const std::vector<std::size_t>& circle);

  const Facts& facts_;
  std::vector<PlanNode> nodes_;
  std::vector<PlanEdge> edges_;
  std::set<std::pair<PlanOrder, std::size_t>> ready_;
  std::vector<PlanStep> steps_;
  std::size_t left_ = 0;       // nodes that are not done
  std::size_t firstLeft_ = 0;  // all nodes before this one are done
};

}  // namespace iterandum
