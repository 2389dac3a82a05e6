#include "cli/scope_call.h"

#include "cli/files.h"
#include "core/store/store.h"

namespace iterandum::cli {
namespace {

Result<ScopeOrder> readSort(const std::string& text) {
  ScopeOrder order;
  std::string name = text;
  const auto takeTail = [&](std::string_view tail) {
    if (name.size() <= tail.size() || !name.ends_with(tail)) return false;
    name.resize(name.size() - tail.size());
    return true;
  };
  for (bool more = true; more;) {
    const bool descending = takeTail(":desc");
    const bool natural = takeTail(":natural");
    order.descending = order.descending || descending;
    order.natural = order.natural || natural;
    more = descending || natural || takeTail(":asc");
  }
  ITERANDUM_ASSIGN(const std::vector<std::string> names, splitColumns(name, "--sort"));
  if (names.size() != 1) return fail(ErrorKind::InvalidInput, "--sort takes one column; give it again for the next");
  order.column = names[0];
  return order;
}

// A scope that was saved in the window, by its name.
Result<Scope> savedScope(const Arguments& a, const std::string& address) {
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(const std::vector<SavedScope> scopes, store->scopes(address));
  std::string known;
  for (const SavedScope& saved : scopes) {
    if (saved.name == a.scope) return saved.scope;
    known += (known.empty() ? "" : ", ") + saved.name;
  }
  return fail(ErrorKind::NotFound, "no scope '" + a.scope + "' is saved for this database; " +
                                       (known.empty() ? "there is none" : "there are " + known));
}

Result<Scope> scopeFile(const std::string& path) {
  ITERANDUM_ASSIGN(const std::string document, readWhole(path));
  auto scope = scopeFromJson(document);
  if (!scope) {
    scope.error().place = path + ", " + scope.error().place;
    return fail(std::move(scope.error()));
  }
  return std::move(scope->second);
}

// The words of the call, or the part of the saved scope, that cannot be read.
Error namedPlace(const Scope& scope, const ScopeProblem& problem) {
  Error error = problem.error;
  if (!problem.filter) return error;
  const ScopeFilter& filter = scope.filters[*problem.filter];
  const std::string head = filter.column.empty() ? "--where '" + filter.condition + "'"
                                                 : "filter of " + filter.column + " '" + filter.condition + "'";
  error.place = head + (error.place.empty() ? "" : ", " + error.place);
  return error;
}

}  // namespace

Result<std::vector<std::string>> splitColumns(const std::string& list, const std::string& option) {
  std::vector<std::string> out;
  std::string name;
  bool quoted = false;
  for (std::size_t i = 0; i <= list.size(); ++i) {
    if (i == list.size() || (list[i] == ',' && !quoted)) {
      if (quoted) return fail(ErrorKind::InvalidInput, "a quote in " + option + " is not closed");
      if (name.empty()) return fail(ErrorKind::InvalidInput, option + " has an empty name in it");
      out.push_back(std::move(name));
      name.clear();
    } else if (list[i] == '"') {
      if (quoted && i + 1 < list.size() && list[i + 1] == '"') {
        name += list[i++];
      } else {
        quoted = !quoted;
      }
    } else {
      name += list[i];
    }
  }
  return out;
}

Status wantTable(const Arguments& a) {
  if (!a.table.empty() || !a.scope.empty() || !a.scopeFile.empty()) return {};
  return fail(ErrorKind::InvalidInput, "TABLE is missing; name a table, or a saved scope with --scope");
}

Result<Scope> calledScope(const Arguments& a, const std::string& address) {
  Scope scope;
  if (!a.scope.empty()) {
    ITERANDUM_ASSIGN(scope, savedScope(a, address));
  } else if (!a.scopeFile.empty()) {
    ITERANDUM_ASSIGN(scope, scopeFile(a.scopeFile));
  }
  if (!a.table.empty()) scope.table = a.table;
  if (!a.columns.empty()) {
    ITERANDUM_ASSIGN(scope.columns, splitColumns(a.columns, "--columns"));
  }
  if (!a.sort.empty()) scope.order.clear();
  for (const std::string& text : a.sort) {
    ITERANDUM_ASSIGN(ScopeOrder order, readSort(text));
    scope.order.push_back(std::move(order));
  }
  for (const std::string& text : a.where) scope.filters.push_back({{}, text});
  return scope;
}

Result<ReadScope> readTable(const Scope& scope, const Catalogue& catalogue) {
  std::vector<ScopeProblem> problems;
  ITERANDUM_ASSIGN(ReadScope read, readScope(scope, contextNow(catalogue), problems));
  if (!read.table->unusable.empty()) {
    return fail(ErrorKind::CannotOpen, displayName(read.table->name) + " cannot be read: " + read.table->unusable);
  }
  if (!problems.empty()) return fail(namedPlace(scope, problems.front()));
  return read;
}

Result<ReadScope> readCalledScope(const Arguments& a, const std::string& address, const Catalogue& catalogue) {
  ITERANDUM_ASSIGN(const Scope scope, calledScope(a, address));
  return readTable(scope, catalogue);
}

namespace {

// As the window keeps it for the database.
Status showNames(const Arguments& a, CalledRecords& called, Session& session, Progress& progress) {
  if (a.format == "sql")
    return fail(ErrorKind::InvalidInput, "INSERT statements hold what is stored, not what is shown", "--as-shown");
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(const CalledBy calledBy, store->readableChoices(session.info().address));
  ITERANDUM_ASSIGN(const std::vector<Lens> lenses, store->lenses(session.info().address));
  ITERANDUM_ASSIGN(ShownValues values,
                   ShownValues::read(called.scope, called.catalogue, calledBy, lenses, session, progress));
  called.shown.showAs(std::move(values));
  return {};
}

}  // namespace

Result<std::unique_ptr<CalledRecords>> readCalledRecords(const Arguments& a, Session& session, Progress& progress) {
  auto out = std::make_unique<CalledRecords>();
  ITERANDUM_ASSIGN(out->catalogue, session.readCatalogue(progress));
  ITERANDUM_ASSIGN(out->scope, readCalledScope(a, session.info().address, out->catalogue));
  ITERANDUM_ASSIGN(out->shown, shownRecords(out->scope, session, a.format));
  if (a.asShown) ITERANDUM_TRY(showNames(a, *out, session, progress));
  out->shown.query.limit = a.limit;
  out->shown.form.noValue = a.null;
  return out;
}

Result<const Table*> tableToChange(const Catalogue& catalogue, const std::string& called) {
  ITERANDUM_ASSIGN(const TableName name, parseTableName(called));
  const Table* table = catalogue.find(name);
  if (table == nullptr) {
    const std::string close = catalogue.closestName(name.name);
    return fail(ErrorKind::NotFound,
                "there is no table " + displayName(name) + (close.empty() ? "" : "; did you mean " + close + "?"));
  }
  if (table->writeKeyColumns().empty()) {
    return fail(ErrorKind::InvalidInput, "records of " + displayName(table->name) + " cannot be told apart");
  }
  return table;
}

Result<Catalogue> catalogueWithStated(Session& session, Progress& progress) {
  ITERANDUM_ASSIGN(Catalogue catalogue, session.readCatalogue(progress));
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  ITERANDUM_ASSIGN(const std::vector<StatedReference> stated, store->statedReferences(session.info().address));
  return catalogue.withReferences(stated);
}

}  // namespace iterandum::cli
