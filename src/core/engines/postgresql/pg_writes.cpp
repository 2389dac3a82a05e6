// The PostgreSQL engine: what a transaction has written besides. The server counts by table what every transaction
// does; which records those are can be read from the transaction that made each of them (its xmin), which is still
// under way.
#include <map>

#include "core/engines/postgresql/pg_session.h"
#include "core/engines/postgresql/pg_types.h"

namespace iterandum {
namespace {

// A larger table is not read whole for the sake of a few records.
constexpr std::int64_t kMostBytesRead = 512LL << 20U;

// Partitions count as the table that they are part of.
constexpr const char* kCounts =
    "SELECT n.nspname, c.relname, pg_catalog.sum(pg_catalog.pg_stat_get_xact_tuples_inserted(s.oid) + "
    "pg_catalog.pg_stat_get_xact_tuples_updated(s.oid) + pg_catalog.pg_stat_get_xact_tuples_deleted(s.oid))::bigint, "
    "pg_catalog.sum(pg_catalog.pg_stat_get_xact_tuples_deleted(s.oid))::bigint, "
    "pg_catalog.sum(pg_catalog.pg_relation_size(s.oid::regclass))::bigint "
    "FROM pg_catalog.pg_class s JOIN pg_catalog.pg_class c ON c.oid = coalesce(CASE WHEN s.relispartition THEN "
    "pg_catalog.pg_partition_root(s.oid::regclass)::oid END, s.oid) "
    "JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace "
    "WHERE s.relkind = 'r' AND pg_catalog.pg_stat_get_xact_tuples_inserted(s.oid) + "
    "pg_catalog.pg_stat_get_xact_tuples_updated(s.oid) + pg_catalog.pg_stat_get_xact_tuples_deleted(s.oid) > 0 "
    "AND n.nspname <> 'pg_catalog' GROUP BY 1, 2";

}  // namespace

// The server reports what it counts now and then only: earlier transactions of the session may be among it.
Status PgSession::noteWrites(const Catalogue&, bool, Progress& progress) {
  ITERANDUM_ASSIGN(const PgResult counts, handle_->query(pgHardened(kCounts), {}, progress));
  countedBefore_.clear();
  for (int r = 0; r < counts.rows(); ++r) {
    countedBefore_[{counts.string(r, 0), counts.string(r, 1)}] = {counts.integer(r, 2), counts.integer(r, 3)};
  }
  return {};
}

void PgSession::countWritten(const WriteStep& step, std::int64_t records) {
  Written& own = written_[step.table];
  own.records += records;
  if (step.kind == WriteStep::Kind::Remove) own.removed += records;
}

Status PgSession::readWritten(TableWrites& writes, std::uint64_t most, Progress& progress) {
  writes.keyColumns = writes.table->writeKeyColumns();
  writes.keys.resize(writes.keyColumns.size());
  if (writes.keyColumns.empty()) {
    writes.untold = "its records have no names";
    return {};
  }
  std::string columns;
  for (const std::string& name : writes.keyColumns) columns += (columns.empty() ? "t." : ", t.") + pgIdentifier(name);
  // A transaction under way whose records are seen is this one, with all of its parts.
  const std::string sql =
      "SELECT " + columns + " FROM " + pgTable(*writes.table) +
      pgHardened(
          " AS t, (SELECT pg_catalog.txid_current_if_assigned() AS own) AS o "
          "WHERE CASE WHEN pg_catalog.age(t.xmin) <= 0 THEN pg_catalog.txid_status(o.own + "
          "pg_catalog.age((o.own % 4294967296)::text::xid) - pg_catalog.age(t.xmin)) = 'in progress' ELSE false END "
          "LIMIT ") +
      std::to_string(most + 1);
  ITERANDUM_TRY(handle_->run("SAVEPOINT iterandum_writes", progress));
  auto rows = handle_->query(sql, {}, progress);
  if (!rows) {
    if (rows.error().kind == ErrorKind::Cancelled || !handle_->isAlive()) return fail(std::move(rows.error()));
    writes.untold = "its records cannot be looked at: " + rows.error().message;
    return handle_->run("ROLLBACK TO iterandum_writes; RELEASE iterandum_writes", progress);
  }
  for (int r = 0; r < rows->rows() && static_cast<std::uint64_t>(r) < most; ++r) {
    for (int c = 0; c < rows->columns(); ++c) {
      writes.keys[static_cast<std::size_t>(c)].push(rows->isNull(r, c) ? Value()
                                                                       : pgValue(rows->type(c), rows->text(r, c)));
    }
  }
  if (static_cast<std::uint64_t>(rows->rows()) > most) writes.untold = "there are more than can be listed";
  return handle_->run("RELEASE iterandum_writes", progress);
}

Result<std::optional<std::vector<TableWrites>>> PgSession::writesSoFar(const Catalogue& catalogue, std::uint64_t most,
                                                                       Progress& progress) {
  std::map<std::pair<std::string, std::string>, const Table*> tables;
  for (const Table& table : catalogue.tables()) tables[{table.homeSchema, table.name.name}] = &table;
  ITERANDUM_ASSIGN(const PgResult counts, handle_->query(pgHardened(kCounts), {}, progress));
  std::vector<TableWrites> out;
  for (int r = 0; r < counts.rows(); ++r) {
    TableWrites writes;
    writes.name = {counts.string(r, 0), counts.string(r, 1)};
    const auto known = tables.find({counts.string(r, 0), counts.string(r, 1)});
    if (known != tables.end()) {
      writes.table = known->second;
      writes.name = known->second->name;
    }
    const auto own = written_.find(writes.table);
    Written mine = writes.table == nullptr || own == written_.end() ? Written() : own->second;
    const auto earlier = countedBefore_.find({counts.string(r, 0), counts.string(r, 1)});
    if (earlier != countedBefore_.end()) {
      mine.records += earlier->second.records;
      mine.removed += earlier->second.removed;
    }
    // What failed and was undone is counted by the server: rather looked at once too often.
    if (counts.integer(r, 2) <= mine.records) continue;
    writes.removed = static_cast<std::uint64_t>(std::max<std::int64_t>(0, counts.integer(r, 3) - mine.removed));
    if (writes.table == nullptr) {
      writes.untold = "this table is not among those that can be looked at";
    } else if (counts.integer(r, 4) > kMostBytesRead) {
      writes.untold = "the table is too large to be looked through for them";
    } else {
      ITERANDUM_TRY(readWritten(writes, most, progress));
    }
    if (!writes.untold.empty()) {
      const std::int64_t more = counts.integer(r, 2) - mine.records;
      writes.untold = std::to_string(more) +
                      (more == 1 ? " write to it was counted; " : " writes to it were counted; ") + writes.untold;
    }
    out.push_back(std::move(writes));
  }
  return std::optional(std::move(out));
}

}  // namespace iterandum
