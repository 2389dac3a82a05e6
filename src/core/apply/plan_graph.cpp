#include "core/apply/plan_graph.h"

#include <algorithm>
#include <unordered_map>

#include "core/apply/passing.h"

namespace iterandum {

void PlanGraph::connect(std::size_t from, std::size_t to, const Dependency& what) {
  nodes_[from].out.push_back(edges_.size());
  nodes_[to].in.push_back(edges_.size());
  ++nodes_[to].waits;
  edges_.push_back({from, to, what, true});
}

std::vector<PlanStep> PlanGraph::order() {
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    if (nodes_[i].waits == 0) ready_.emplace(nodes_[i].order, i);
  }
  left_ = nodes_.size();
  while (left_ > 0) {
    if (ready_.empty()) {
      breakCircle();
      continue;
    }
    const std::size_t index = ready_.begin()->second;
    ready_.erase(ready_.begin());
    if (!nodes_[index].done) emit(index);
  }
  return std::move(steps_);
}

void PlanGraph::end(std::size_t edge) {
  if (!edges_[edge].alive) return;
  edges_[edge].alive = false;
  PlanNode& to = nodes_[edges_[edge].to];
  if (--to.waits == 0 && !to.done) ready_.emplace(to.order, edges_[edge].to);
}

void PlanGraph::emit(std::size_t index) {
  PlanNode& node = nodes_[index];
  node.done = true;
  --left_;
  PlanStep step;
  step.block = node.block;
  step.cells = node.cells;
  step.rows = node.rows;
  const Action action = block(node).changes.action;
  step.kind = action == Action::Add ? WriteStep::Kind::Insert
                                    : (action == Action::Edit ? WriteStep::Kind::Update : WriteStep::Kind::Remove);
  if (node.added) {
    step.kind = WriteStep::Kind::Update;
    step.part = PlanStep::Part::Completion;
    step.cells = node.left;
  }
  steps_.push_back(std::move(step));
  for (const std::size_t edge : node.out) end(edge);
}

// --- circles ---------------------------------------------------------------------------------------------------------

std::vector<std::size_t> PlanGraph::circle() {
  // Against the edges from any node that is left: what is left all waits, so that some node comes twice.
  std::unordered_map<std::size_t, std::size_t> stepOf;
  std::vector<std::size_t> path;
  while (nodes_[firstLeft_].done) ++firstLeft_;
  std::size_t at = firstLeft_;
  while (stepOf.try_emplace(at, path.size()).second) {
    const auto in =
        std::find_if(nodes_[at].in.begin(), nodes_[at].in.end(), [&](std::size_t e) { return edges_[e].alive; });
    path.push_back(*in);
    at = edges_[*in].from;
  }
  path.erase(path.begin(), path.begin() + static_cast<std::ptrdiff_t>(stepOf[at]));
  return path;
}

void PlanGraph::breakCircle() {
  const std::vector<std::size_t> edges = circle();
  Way best = Way::None;
  std::size_t where = 0;
  for (const std::size_t edge : edges) {
    const Way way = wayThrough(edges_[edge]);
    if (way == Way::None || (best != Way::None && way >= best)) continue;
    best = way;
    where = edge;
  }
  if (best == Way::None) {
    force(edges);
  } else {
    takeWay(best, where);
  }
}

PlanGraph::Way PlanGraph::wayThrough(const PlanEdge& edge) const {
  switch (edge.what.kind) {
    case Dependency::Kind::GivesUp:
      return wayOfGivingUp(edge);
    case Dependency::Kind::Leaves:
      return releasable(edge).empty() ? Way::None : Way::Release;
    case Dependency::Kind::Provides:
      return canBeEmptied(edge) ? Way::Empty : Way::None;
    case Dependency::Kind::Before:
      break;
  }
  return Way::None;
}

PlanGraph::Way PlanGraph::wayOfGivingUp(const PlanEdge& edge) const {
  const PlanNode& node = nodes_[edge.from];
  if (block(node).changes.action == Action::Add) return Way::None;
  const auto choices = passingChoices(facts_.catalogue(), block(node), node.rows[0], *edge.what.key);
  if (choices.empty()) return Way::None;
  if (!choices[0].followed) return Way::Pass;
  // Records that have to point elsewhere first would be in the way, or come along.
  const bool waitsForLeaving = std::any_of(node.in.begin(), node.in.end(), [&](std::size_t e) {
    return edges_[e].alive && edges_[e].what.kind != Dependency::Kind::GivesUp &&
           edges_[e].what.kind != Dependency::Kind::Provides;
  });
  return waitsForLeaving ? Way::None : Way::PassAlong;
}

std::vector<std::size_t> PlanGraph::cellsOf(const PlanEdge& edge) const {
  if (edge.what.cell) return {*edge.what.cell};
  std::vector<std::size_t> out;
  const ExaminedBlock& to = block(nodes_[edge.to]);
  for (const std::size_t c : edge.what.reference->columns) {
    if (to.cellAt[c]) out.push_back(*to.cellAt[c]);
  }
  return out;
}

bool PlanGraph::canBeEmptied(const PlanEdge& edge) const {
  const PlanNode& node = nodes_[edge.to];
  if (block(node).changes.action != Action::Add || node.added) return false;
  return std::all_of(node.in.begin(), node.in.end(), [&](std::size_t e) {
    if (!edges_[e].alive) return true;
    if (edges_[e].what.kind != Dependency::Kind::Provides) return false;
    const std::vector<std::size_t> cells = cellsOf(edges_[e]);
    return !cells.empty() && std::any_of(cells.begin(), cells.end(), [&](std::size_t c) {
      const Column* column = block(node).table->column(block(node).changes.cells[c].column);
      return column != nullptr && column->nullable;
    });
  });
}

std::vector<std::size_t> PlanGraph::releasable(const PlanEdge& edge) const {
  std::vector<std::size_t> out;
  if (edge.what.reference == nullptr) return out;
  const PlanNode& node = nodes_[edge.from];
  const ExaminedBlock& child = block(node);
  for (const std::size_t c : edge.what.reference->columns) {
    const Column& column = child.table->columns[c];
    if (!column.nullable || !column.notEditable.empty()) continue;
    const auto cell = child.cellAt[c];
    const bool putRight = child.changes.action == Action::Remove || (cell && child.writesCell(*cell, node.rows[0]));
    if (putRight) out.push_back(c);
  }
  return out;
}

void PlanGraph::takeWay(Way way, std::size_t edge) {
  // A copy: the edges move when their ends are told.
  const PlanEdge taken = edges_[edge];
  if (way == Way::Empty) return addWithout(taken.to);
  if (way == Way::Release) return release(taken);
  passThrough(taken);
}

void PlanGraph::passThrough(const PlanEdge& edge) {
  const PlanNode& node = nodes_[edge.from];
  PlanStep step;
  step.block = node.block;
  step.part = PlanStep::Part::Passing;
  step.rows = node.rows;
  step.passing = edge.what.key;
  steps_.push_back(std::move(step));
  for (const std::size_t e : node.out) {
    if (edges_[e].what.kind == Dependency::Kind::GivesUp && edges_[e].what.key == edge.what.key) end(e);
  }
}

void PlanGraph::release(const PlanEdge& edge) {
  const PlanNode& node = nodes_[edge.from];
  PlanStep step;
  step.block = node.block;
  step.part = PlanStep::Part::Release;
  step.rows = node.rows;
  step.released = releasable(edge);
  steps_.push_back(std::move(step));
  for (const std::size_t e : node.out) {
    if (edges_[e].what.kind == Dependency::Kind::Leaves && edges_[e].what.reference == edge.what.reference) end(e);
  }
}

void PlanGraph::addWithout(std::size_t index) {
  PlanNode& node = nodes_[index];
  node.added = true;
  for (const std::size_t e : node.in) {
    if (!edges_[e].alive) continue;
    for (const std::size_t cell : cellsOf(edges_[e])) {
      const Column* column = block(node).table->column(block(node).changes.cells[cell].column);
      const bool isNew = std::find(node.left.begin(), node.left.end(), cell) == node.left.end();
      if (isNew && column != nullptr && column->nullable) node.left.push_back(cell);
    }
  }
  PlanStep step;
  step.kind = WriteStep::Kind::Insert;
  step.part = PlanStep::Part::First;
  step.block = node.block;
  step.rows = node.rows;
  step.cells = node.cells;
  step.left = node.left;
  steps_.push_back(std::move(step));
  // Those that waited for this record can go on; the node itself still waits for what it points at.
  for (const std::size_t e : node.out) {
    if (edges_[e].to != index) end(e);
  }
  // What it waits for in itself is there now.
  for (const std::size_t e : nodes_[index].in) {
    if (edges_[e].from == index) end(e);
  }
}

void PlanGraph::force(const std::vector<std::size_t>& circle) {
  const std::size_t first = edges_[circle[0]].to;
  const bool removals = std::all_of(circle.begin(), circle.end(), [&](std::size_t e) {
    const PlanNode& node = nodes_[edges_[e].to];
    return node.block == nodes_[first].block && block(node).changes.action == Action::Remove;
  });
  if (removals) {
    // In one statement they may all go at once, where the database looks at its end.
    for (const std::size_t e : circle) {
      PlanNode& node = nodes_[edges_[e].to];
      if (edges_[e].to == first || node.done) continue;
      node.done = true;
      --left_;
      nodes_[first].rows.insert(nodes_[first].rows.end(), node.rows.begin(), node.rows.end());
    }
    std::sort(nodes_[first].rows.begin(), nodes_[first].rows.end());
    for (const std::size_t e : circle) {
      const std::size_t from = edges_[e].from;
      for (const std::size_t out : nodes_[from].out) {
        if (from != first || edges_[out].to == first) end(out);
      }
    }
    if (nodes_[first].waits == 0) return;
  }
  // What points at something may do so before that is there where the database looks at the end only.
  const auto later = std::find_if(circle.begin(), circle.end(), [&](std::size_t e) {
    return edges_[e].alive && edges_[e].what.kind != Dependency::Kind::GivesUp;
  });
  end(later == circle.end() ? circle[0] : *later);
}

}  // namespace iterandum
