#include "core/scope/scope.h"

#include "core/scope/column_path.h"
#include "core/scope/reference_naming.h"

namespace iterandum {
namespace {

// The column is known to the table, and one that is borrowed leads to one record.
Result<ColumnPath> columnOf(const Table& table, const std::string& text, const Catalogue* catalogue) {
  if (!table.rowIdName.empty() && text == table.rowIdName) return ColumnPath{{}, text};
  ITERANDUM_ASSIGN(ColumnPath path, readColumnPath(table, text, catalogue));
  if (const std::string why = cannotBorrow(path); !why.empty()) {
    return fail(ErrorKind::InvalidInput, "'" + text + "' cannot be shown here: " + why);
  }
  return path;
}

// By the columns that the records are called by, to which the reference leads.
bool orderByName(const Table& table, const ColumnPath& path, const ScopeOrder& order, const ConditionContext& context,
                 std::vector<SortKey>& into) {
  const Table& owner = path.owner(table);
  const Column* column = owner.column(path.column);
  const auto naming = column == nullptr ? std::nullopt : referenceNaming(owner, *column, context);
  if (!naming) return false;
  std::vector<ReferenceStep> steps = path.steps;
  steps.push_back(naming->step);
  for (const Column* name : naming->columns) into.push_back({name->name, order.descending, steps, order.natural});
  return true;
}

}  // namespace

Condition ReadScope::where() const {
  Condition out;
  for (const auto& [position, condition] : phrases) out = bothHold(std::move(out), condition);
  return out;
}

Result<ReadScope> readScope(const Scope& scope, const ConditionContext& context, std::vector<ScopeProblem>& problems) {
  ITERANDUM_ASSIGN(const TableName name, parseTableName(scope.table));
  ReadScope out;
  out.table = context.catalogue->find(name);
  if (out.table == nullptr) {
    const std::string close = context.catalogue->closestName(name.name);
    return fail(ErrorKind::NotFound,
                "there is no table " + displayName(name) + (close.empty() ? "" : "; did you mean " + close + "?"));
  }
  for (std::size_t f = 0; f < scope.filters.size(); ++f) {
    const ScopeFilter& filter = scope.filters[f];
    Result<Condition> condition = Condition{};
    if (filter.column.empty()) {
      condition = parseCondition(*out.table, filter.condition, context);
    } else {
      const auto column = readColumnPath(*out.table, filter.column, context.catalogue);
      condition = column ? parseColumnCondition(*out.table, *column, filter.condition, context)
                         : Result<Condition>(fail(column.error()));
    }
    if (!condition) {
      problems.push_back({f, condition.error()});
    } else if (condition->op != Condition::Op::All) {
      out.phrases.emplace_back(f, std::move(*condition));
    }
  }
  for (const ScopeOrder& order : scope.order) {
    auto column = columnOf(*out.table, order.column, context.catalogue);
    if (!column) {
      problems.push_back({std::nullopt, column.error()});
    } else if (!order.byName || !orderByName(*out.table, *column, order, context, out.order)) {
      out.order.push_back({std::move(column->column), order.descending, std::move(column->steps), order.natural});
    }
  }
  for (const std::string& text : scope.columns) {
    auto column = columnOf(*out.table, text, context.catalogue);
    if (column) {
      out.columns.push_back(std::move(*column));
    } else {
      problems.push_back({std::nullopt, column.error()});
    }
  }
  if (scope.columns.empty()) {
    for (const Column& c : out.table->columns) out.columns.push_back({{}, c.name});
  }
  return out;
}

}  // namespace iterandum
