// What a PostgreSQL database holds, from its system catalogues: a handful of queries, however many tables there are.
#include <algorithm>
#include <map>
#include <unordered_map>

#include "core/catalogue/database_code.h"
#include "core/engines/common/rule_reader.h"
#include "core/engines/postgresql/pg_session.h"
#include "core/engines/postgresql/pg_types.h"

namespace iterandum {
namespace {

constexpr const char* kOurTables =
    "c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname <> 'information_schema'";

// Whether a relation takes changes is asked of views alone: it opens each of them. A table takes all (INSERT is bit 3,
// UPDATE 2, DELETE 4).
constexpr const char* kTablesSql =
    "SELECT c.oid, n.nspname, c.relname, c.relkind, "
    "CASE WHEN c.relkind IN ('r', 'p') THEN 28 ELSE pg_relation_is_updatable(c.oid, true) END, "
    "n.nspname, "
    "has_table_privilege(c.oid, 'SELECT') OR has_any_column_privilege(c.oid, 'SELECT'), "
    "has_any_column_privilege(c.oid, 'INSERT'), has_any_column_privilege(c.oid, 'UPDATE'), "
    "has_table_privilege(c.oid, 'DELETE'), c.relrowsecurity, "
    "c.relkind IN ('r', 'p') AND c.relhasrules AND EXISTS (SELECT FROM pg_rules r WHERE r.schemaname = n.nspname AND "
    "r.tablename = c.relname), coalesce(e.description, '') "
    "FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace "
    "LEFT JOIN pg_description e ON e.objoid = c.oid AND e.classoid = 'pg_catalog.pg_class'::regclass AND e.objsubid = "
    "0 WHERE ";

// What a domain stands for in the end is found out once for each domain.
constexpr const char* kColumnsSql =
    "WITH RECURSIVE base(domain, oid, typbasetype, typtype) AS ("
    "SELECT u.oid, u.oid, u.typbasetype, u.typtype FROM pg_type u WHERE u.typtype = 'd' UNION ALL "
    "SELECT base.domain, u.oid, u.typbasetype, u.typtype FROM base JOIN pg_type u ON u.oid = base.typbasetype "
    "WHERE base.typtype = 'd') "
    "SELECT a.attrelid, a.attnum, a.attname, format_type(a.atttypid, a.atttypmod), b.oid, b.typtype, b.typcategory, "
    "CASE WHEN t.typtype = 'd' THEN t.typtypmod ELSE a.atttypmod END, a.attnotnull OR t.typnotnull, "
    "pg_get_expr(d.adbin, d.adrelid), a.attgenerated, a.attidentity, format_type(b.oid, -1), "
    "has_column_privilege(a.attrelid, a.attnum, 'SELECT'), has_column_privilege(a.attrelid, a.attnum, 'UPDATE'), "
    "CASE WHEN c.relkind = 'v' THEN pg_column_is_updatable(a.attrelid, a.attnum, true) ELSE true END, t.typdefault, "
    "coalesce(e.description, ''), h.nspname, b.typname, coalesce(l.collisdeterministic, true) "
    "FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace "
    "JOIN pg_type t ON t.oid = a.atttypid "
    "LEFT JOIN base o ON o.domain = t.oid AND o.typtype <> 'd' "
    "JOIN pg_type b ON b.oid = coalesce(o.oid, t.oid) JOIN pg_namespace h ON h.oid = b.typnamespace "
    "LEFT JOIN pg_collation l ON l.oid = a.attcollation "
    "LEFT JOIN pg_description e ON e.objoid = a.attrelid AND e.classoid = 'pg_catalog.pg_class'::regclass AND "
    "e.objsubid = "
    "a.attnum "
    "LEFT JOIN pg_attrdef d ON d.adrelid = a.attrelid AND d.adnum = a.attnum "
    "WHERE a.attnum > 0 AND NOT a.attisdropped AND ";

constexpr const char* kIndexesSql =
    "SELECT i.indrelid, x.relname, i.indisunique, i.indisprimary, i.indpred IS NULL AND i.indisvalid, "
    "array_to_string(i.indkey::int2[], ' '), i.indnkeyatts "
    "FROM pg_index i JOIN pg_class x ON x.oid = i.indexrelid JOIN pg_class c ON c.oid = i.indrelid "
    "JOIN pg_namespace n ON n.oid = c.relnamespace WHERE ";

constexpr const char* kConstraintsSql =
    "SELECT k.conrelid, k.conname, k.contype, array_to_string(k.conkey, ' '), k.confrelid, "
    "array_to_string(k.confkey, ' '), k.confdeltype, k.confupdtype, k.condeferrable, "
    "CASE WHEN k.contype = 'c' THEN pg_get_expr(k.conbin, k.conrelid) END "
    "FROM pg_constraint k JOIN pg_class c ON c.oid = k.conrelid JOIN pg_namespace n ON n.oid = c.relnamespace "
    "WHERE k.contype IN ('c', 'f', 'u', 'p', 'x', 't') AND ";

std::vector<int> numbers(std::string_view text) {
  std::vector<int> out;
  std::size_t at = 0;
  while (at < text.size()) {
    const std::size_t end = std::min(text.find(' ', at), text.size());
    out.push_back(std::atoi(std::string(text.substr(at, end - at)).c_str()));
    at = end + 1;
  }
  return out;
}

ReferenceAction actionOf(std::string_view letter) {
  if (letter == "r") return ReferenceAction::Restrict;
  if (letter == "c") return ReferenceAction::Cascade;
  if (letter == "n") return ReferenceAction::SetNull;
  return letter == "d" ? ReferenceAction::SetDefault : ReferenceAction::NoAction;
}

class CatalogueReader {
 public:
  CatalogueReader(PgHandle& handle, std::vector<std::string> path, Progress& progress)
      : handle_(handle), path_(std::move(path)), progress_(progress) {
    if (!path_.empty()) defaultSchema_ = path_[0];
  }

  Result<Catalogue> read(bool& mayDefer) {
    ITERANDUM_TRY(readTables());
    ITERANDUM_TRY(readTriggers());
    ITERANDUM_TRY(readEnums());
    ITERANDUM_TRY(readColumns());
    ITERANDUM_TRY(readIndexes());
    ITERANDUM_TRY(readConstraints());
    mayDefer = mayDefer_;
    for (Table& table : tables_) finish(table);
    std::stable_sort(tables_.begin(), tables_.end(), [](const Table& a, const Table& b) { return a.name < b.name; });
    return Catalogue(std::move(tables_), defaultSchema_);
  }

 private:
  struct Extra {
    std::map<int, std::size_t> columnAt;  // by attribute number
    bool unreadable = false;
  };

  Status readTables() {
    ITERANDUM_ASSIGN(const PgResult rows,
                     handle_.query(std::string(kTablesSql) + kOurTables + " ORDER BY c.relname", {}, progress_));
    for (int r = 0; r < rows.rows(); ++r) {
      Table table;
      table.homeSchema = rows.string(r, 1);
      if (table.homeSchema != defaultSchema_) table.name.schema = table.homeSchema;
      table.name.name = rows.string(r, 2);
      table.comment = rows.string(r, 12);
      describeKind(table, rows.text(r, 3), rows.integer(r, 4));
      Extra extra;
      extra.unreadable = !rows.isTrue(r, 6);
      if (extra.unreadable) table.unusable = "you have no right to read it";
      if (table.notEditable.empty()) describeRights(table, rows, r);
      if (rows.isTrue(r, 11)) table.notEditable = "a rule of the database rewrites what is done to it";
      byOid_[rows.string(r, 0)] = tables_.size();
      tables_.push_back(std::move(table));
      extras_.push_back(std::move(extra));
    }
    return {};
  }

  static void describeKind(Table& table, std::string_view kind, std::int64_t updatable) {
    // Bits by number of the command: 2 UPDATE, 3 INSERT, 4 DELETE.
    const bool edit = (updatable & 4) != 0;
    const bool add = (updatable & 8) != 0;
    const bool remove = (updatable & 16) != 0;
    if (kind == "v") {
      table.kind = TableKind::View;
      const std::string reason = "it is a view, and neither its query nor an INSTEAD OF trigger says what ";
      if (!edit && !add && !remove) table.notEditable = reason + "a change to it would mean";
      if (!edit) table.cannotEdit = reason + "an edit would mean";
      if (!add) table.cannotAdd = reason + "an addition would mean";
      if (!remove) table.cannotRemove = reason + "a removal would mean";
    } else if (kind == "m") {
      table.kind = TableKind::View;
      table.notEditable = "it is a materialized view: the database makes it from its query";
    } else if (kind == "f") {
      table.kind = TableKind::VirtualTable;
      table.writesNotCounted = true;
      if (!edit && !add && !remove)
        table.notEditable = "it is a foreign table, which its server does not let be written";
    }
  }

  static void describeRights(Table& table, const PgResult& rows, int r) {
    const std::string none = "you have no right to ";
    if (!rows.isTrue(r, 7) && table.cannotAdd.empty()) table.cannotAdd = none + "add records to it";
    if (!rows.isTrue(r, 8) && table.cannotEdit.empty()) table.cannotEdit = none + "change its records";
    if (!rows.isTrue(r, 9) && table.cannotRemove.empty()) table.cannotRemove = none + "remove its records";
    if (!rows.isTrue(r, 7) && !rows.isTrue(r, 8) && !rows.isTrue(r, 9)) table.notEditable = none + "change it";
  }

  // Triggers with the text of their functions; of other languages than SQL's own there is none.
  Status readTriggers() {
    ITERANDUM_ASSIGN(
        const PgResult rows,
        handle_.query("SELECT t.tgrelid, t.tgname, CASE WHEN l.lanname IN ('plpgsql', 'sql') AND p.prosrc !~* "
                      "'\\mexecute\\M' THEN p.prosrc ELSE '' END FROM pg_trigger t JOIN pg_proc p ON p.oid = "
                      "t.tgfoid JOIN pg_language l ON l.oid = p.prolang WHERE NOT t.tgisinternal ORDER BY 1, 2",
                      {}, progress_));
    if (rows.rows() == 0) return {};
    Routines routines;
    ITERANDUM_ASSIGN(
        const PgResult functions,
        handle_.query("SELECT p.proname, CASE WHEN l.lanname IN ('plpgsql', 'sql') THEN p.prosrc ELSE '' END "
                      "FROM pg_proc p JOIN pg_language l ON l.oid = p.prolang JOIN pg_namespace n ON n.oid = "
                      "p.pronamespace WHERE n.nspname NOT LIKE 'pg\\_%' AND n.nspname <> 'information_schema'",
                      {}, progress_));
    for (int r = 0; r < functions.rows(); ++r) routines.add(functions.string(r, 0), functions.string(r, 1));
    for (int r = 0; r < rows.rows(); ++r) {
      const auto at = byOid_.find(rows.string(r, 0));
      if (at == byOid_.end()) continue;
      const std::string text = rows.string(r, 2);
      tables_[at->second].triggers.push_back({rows.string(r, 1), text.empty() ? text : routines.withCalled(text)});
    }
    return {};
  }

  // A type's name without the schema where the user's own search path finds it.
  [[nodiscard]] std::string withoutPath(const std::string& type) const {
    for (const std::string& schema : path_) {
      for (const std::string& prefix : {schema + ".", pgIdentifier(schema) + "."}) {
        if (type.starts_with(prefix)) return type.substr(prefix.size());
      }
    }
    return type;
  }

  Status readEnums() {
    ITERANDUM_ASSIGN(
        const PgResult rows,
        handle_.query("SELECT enumtypid, enumlabel FROM pg_enum ORDER BY enumtypid, enumsortorder", {}, progress_));
    for (int r = 0; r < rows.rows(); ++r) enums_[rows.string(r, 0)].push_back(Value::text(rows.text(r, 1)));
    return {};
  }

  Status readColumns() {
    ITERANDUM_ASSIGN(const PgResult rows,
                     handle_.query(std::string(kColumnsSql) + kOurTables + " ORDER BY 1, 2", {}, progress_));
    for (int r = 0; r < rows.rows(); ++r) {
      const auto at = byOid_.find(rows.string(r, 0));
      if (at == byOid_.end()) continue;
      Table& table = tables_[at->second];
      Column column;
      column.name = rows.string(r, 2);
      column.declaredType = withoutPath(rows.string(r, 3));
      column.comment = rows.string(r, 17);
      column.engineType = rows.string(r, 12);
      PgType type;
      type.base = static_cast<Oid>(rows.integer(r, 4));
      type.kind = rows.text(r, 5)[0];
      type.category = rows.text(r, 6)[0];
      type.modifier = static_cast<int>(rows.integer(r, 7));
      const bool ofServer = rows.text(r, 18) == "pg_catalog";
      if (!ofServer) column.engineType = pgIdentifier(rows.text(r, 18)) + "." + pgIdentifier(rows.text(r, 19));
      describePgType(column, type);
      // Equality of a type of somebody's own is an operator of somebody's own.
      column.comparedAsText = !ofServer && type.kind == 'b';
      const bool loose = column.type == TypeClass::Real || column.type == TypeClass::Interval ||
                         column.type == TypeClass::Decimal || column.type == TypeClass::Other ||
                         column.paddedWithBlanks;
      column.foundExactly = rows.isTrue(r, 20) && (column.comparedAsText || !loose);
      if (const auto labels = enums_.find(rows.string(r, 4)); labels != enums_.end()) column.allowed = labels->second;
      column.nullable = !rows.isTrue(r, 8);
      column.hasDefault = !rows.isNull(r, 9) || !rows.isNull(r, 16);
      column.defaultExpression = rows.string(r, 9);
      column.computed = !rows.text(r, 10).empty();
      const bool identity = !rows.text(r, 11).empty();
      column.generatedKey = identity || column.defaultExpression.rfind("nextval(", 0) == 0;
      column.numbersStayUsedUp = column.generatedKey;
      if (!rows.isTrue(r, 13)) {
        extras_[at->second].unreadable = true;
        table.unusable = "you have no right to read its column " + quotedIfOdd(column.name);
      }
      describeEditing(column, rows, r);
      extras_[at->second].columnAt[static_cast<int>(rows.integer(r, 1))] = table.columns.size();
      table.columns.push_back(std::move(column));
    }
    return {};
  }

  static void describeEditing(Column& column, const PgResult& rows, int r) {
    if (column.computed) column.notEditable = "the database computes it";
    if (!rows.isTrue(r, 14)) column.notEditable = "you have no right to change it";
    if (!rows.isTrue(r, 15)) column.notEditable = "the view computes it";
  }

  Status readIndexes() {
    ITERANDUM_ASSIGN(const PgResult rows, handle_.query(std::string(kIndexesSql) + kOurTables +
                                                            " ORDER BY i.indrelid, NOT i.indisprimary, x.relname",
                                                        {}, progress_));
    for (int r = 0; r < rows.rows(); ++r) {
      const auto at = byOid_.find(rows.string(r, 0));
      if (at == byOid_.end() || !rows.isTrue(r, 4)) continue;
      Table& table = tables_[at->second];
      UniqueKey key;
      key.name = rows.string(r, 1);
      key.primary = rows.isTrue(r, 3);
      bool plain = true;
      std::vector<int> attributes = numbers(rows.text(r, 5));
      attributes.resize(std::min(attributes.size(), static_cast<std::size_t>(rows.integer(r, 6))));
      for (const int attribute : attributes) {
        const auto column = extras_[at->second].columnAt.find(attribute);
        plain = plain && column != extras_[at->second].columnAt.end();
        if (!plain) break;
        key.columns.push_back(column->second);
        key.collations.emplace_back();
      }
      if (!plain || key.columns.empty()) continue;
      table.indexes.push_back(key.columns);
      if (rows.isTrue(r, 2)) table.keys.push_back(std::move(key));
    }
    return {};
  }

  Status readConstraints() {
    ITERANDUM_ASSIGN(const PgResult rows,
                     handle_.query(std::string(kConstraintsSql) + kOurTables + " ORDER BY 1, 2", {}, progress_));
    for (int r = 0; r < rows.rows(); ++r) {
      mayDefer_ = mayDefer_ || rows.isTrue(r, 8);
      const auto at = byOid_.find(rows.string(r, 0));
      if (at == byOid_.end()) continue;
      if (rows.text(r, 2) == "c") addCheck(at->second, rows, r);
      if (rows.text(r, 2) == "f") addReference(at->second, rows, r);
    }
    return {};
  }

  void addCheck(std::size_t table, const PgResult& rows, int r) {
    CheckRule rule;
    rule.name = rows.string(r, 1);
    rule.expression = rows.string(r, 9);
    for (const int attribute : numbers(rows.text(r, 3))) {
      const auto column = extras_[table].columnAt.find(attribute);
      if (column != extras_[table].columnAt.end()) rule.columns.push_back(column->second);
    }
    learnFromRule(rule, tables_[table].columns, {{}, {"length", "char_length", "character_length"}});
    tables_[table].checks.push_back(std::move(rule));
  }

  void addReference(std::size_t table, const PgResult& rows, int r) {
    const auto target = byOid_.find(rows.string(r, 4));
    Reference reference;
    reference.name = rows.string(r, 1);
    reference.onDelete = actionOf(rows.text(r, 6));
    reference.onUpdate = actionOf(rows.text(r, 7));
    for (const int attribute : numbers(rows.text(r, 3))) {
      reference.columns.push_back(extras_[table].columnAt[attribute]);
    }
    if (target == byOid_.end()) {
      reference.targetMissing = true;
    } else {
      reference.target = tables_[target->second].name;
      for (const int attribute : numbers(rows.text(r, 5))) {
        const std::size_t column = extras_[target->second].columnAt[attribute];
        reference.targetColumns.push_back(tables_[target->second].columns[column].name);
      }
    }
    tables_[table].references.push_back(std::move(reference));
  }

  static void finish(Table& table) {
    using Kind = Identity::Kind;
    std::stable_partition(table.keys.begin(), table.keys.end(), [](const UniqueKey& k) { return k.primary; });
    for (const UniqueKey& key : table.keys) {
      const bool complete = std::none_of(key.columns.begin(), key.columns.end(),
                                         [&](std::size_t c) { return table.columns[c].nullable; });
      if (!complete) continue;
      table.identity = {key.primary ? Kind::PrimaryKey : Kind::UniqueKey, table.columnNames(key.columns)};
      return;
    }
    table.identity.kind = Kind::WholeRecord;
    for (const Column& c : table.columns) table.identity.columns.push_back(c.name);
    if (table.columns.empty()) table.notEditable = "it has no columns";
  }

  PgHandle& handle_;
  std::vector<std::string> path_;  // the schemas in which the user's names are looked for
  std::string defaultSchema_;
  Progress& progress_;
  std::vector<Table> tables_;
  std::vector<Extra> extras_;
  std::unordered_map<std::string, std::size_t> byOid_;
  std::unordered_map<std::string, std::vector<Value>> enums_;
  bool mayDefer_ = false;
};

}  // namespace

Result<Catalogue> readPgCatalogue(PgHandle& handle, bool& mayDefer, Progress& progress) {
  std::vector<std::string> path;
  ITERANDUM_ASSIGN(const PgResult schemas,
                   handle.query("SELECT pg_catalog.unnest(pg_catalog.current_schemas(false))", {}, progress));
  for (int r = 0; r < schemas.rows(); ++r) path.push_back(schemas.string(r, 0));
  // With a path of the server's own schema alone, nobody else's operators and functions answer, and expressions are
  // given with the schema of everything else in them.
  ITERANDUM_TRY(handle.run(
      "BEGIN ISOLATION LEVEL READ COMMITTED READ ONLY; " + handle.opening() + "; SET LOCAL search_path = pg_catalog",
      progress));
  auto catalogue = CatalogueReader(handle, std::move(path), progress).read(mayDefer);
  Progress always;
  ITERANDUM_TRY(handle.run("ROLLBACK", catalogue ? progress : always));
  return catalogue;
}

}  // namespace iterandum
