// What a MariaDB database holds, from information_schema: a handful of queries, however many tables there are. Each of
// them opens every table that it speaks of, unless it is bound to a schema by a plain comparison; a join of two
// compares all rows with all. So none is joined here, and none looks beyond the connection's own database, where it has
// one.
#include <algorithm>
#include <map>

#include "core/engines/common/rule_reader.h"
#include "core/engines/mariadb/maria_session.h"
#include "core/engines/mariadb/maria_storage.h"
#include "core/engines/mariadb/maria_types.h"

namespace iterandum {
namespace {

// A schema's name as ours: nothing for the connection's own.
constexpr const char* kSchema = "IF(TABLE_SCHEMA <=> DATABASE(), '', TABLE_SCHEMA)";

ReferenceAction actionOf(std::string_view rule) {
  if (rule == "RESTRICT") return ReferenceAction::Restrict;
  if (rule == "CASCADE") return ReferenceAction::Cascade;
  if (rule == "SET NULL") return ReferenceAction::SetNull;
  return rule == "SET DEFAULT" ? ReferenceAction::SetDefault : ReferenceAction::NoAction;
}

// Whether the server takes other texts for equal than those that are, such as 'a' and 'A'.
bool comparesLoosely(const Column& column) { return isMariaText(column) && !column.engineType.ends_with("_bin"); }

class CatalogueReader {
 public:
  CatalogueReader(MariaHandle& handle, Progress& progress) : handle_(handle), progress_(progress) {}

  Result<Catalogue> read() {
    ITERANDUM_TRY(readTables());
    ITERANDUM_TRY(readColumns());
    ITERANDUM_TRY(readIndexes());
    ITERANDUM_TRY(readReferences());
    ITERANDUM_TRY(readChecks());
    ITERANDUM_TRY(readTriggers());
    ITERANDUM_ASSIGN(const StayingStorage staying, readStayingStorage(handle_, progress_));
    for (Table& table : tables_) {
      finish(table);
      table.cannotRollBack = staying.reaches(table.homeSchema, table.name.name);
    }
    return Catalogue(std::move(tables_), defaultSchema_);
  }

 private:
  Status each(const std::string& sql, const std::function<void(const MariaRow&)>& take) {
    return handle_.each(sql, take, progress_);
  }

  // The database of the connection; where none was named, all that are not the server's own.
  [[nodiscard]] std::string isOurs(const std::string& schemaColumn) const {
    return schemaColumn + (defaultSchema_.empty()
                               ? " NOT IN ('mysql', 'information_schema', 'performance_schema', 'sys')"
                               : " = DATABASE()");
  }

  // The table that a row names in its first two columns.
  Table* tableOf(const MariaRow& row) {
    const auto at = byName_.find({row.string(0), row.string(1)});
    return at == byName_.end() ? nullptr : &tables_[at->second];
  }

  Status readTables() {
    ITERANDUM_TRY(
        each("SELECT coalesce(DATABASE(), '')", [&](const MariaRow& row) { defaultSchema_ = row.string(0); }));
    std::map<TableName, bool> views;  // and whether they take changes
    ITERANDUM_TRY(each(std::string("SELECT ") + kSchema +
                           ", TABLE_NAME, IS_UPDATABLE FROM information_schema.VIEWS WHERE " + isOurs("TABLE_SCHEMA"),
                       [&](const MariaRow& row) {
                         if (!row.isNull(2))
                           views.emplace(TableName{row.string(0), row.string(1)}, row.text(2) != "NO");
                       }));
    return each(std::string("SELECT ") + kSchema +
                    ", TABLE_NAME, TABLE_TYPE, TABLE_SCHEMA, TABLE_COMMENT FROM information_schema.TABLES WHERE " +
                    isOurs("TABLE_SCHEMA") + " AND TABLE_TYPE <> 'SEQUENCE' ORDER BY 1, 2",
                [&](const MariaRow& row) {
                  Table table;
                  table.name = {row.string(0), row.string(1)};
                  table.homeSchema = row.string(3);
                  if (row.text(2) == "VIEW") {
                    table.kind = TableKind::View;
                    const auto view = views.find(table.name);
                    if (view != views.end() && !view->second) {
                      table.notEditable = "it is a view, and its query does not say what a change to it would mean";
                    }
                    if (view == views.end() || row.text(4).find("references invalid") != std::string_view::npos) {
                      table.unusable = "the view does not work: " + row.string(4);
                    }
                  } else {
                    table.comment = row.string(4);
                  }
                  byName_[table.name] = tables_.size();
                  tables_.push_back(std::move(table));
                });
  }

  Status readColumns() {
    return each(std::string("SELECT ") + kSchema +
                    ", TABLE_NAME, COLUMN_NAME, COLUMN_DEFAULT, IS_NULLABLE, DATA_TYPE, COLUMN_TYPE, "
                    "CHARACTER_MAXIMUM_LENGTH, NUMERIC_PRECISION, NUMERIC_SCALE, CHARACTER_SET_NAME, COLLATION_NAME, "
                    "EXTRA, PRIVILEGES, IS_GENERATED, COLUMN_COMMENT FROM information_schema.COLUMNS WHERE " +
                    isOurs("TABLE_SCHEMA") + " ORDER BY TABLE_SCHEMA, TABLE_NAME, ORDINAL_POSITION",
                [&](const MariaRow& row) {
                  Table* table = tableOf(row);
                  if (table == nullptr) return;
                  table->columns.push_back(columnOf(row, *table));
                  collations_[table].push_back(row.string(11));
                });
  }

  static Column columnOf(const MariaRow& row, Table& table) {
    Column column;
    column.name = row.string(2);
    MariaType type;
    type.name = row.string(5);
    type.full = row.string(6);
    type.characters = row.integer(7);
    type.digits = static_cast<int>(row.integer(8));
    type.decimals = static_cast<int>(row.integer(9));
    type.charset = row.string(10);
    type.collation = row.string(11);
    describeMariaType(column, type);
    column.foundExactly = !isMariaText(column) && column.type != TypeClass::Real;
    column.comment = row.string(15);
    column.nullable = row.text(4) == "YES";
    column.hasDefault = !row.isNull(3);
    column.defaultExpression = row.text(3) == "NULL" ? "" : row.string(3);
    const std::string extra = row.string(12);
    column.computed = row.text(14) == "ALWAYS";
    column.generatedKey = extra.find("auto_increment") != std::string::npos;
    column.numbersStayUsedUp = column.generatedKey;
    const std::string_view rights = row.text(13);
    if (column.computed) {
      column.notEditable = "the database computes it";
    } else if (rights.find("update") == std::string_view::npos) {
      column.notEditable = "you have no right to change it";
    }
    if (rights.find("select") == std::string_view::npos) {
      table.unusable = "you have no right to read its column " + quotedIfOdd(column.name);
    }
    return column;
  }

  Status readIndexes() {
    std::map<std::pair<Table*, std::string>, std::size_t> keyAt;
    std::map<Table*, std::vector<std::pair<UniqueKey, bool>>> keys;  // and whether it is unique
    std::map<Table*, std::vector<bool>> plain;
    ITERANDUM_TRY(each(std::string("SELECT ") + kSchema +
                           ", TABLE_NAME, INDEX_NAME, NON_UNIQUE, COLUMN_NAME, SUB_PART, INDEX_TYPE FROM "
                           "information_schema.STATISTICS WHERE " +
                           isOurs("TABLE_SCHEMA") +
                           " ORDER BY TABLE_SCHEMA, TABLE_NAME, INDEX_NAME <> 'PRIMARY', INDEX_NAME, SEQ_IN_INDEX",
                       [&](const MariaRow& row) {
                         Table* table = tableOf(row);
                         if (table == nullptr) return;
                         auto& list = keys[table];
                         const auto [at, isNew] = keyAt.try_emplace({table, row.string(2)}, list.size());
                         if (isNew) {
                           list.emplace_back();
                           plain[table].push_back(true);
                           list.back().first.name = row.string(2);
                           list.back().first.primary = row.text(2) == "PRIMARY";
                           list.back().second = row.text(3) == "0";
                         }
                         const auto column = table->columnIndex(row.text(4));
                         const bool whole = row.isNull(5) && (row.text(6) == "BTREE" || row.text(6) == "HASH");
                         if (!column || !whole) plain[table][at->second] = false;
                         if (!column) return;
                         list[at->second].first.columns.push_back(*column);
                         list[at->second].first.collations.push_back(collations_[table][*column]);
                       }));
    for (auto& [table, list] : keys) {
      for (std::size_t i = 0; i < list.size(); ++i) {
        if (!plain[table][i]) continue;
        table->indexes.push_back(list[i].first.columns);
        if (list[i].second) table->keys.push_back(std::move(list[i].first));
      }
    }
    return {};
  }

  Status readReferences() {
    std::map<std::pair<Table*, std::string>, std::pair<ReferenceAction, ReferenceAction>> rules;
    ITERANDUM_TRY(each(
        "SELECT IF(CONSTRAINT_SCHEMA <=> DATABASE(), '', CONSTRAINT_SCHEMA), TABLE_NAME, CONSTRAINT_NAME, UPDATE_RULE, "
        "DELETE_RULE FROM information_schema.REFERENTIAL_CONSTRAINTS WHERE " +
            isOurs("CONSTRAINT_SCHEMA"),
        [&](const MariaRow& row) {
          Table* table = tableOf(row);
          if (table != nullptr) rules[{table, row.string(2)}] = {actionOf(row.text(3)), actionOf(row.text(4))};
        }));
    if (rules.empty()) return {};
    return each(std::string("SELECT ") + kSchema +
                    ", TABLE_NAME, CONSTRAINT_NAME, COLUMN_NAME, IF(REFERENCED_TABLE_SCHEMA <=> DATABASE(), '', "
                    "REFERENCED_TABLE_SCHEMA), REFERENCED_TABLE_NAME, REFERENCED_COLUMN_NAME FROM "
                    "information_schema.KEY_COLUMN_USAGE WHERE " +
                    isOurs("TABLE_SCHEMA") +
                    " AND REFERENCED_TABLE_NAME IS NOT NULL ORDER BY TABLE_SCHEMA, TABLE_NAME, CONSTRAINT_NAME, "
                    "ORDINAL_POSITION",
                [&](const MariaRow& row) {
                  Table* table = tableOf(row);
                  const auto rule = rules.find({table, row.string(2)});
                  if (table == nullptr || rule == rules.end()) return;
                  if (table->references.empty() || table->references.back().name != row.text(2)) {
                    Reference reference;
                    reference.name = row.string(2);
                    reference.target = {row.string(4), row.string(5)};
                    reference.targetMissing = byName_.count(reference.target) == 0;
                    reference.onUpdate = rule->second.first;
                    reference.onDelete = rule->second.second;
                    table->references.push_back(std::move(reference));
                  }
                  Reference& reference = table->references.back();
                  if (const auto column = table->columnIndex(row.text(3))) reference.columns.push_back(*column);
                  reference.targetColumns.push_back(row.string(6));
                });
  }

  Status readChecks() {
    static const RuleLanguage kLanguage{{false, true}, {"char_length", "character_length"}, comparesLoosely};
    return each(
        "SELECT IF(CONSTRAINT_SCHEMA <=> DATABASE(), '', CONSTRAINT_SCHEMA), TABLE_NAME, CONSTRAINT_NAME, CHECK_CLAUSE "
        "FROM information_schema.CHECK_CONSTRAINTS WHERE " +
            isOurs("CONSTRAINT_SCHEMA") + " ORDER BY 1, 2, 3",
        [&](const MariaRow& row) {
          Table* table = tableOf(row);
          if (table == nullptr) return;
          CheckRule rule;
          rule.name = row.string(2);
          rule.expression = row.string(3);
          learnFromRule(rule, table->columns, kLanguage);
          table->checks.push_back(std::move(rule));
        });
  }

  Status readTriggers() {
    return each(
        "SELECT IF(EVENT_OBJECT_SCHEMA <=> DATABASE(), '', EVENT_OBJECT_SCHEMA), EVENT_OBJECT_TABLE, TRIGGER_NAME, "
        "ACTION_STATEMENT FROM information_schema.TRIGGERS WHERE " +
            isOurs("EVENT_OBJECT_SCHEMA") + " ORDER BY 1, 2, 3",
        [&](const MariaRow& row) {
          Table* table = tableOf(row);
          if (table != nullptr) table->triggers.push_back({row.string(2), row.string(3)});
        });
  }

  static void finish(Table& table) {
    using Kind = Identity::Kind;
    for (const UniqueKey& key : table.keys) {
      const bool complete = std::none_of(key.columns.begin(), key.columns.end(),
                                         [&](std::size_t c) { return table.columns[c].nullable; });
      if (!complete) continue;
      table.identity = {key.primary ? Kind::PrimaryKey : Kind::UniqueKey, table.columnNames(key.columns)};
      return;
    }
    table.identity.kind = Kind::WholeRecord;
    for (const Column& c : table.columns) table.identity.columns.push_back(c.name);
    if (table.columns.empty() && table.unusable.empty()) table.unusable = "you have no right to read it";
  }

  MariaHandle& handle_;
  Progress& progress_;
  std::string defaultSchema_;
  std::vector<Table> tables_;
  std::map<TableName, std::size_t> byName_;
  std::map<const Table*, std::vector<std::string>> collations_;  // by column
};

}  // namespace

Result<Catalogue> readMariaCatalogue(MariaHandle& handle, Progress& progress) {
  return CatalogueReader(handle, progress).read();
}

}  // namespace iterandum
