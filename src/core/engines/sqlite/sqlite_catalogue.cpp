#include "core/engines/sqlite/sqlite_catalogue.h"

#include <strings.h>

#include <algorithm>
#include <charconv>
#include <limits>
#include <map>
#include <set>

#include "core/engines/common/rule_reader.h"
#include "core/engines/sqlite/create_statements.h"

namespace iterandum {
namespace {

bool same(const std::string& a, const char* b) { return strcasecmp(a.c_str(), b) == 0; }

std::string upper(std::string s) {
  std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return std::toupper(c); });
  return s;
}

struct SchemaEntry {
  std::string type;
  std::string name;
  std::string tableName;
  std::string sql;
};

struct ListedTable {
  std::string type;  // table, view, shadow, virtual
  bool withoutRowId = false;
  bool strict = false;
  bool indexed = false;  // something lies in the schema as an index of it
};

// --- types -----------------------------------------------------------------------------------------------------------

// The number in brackets behind a type, as in VARCHAR(20).
std::optional<std::int64_t> typeLength(const std::string& declared) {
  const std::size_t open = declared.find('(');
  if (open == std::string::npos) return std::nullopt;
  std::int64_t n = 0;
  const auto r = std::from_chars(declared.data() + open + 1, declared.data() + declared.size(), n);
  if (r.ec != std::errc() || n <= 0) return std::nullopt;
  return n;
}

// SQLite's affinity rules (datatype3.html, 3.1), with the declared words used further where people mean more by them.
void describeType(Column& column, bool strict) {
  const std::string type = upper(column.declaredType);
  const auto has = [&](const char* part) { return type.find(part) != std::string::npos; };
  column.booleansAsNumbers = true;
  column.storesOffType = !strict;
  column.type = TypeClass::Any;
  if (type.empty() || (strict && type == "ANY")) {
    column.storesOffType = true;
  } else if (has("INT")) {
    column.type = TypeClass::Integer;
    column.numericText = true;
  } else if (has("CHAR") || has("CLOB") || has("TEXT")) {
    column.type = TypeClass::Text;
    if (has("CHAR")) column.maxLength = typeLength(type);
  } else if (has("BLOB")) {
    column.type = strict ? TypeClass::Bytes : TypeClass::Any;
  } else if (has("REAL") || has("FLOA") || has("DOUB")) {
    column.type = TypeClass::Real;
    column.numericText = true;
  } else {
    column.numericText = true;
    if (type.starts_with("BOOL")) column.type = TypeClass::Boolean;
    if (type.starts_with("DATETIME") || type.starts_with("TIMESTAMP")) column.type = TypeClass::Timestamp;
    if (type == "DATE") column.type = TypeClass::Date;
    if (type == "TIME") column.type = TypeClass::Time;
    if (type.starts_with("DEC") || type.starts_with("NUM") || type.starts_with("MONEY")) {
      column.type = TypeClass::Decimal;
      column.exactDigits = 15;
    }
  }
}

// --- one table -------------------------------------------------------------------------------------------------------

// What is asked about every table: prepared once, since there may be tens of thousands.
struct TableQuestions {
  [[nodiscard]] static Result<TableQuestions> prepare(SqliteHandle& handle) {
    TableQuestions out;
    ITERANDUM_ASSIGN(out.columns, handle.prepare("SELECT name, type, \"notnull\", dflt_value, pk, hidden FROM "
                                                 "pragma_table_xinfo(?)"));
    ITERANDUM_ASSIGN(out.indexes, handle.prepare("SELECT name, \"unique\", origin, partial FROM pragma_index_list(?)"));
    ITERANDUM_ASSIGN(out.indexColumns,
                     handle.prepare("SELECT cid, name, coll FROM pragma_index_xinfo(?) WHERE key = 1"));
    ITERANDUM_ASSIGN(out.references, handle.prepare("SELECT id, \"table\", \"from\", \"to\", on_update, on_delete "
                                                    "FROM pragma_foreign_key_list(?) ORDER BY id, seq"));
    return out;
  }
  SqliteStatement columns;
  SqliteStatement indexes;
  SqliteStatement indexColumns;
  SqliteStatement references;
};

// One of them asked, which is free for the next table in the end.
class Asked {
 public:
  Asked(SqliteStatement& statement, const std::string& about) : statement_(statement), about_(about) {
    statement_.bind(1, std::string_view(about_));
  }
  Asked(const Asked&) = delete;
  Asked& operator=(const Asked&) = delete;
  ~Asked() { statement_.reset(); }
  SqliteStatement* operator->() { return &statement_; }

 private:
  SqliteStatement& statement_;
  std::string about_;  // what is bound lives as long
};

class TableReader {
 public:
  TableReader(SqliteHandle& handle, TableQuestions& questions, const std::set<std::string>& collations,
              const ListedTable& listed, Table& table)
      : handle_(handle), questions_(questions), collations_(collations), listed_(listed), table_(table) {}

  Status read(const std::string& createSql) {
    // A question about a table costs the more the more tables there are: none is asked that its own text answers.
    const std::string text = upper(createSql);
    const bool isPlain = table_.kind == TableKind::Table;
    ITERANDUM_TRY(readColumns(!isPlain || text.find("COLLATE") != std::string::npos));
    if (table_.kind != TableKind::View) {
      if (!isPlain || listed_.indexed || listed_.withoutRowId) ITERANDUM_TRY(readIndexes());
      nameKeys();
      if (!isPlain || text.find("REFERENCES") != std::string::npos) ITERANDUM_TRY(readReferences());
      nameReferences(namedReferencesOf(createSql));
      table_.checks = checkRulesOf(createSql);
      for (CheckRule& rule : table_.checks) learnFromRule(rule, table_.columns, {{true, false}, {"length"}});
    }
    nameRowId();
    chooseIdentity();
    return {};
  }

 private:
  Status readColumns(bool namesCollations) {
    Asked rows(questions_.columns, table_.name.name);
    std::map<int, std::size_t> primary;
    int code = SQLITE_ROW;
    while ((code = rows->step()) == SQLITE_ROW) {
      Column column;
      column.name = rows->text(0);
      column.declaredType = rows->text(1);
      column.nullable = rows->integer(2) == 0;
      column.hasDefault = !rows->isNull(3);
      column.defaultExpression = rows->text(3);
      const auto hidden = rows->integer(5);
      if (hidden == 1) continue;  // a virtual table's hidden column: a parameter, no data
      column.computed = hidden >= 2;
      if (column.computed) column.notEditable = "the database computes it";
      describeType(column, listed_.strict);
      const char* collation = namesCollations ? nullptr : "BINARY";
      if (namesCollations)
        sqlite3_table_column_metadata(handle_.raw(), "main", table_.name.name.c_str(), column.name.c_str(), nullptr,
                                      &collation, nullptr, nullptr, nullptr);
      column.foundExactly = collation != nullptr && same("BINARY", collation);
      if (rows->integer(4) > 0) primary[static_cast<int>(rows->integer(4))] = table_.columns.size();
      table_.columns.push_back(std::move(column));
    }
    if (code != SQLITE_DONE) return fail(handle_.error(code, "cannot read the columns of " + displayName(table_.name)));
    for (const auto& [position, index] : primary) primaryColumns_.push_back(index);
    return {};
  }

  Status readIndexes() {
    Asked list(questions_.indexes, table_.name.name);
    while (list->step() == SQLITE_ROW) {
      const bool whole = list->integer(3) == 0;
      const std::string origin = list->text(2);
      primaryIndexed_ = primaryIndexed_ || origin == "pk";
      ITERANDUM_TRY(readIndex(list->text(0), list->integer(1) != 0, whole, origin == "pk"));
    }
    return {};
  }

  void nameKeys() {
    if (!primaryColumns_.empty() && !primaryIndexed_) rowIdIsPrimaryKey();
    if (listed_.withoutRowId) {
      for (const std::size_t c : primaryColumns_) table_.columns[c].nullable = false;
    }
    std::stable_partition(table_.keys.begin(), table_.keys.end(), [](const UniqueKey& k) { return k.primary; });
  }

  void rowIdIsPrimaryKey() {
    Column& column = table_.columns[primaryColumns_[0]];
    column.nullable = false;
    column.generatedKey = true;
    UniqueKey key;
    key.name = "primary key";
    key.primary = true;
    key.columns = primaryColumns_;
    key.collations = {"BINARY"};
    table_.indexes.push_back(key.columns);
    table_.keys.push_back(std::move(key));
  }

  Status readIndex(const std::string& name, bool unique, bool whole, bool primary) {
    Asked rows(questions_.indexColumns, name);
    UniqueKey key;
    key.name = name;
    key.primary = primary;
    while (rows->step() == SQLITE_ROW) {
      const std::string collation = rows->text(2);
      if (!collation.empty() && !collations_.contains(upper(collation)) && table_.notEditable.empty()) {
        table_.notEditable = "its index " + name + " sorts by the collation " + collation +
                             ", which only the program that made this database has";
      }
      const auto index = table_.columnIndex(rows->text(1));
      if (rows->integer(0) < 0 || !index) {
        whole = false;  // over an expression
        continue;
      }
      key.columns.push_back(*index);
      key.collations.push_back(upper(collation));
    }
    if (!whole || key.columns.empty()) return {};
    table_.indexes.push_back(key.columns);
    if (unique) table_.keys.push_back(std::move(key));
    return {};
  }

  static ReferenceAction action(const std::string& words) {
    if (same(words, "RESTRICT")) return ReferenceAction::Restrict;
    if (same(words, "CASCADE")) return ReferenceAction::Cascade;
    if (same(words, "SET NULL")) return ReferenceAction::SetNull;
    if (same(words, "SET DEFAULT")) return ReferenceAction::SetDefault;
    return ReferenceAction::NoAction;
  }

  Status readReferences() {
    Asked rows(questions_.references, table_.name.name);
    std::int64_t last = -1;
    while (rows->step() == SQLITE_ROW) {
      if (rows->integer(0) != last) {
        last = rows->integer(0);
        Reference reference;
        reference.name = "reference " + std::to_string(last + 1);
        reference.target.name = rows->text(1);
        reference.onUpdate = action(rows->text(4));
        reference.onDelete = action(rows->text(5));
        table_.references.push_back(std::move(reference));
      }
      Reference& reference = table_.references.back();
      if (const auto index = table_.columnIndex(rows->text(2))) reference.columns.push_back(*index);
      if (!rows->isNull(3)) reference.targetColumns.push_back(rows->text(3));
    }
    return {};
  }

  // By their own names, where they have some.
  void nameReferences(std::vector<NamedReference> named) {
    for (Reference& reference : table_.references) {
      const std::vector<std::string> columns = table_.columnNames(reference.columns);
      const auto found = std::find_if(named.begin(), named.end(), [&](const NamedReference& n) {
        return same(n.target, reference.target.name.c_str()) &&
               std::equal(n.columns.begin(), n.columns.end(), columns.begin(), columns.end(),
                          [](const std::string& a, const std::string& b) { return same(a, b.c_str()); });
      });
      if (found == named.end()) continue;
      reference.name = found->name;
      named.erase(found);
    }
  }

  void nameRowId() {
    if (listed_.withoutRowId || table_.kind == TableKind::View) return;
    for (const char* name : {"rowid", "_rowid_", "oid"}) {
      const bool taken = std::any_of(table_.columns.begin(), table_.columns.end(),
                                     [&](const Column& c) { return same(c.name, name); });
      if (!taken) {
        table_.rowIdName = name;
        return;
      }
    }
  }

  [[nodiscard]] std::vector<std::string> names(const std::vector<std::size_t>& columns) const {
    std::vector<std::string> out;
    for (const std::size_t c : columns) out.push_back(table_.columns[c].name);
    return out;
  }

  void chooseIdentity() {
    using Kind = Identity::Kind;
    if (const UniqueKey* primary = table_.primaryKey()) {
      table_.identity = {Kind::PrimaryKey, names(primary->columns)};
      table_.primaryKeyMayBeNull = std::any_of(primary->columns.begin(), primary->columns.end(),
                                               [&](std::size_t c) { return table_.columns[c].nullable; });
      return;
    }
    for (const UniqueKey& key : table_.keys) {
      const bool complete = std::none_of(key.columns.begin(), key.columns.end(),
                                         [&](std::size_t c) { return table_.columns[c].nullable; });
      if (complete) {
        table_.identity = {Kind::UniqueKey, names(key.columns)};
        return;
      }
    }
    if (!table_.rowIdName.empty()) {
      table_.identity = {Kind::RowId, {table_.rowIdName}};
      return;
    }
    table_.identity.kind = Kind::WholeRecord;
    for (const Column& c : table_.columns) table_.identity.columns.push_back(c.name);
  }

  SqliteHandle& handle_;
  TableQuestions& questions_;
  const std::set<std::string>& collations_;
  const ListedTable& listed_;
  Table& table_;
  std::vector<std::size_t> primaryColumns_;
  bool primaryIndexed_ = false;
};

// --- the whole -------------------------------------------------------------------------------------------------------

class CatalogueReader {
 public:
  explicit CatalogueReader(SqliteHandle& handle) : handle_(handle) {}

  Result<Catalogue> read() {
    ITERANDUM_TRY(readSchema());
    ITERANDUM_TRY(readList());
    ITERANDUM_TRY(readCollations());
    ITERANDUM_ASSIGN(TableQuestions questions, TableQuestions::prepare(handle_));
    for (const SchemaEntry& entry : schema_) {
      if (entry.type == "index") indexed_.insert(upper(entry.tableName));
      if (entry.type == "trigger") triggers_[upper(entry.tableName)].push_back(&entry);
    }
    std::vector<Table> tables;
    for (const SchemaEntry& entry : schema_) {
      if (entry.type == "table" || entry.type == "view") tables.push_back(readTable(entry, questions));
    }
    resolveReferences(tables);
    return Catalogue(std::move(tables), "main");
  }

 private:
  Status readSchema() {
    // The first read of the file: here it turns out whether it is a database at all.
    ITERANDUM_ASSIGN(SqliteStatement rows, handle_.prepare("SELECT type, name, tbl_name, sql FROM main.sqlite_schema"));
    int code = SQLITE_ROW;
    while ((code = rows.step()) == SQLITE_ROW) {
      schema_.push_back({rows.text(0), rows.text(1), rows.text(2), rows.text(3)});
    }
    if (code != SQLITE_DONE) return fail(handle_.error(code, "cannot read what the database holds"));
    return {};
  }

  Status readList() {
    ITERANDUM_ASSIGN(SqliteStatement rows,
                     handle_.prepare("SELECT name, type, wr, strict FROM pragma_table_list WHERE schema = 'main'"));
    while (rows.step() == SQLITE_ROW) {
      listed_[rows.text(0)] = {rows.text(1), rows.integer(2) != 0, rows.integer(3) != 0};
    }
    return {};
  }

  Status readCollations() {
    ITERANDUM_ASSIGN(SqliteStatement rows, handle_.prepare("SELECT name FROM pragma_collation_list"));
    while (rows.step() == SQLITE_ROW) collations_.insert(upper(rows.text(0)));
    return {};
  }

  Table readTable(const SchemaEntry& entry, TableQuestions& questions) {
    Table table;
    table.name.name = entry.name;
    ListedTable listed = listed_[entry.name];
    listed.indexed = indexed_.contains(upper(entry.name));
    setKind(table, entry, listed);
    if (Status status = TableReader(handle_, questions, collations_, listed, table).read(entry.sql); !status) {
      table.unusable = status.error().engineWords.empty() ? status.error().message : status.error().engineWords;
    } else if (table.kind == TableKind::View || table.kind == TableKind::VirtualTable) {
      // What is wrong with a view or a module shows only when it is used.
      if (auto probe = handle_.prepare("SELECT * FROM " + quoteIdentifier(entry.name) + " LIMIT 0"); !probe) {
        table.unusable = probe.error().engineWords;
      }
    }
    if (!table.unusable.empty()) table.notEditable = "it cannot be read: " + table.unusable;
    for (const SchemaEntry* e : triggersOf(entry.name)) table.triggers.push_back({e->name, e->sql});
    if (table.kind == TableKind::View && table.unusable.empty()) describeView(table);
    return table;
  }

  [[nodiscard]] std::vector<const SchemaEntry*> triggersOf(const std::string& table) const {
    const auto found = triggers_.find(upper(table));
    return found == triggers_.end() ? std::vector<const SchemaEntry*>() : found->second;
  }

  static void setKind(Table& table, const SchemaEntry& entry, const ListedTable& listed) {
    if (entry.type == "view") {
      table.kind = TableKind::View;
    } else if (entry.name.starts_with("sqlite_")) {
      table.kind = TableKind::Internal;
      table.notEditable = "the database keeps its own accounts in it";
    } else if (listed.type == "shadow") {
      table.kind = TableKind::Internal;
      table.notEditable = "it belongs to a virtual table, which looks after it itself";
    } else if (listed.type == "virtual") {
      table.kind = TableKind::VirtualTable;
      table.notEditable =
          "it is a virtual table: an extension of the database holds its records, and they are only shown";
    }
  }

  void describeView(Table& table) const {
    bool edit = false;
    bool add = false;
    bool remove = false;
    std::set<std::string> editable;
    for (const SchemaEntry* e : triggersOf(table.name.name)) {
      const InsteadOfTrigger trigger = insteadOfTrigger(e->sql);
      add = add || trigger.event == InsteadOfTrigger::Event::Insert;
      remove = remove || trigger.event == InsteadOfTrigger::Event::Delete;
      if (trigger.event != InsteadOfTrigger::Event::Update) continue;
      edit = true;
      for (const Column& c : table.columns) {
        const bool named = std::any_of(trigger.updateOf.begin(), trigger.updateOf.end(),
                                       [&](const std::string& n) { return same(n, c.name.c_str()); });
        if (trigger.updateOf.empty() || named) editable.insert(c.name);
      }
    }
    const std::string reason = "it is a view, and no INSTEAD OF trigger says what ";
    if (!edit && !add && !remove) table.notEditable = reason + "a change to it would mean";
    if (!edit) table.cannotEdit = reason + "an edit would mean";
    if (!add) table.cannotAdd = reason + "an addition would mean";
    if (!remove) table.cannotRemove = reason + "a removal would mean";
    for (Column& c : table.columns) {
      if (edit && !editable.contains(c.name)) c.notEditable = "the view's trigger does not take it";
    }
    table.writesNotCounted = true;
  }

  static void resolveReferences(std::vector<Table>& tables) {
    std::map<std::string, const Table*> byName;
    for (const Table& t : tables) byName[upper(t.name.name)] = &t;
    for (Table& table : tables) {
      for (Reference& reference : table.references) {
        const auto target = byName.find(upper(reference.target.name));
        if (target == byName.end()) {
          reference.targetMissing = true;
          continue;
        }
        const Table& parent = *target->second;
        reference.target = parent.name;
        if (reference.targetColumns.empty() && parent.primaryKey() != nullptr) {
          for (const std::size_t c : parent.primaryKey()->columns) {
            reference.targetColumns.push_back(parent.columns[c].name);
          }
        }
        for (std::string& name : reference.targetColumns) {
          const auto column = std::find_if(parent.columns.begin(), parent.columns.end(),
                                           [&](const Column& c) { return same(c.name, name.c_str()); });
          if (column == parent.columns.end()) {
            reference.targetMissing = true;
          } else {
            name = column->name;
          }
        }
        if (reference.targetColumns.size() != reference.columns.size()) reference.targetMissing = true;
      }
    }
  }

  SqliteHandle& handle_;
  std::vector<SchemaEntry> schema_;
  // Of tables by their names in large letters.
  std::map<std::string, std::vector<const SchemaEntry*>> triggers_;
  std::set<std::string> indexed_;
  std::map<std::string, ListedTable> listed_;
  std::set<std::string> collations_;
};

}  // namespace

Result<Catalogue> readSqliteCatalogue(SqliteHandle& handle) { return CatalogueReader(handle).read(); }

}  // namespace iterandum
