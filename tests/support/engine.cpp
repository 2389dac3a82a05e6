#include "support/engine.h"

#include <algorithm>
#include <cstdlib>
#include <regex>
#include <stdexcept>

#include "core/engines/common/address.h"
#include "core/engines/mariadb/maria_handle.h"
#include "core/engines/mariadb/maria_types.h"
#include "core/engines/postgresql/pg_handle.h"
#include "core/engines/postgresql/pg_types.h"
#include "core/engines/sqlite/sqlite_handle.h"
#include "core/value/decimal.h"

namespace iterandum::test {
namespace {

void require(bool condition, const std::string& message) {
  if (!condition) throw std::runtime_error(message);
}

class OtherSqlite : public OtherConnection {
 public:
  explicit OtherSqlite(std::string path) : path_(std::move(path)) {
    auto handle = SqliteHandle::open(path_, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE);
    require(handle.has_value(), "cannot make the database");
    handle_ = std::move(*handle);
    run("PRAGMA synchronous = OFF");
  }
  [[nodiscard]] std::string address() const override { return path_; }
  void run(const std::string& sql) override {
    const Status status = handle_->run(sql);
    require(status.has_value(), status ? "" : status.error().message + " in " + sql);
  }
  [[nodiscard]] std::vector<ValueTuple> rows(const std::string& sql) override {
    auto statement = handle_->prepare(sql);
    require(statement.has_value(), statement ? "" : statement.error().message + " in " + sql);
    std::vector<ValueTuple> out;
    while (statement->step() == SQLITE_ROW) {
      ValueTuple row;
      for (int c = 0; c < statement->columns(); ++c) row.push_back(statement->value(c));
      out.push_back(std::move(row));
    }
    return out;
  }
  [[nodiscard]] std::string dump() override {
    std::string out;
    for (const ValueTuple& table : rows("SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE "
                                        "'sqlite_%' ORDER BY name")) {
      const std::string name = canonicalText(table[0]);
      const std::string select = rowsText(
          rows("SELECT group_concat('quote(\"' || name || '\")', ',') FROM pragma_table_xinfo('" + name + "')"));
      out += name + ":\n" + rowsText(rows("SELECT " + select + " FROM \"" + name + "\" ORDER BY " + select)) + "\n";
    }
    return out;
  }
  void empty() override {
    for (const ValueTuple& table : rows("SELECT name FROM sqlite_schema WHERE type = 'table'")) {
      run("PRAGMA foreign_keys = OFF; DROP TABLE \"" + canonicalText(table[0]) + "\"");
    }
  }

 private:
  std::string path_;
  std::unique_ptr<SqliteHandle> handle_;
};

std::unique_ptr<PgHandle> connectPostgreSql(const std::string& database) {
  const char* server = std::getenv("ITERANDUM_TEST_POSTGRESQL");
  require(server != nullptr, "ITERANDUM_TEST_POSTGRESQL is not set");
  Progress progress;
  char* words = nullptr;
  PQconninfoOption* options = PQconninfoParse((std::string(server) + "/" + database).c_str(), &words);
  require(options != nullptr, "ITERANDUM_TEST_POSTGRESQL is no address");
  std::vector<std::pair<std::string, std::string>> parameters{{"options", "-c client_min_messages=error"}};
  for (const PQconninfoOption* o = options; o->keyword != nullptr; ++o) {
    if (o->val != nullptr) parameters.emplace_back(o->keyword, o->val);
  }
  PQconninfoFree(options);
  auto handle = PgHandle::open(parameters, progress);
  require(handle.has_value(), handle ? "" : handle.error().message);
  return std::move(*handle);
}

class OtherPostgreSql : public OtherConnection {
 public:
  OtherPostgreSql() : admin_(connectPostgreSql("postgres")) {
    static int number = 0;
    name_ = "test_" + std::to_string(getpid()) + "_" + std::to_string(++number);
    runOn(*admin_, "CREATE DATABASE " + name_);
    handle_ = connectPostgreSql(name_);
  }
  ~OtherPostgreSql() override {
    handle_.reset();
    Progress progress;
    (void)admin_->run("DROP DATABASE " + name_ + " WITH (FORCE)", progress);
  }
  OtherPostgreSql(const OtherPostgreSql&) = delete;
  OtherPostgreSql& operator=(const OtherPostgreSql&) = delete;

  [[nodiscard]] std::string address() const override {
    return std::string(std::getenv("ITERANDUM_TEST_POSTGRESQL")) + "/" + name_;
  }
  void run(const std::string& sql) override { runOn(*handle_, sql); }
  [[nodiscard]] std::vector<ValueTuple> rows(const std::string& sql) override {
    Progress progress;
    auto result = handle_->query(sql, {}, progress);
    require(result.has_value(), result ? "" : result.error().message + " in " + sql);
    std::vector<ValueTuple> out;
    for (int r = 0; r < result->rows(); ++r) {
      ValueTuple row;
      for (int c = 0; c < result->columns(); ++c) {
        row.push_back(result->isNull(r, c) ? Value() : pgValue(result->type(c), result->text(r, c)));
      }
      out.push_back(std::move(row));
    }
    return out;
  }
  [[nodiscard]] std::string dump() override {
    std::string out;
    for (const ValueTuple& table : rows("SELECT quote_ident(relname) FROM pg_class WHERE relkind IN ('r', 'p') AND "
                                        "relnamespace = 'public'::regnamespace ORDER BY relname")) {
      const std::string name = canonicalText(table[0]);
      out += name + ":\n" + rowsText(rows("SELECT t::text FROM " + name + " t ORDER BY t::text COLLATE \"C\"")) + "\n";
    }
    return out;
  }
  void empty() override { run("DROP SCHEMA public CASCADE; CREATE SCHEMA public"); }

 private:
  static void runOn(PgHandle& handle, const std::string& sql) {
    Progress progress;
    const Status status = handle.run(sql, progress);
    require(status.has_value(), status ? "" : status.error().message + " in " + sql);
  }
  std::unique_ptr<PgHandle> admin_;
  std::string name_;
  std::unique_ptr<PgHandle> handle_;
};

std::unique_ptr<MariaHandle> connectMariaDb(const std::string& server, const std::string& database) {
  const auto parts = serverAddress(server);
  require(parts.has_value(), "the server's address is none");
  MariaConnect how;
  how.user = parts->user;
  how.hosts = {{parts->hosts[0].name, static_cast<unsigned>(std::stoul(parts->hosts[0].port))}};
  how.database = database;
  Progress progress;
  auto handle = MariaHandle::open(how, progress);
  require(handle.has_value(), handle ? "" : handle.error().message);
  (*handle)->setMostBytes(64U << 20U);
  require((*handle)->run("SET time_zone = '+00:00', innodb_lock_wait_timeout = 20", progress).has_value(), "settings");
  return std::move(*handle);
}

class OtherMariaDb : public OtherConnection {
 public:
  explicit OtherMariaDb(const std::string& server) : server_(server), handle_(connectMariaDb(server, "")) {
    static int number = 0;
    name_ = "test_" + std::to_string(getpid()) + "_" + std::to_string(++number);
    run("CREATE DATABASE " + name_ + " CHARACTER SET utf8mb4; USE " + name_);
  }
  ~OtherMariaDb() override { drop(); }
  OtherMariaDb(const OtherMariaDb&) = delete;
  OtherMariaDb& operator=(const OtherMariaDb&) = delete;

  [[nodiscard]] std::string address() const override { return server_ + "/" + name_; }
  void run(const std::string& sql) override { (void)rows(sql); }
  [[nodiscard]] std::vector<ValueTuple> rows(const std::string& sql) override {
    Progress progress;
    std::vector<ValueTuple> out;
    // The word is reserved on this engine alone.
    static const std::regex kReserved("\\bcondition\\b");
    auto done = handle_->run(
        std::regex_replace(sql, kReserved, "`condition`"),
        [&](const MariaRow& row) {
          ValueTuple tuple;
          for (unsigned c = 0; c < row.columns(); ++c) {
            tuple.push_back(row.isNull(c) ? Value() : mariaValue(row.field(c), row.text(c), nullptr));
          }
          out.push_back(std::move(tuple));
          return true;
        },
        progress);
    require(done.has_value(), done ? "" : done.error().message + " in " + sql);
    return out;
  }
  [[nodiscard]] std::string dump() override {
    std::string out;
    for (const ValueTuple& table : rows("SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = "
                                        "DATABASE() AND TABLE_TYPE <> 'VIEW' ORDER BY TABLE_NAME")) {
      const std::string name = canonicalText(table[0]);
      std::vector<std::string> lines;
      for (const ValueTuple& row : rows("SELECT * FROM `" + name + "`")) lines.push_back(rowsText({row}));
      std::sort(lines.begin(), lines.end());
      out += name + ":\n";
      for (const std::string& line : lines) out += line + "\n";
    }
    return out;
  }
  void empty() override {
    drop();
    run("CREATE DATABASE " + name_ + " CHARACTER SET utf8mb4; USE " + name_);
  }

 private:
  void drop() {
    Progress progress;
    // Whoever still waits for a lock there is in the way.
    (void)handle_->run("SET foreign_key_checks = 0; DROP DATABASE " + name_ + "; SET foreign_key_checks = 1", progress);
  }
  std::string server_;
  std::unique_ptr<MariaHandle> handle_;
  std::string name_;
};

constexpr const char* kMariaDbRegister = R"sql(
CREATE TABLE species (species_id integer PRIMARY KEY AUTO_INCREMENT, name varchar(60) NOT NULL UNIQUE) AUTO_INCREMENT = 4;
CREATE TABLE tree (
  tree_id integer PRIMARY KEY AUTO_INCREMENT,
  tag varchar(8) NOT NULL UNIQUE,
  species_id integer NOT NULL,
  condition integer CHECK (condition BETWEEN 0 AND 5),
  height decimal(5,2),
  note text,
  stamped text,
  double_height double GENERATED ALWAYS AS (height * 2) STORED,
  FOREIGN KEY (species_id) REFERENCES species (species_id) ON DELETE RESTRICT
) AUTO_INCREMENT = 10;
CREATE TRIGGER stamp BEFORE UPDATE ON tree FOR EACH ROW
  SET NEW.stamped = IF(NEW.condition <=> OLD.condition, NEW.stamped, 'stamped');
CREATE TABLE inspection (
  tree_id integer NOT NULL,
  inspected_on date NOT NULL,
  grade varchar(10) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT 'unknown'
    CHECK (grade IN ('sound', 'poor', 'unknown')),
  PRIMARY KEY (tree_id, inspected_on),
  FOREIGN KEY (tree_id) REFERENCES tree (tree_id) ON DELETE CASCADE
);
CREATE TABLE photo (
  photo_id integer PRIMARY KEY AUTO_INCREMENT,
  tree_id integer, caption text,
  FOREIGN KEY (tree_id) REFERENCES tree (tree_id) ON DELETE SET NULL) AUTO_INCREMENT = 3;
CREATE TABLE log (line text, message text);
)sql";

constexpr const char* kPostgreSqlRegister = R"sql(
CREATE TABLE species (
  species_id integer GENERATED BY DEFAULT AS IDENTITY (START WITH 4) PRIMARY KEY, name text NOT NULL UNIQUE);
CREATE TABLE tree (
  tree_id integer GENERATED BY DEFAULT AS IDENTITY (START WITH 10) PRIMARY KEY,
  tag varchar(8) NOT NULL UNIQUE,
  species_id integer NOT NULL REFERENCES species ON DELETE RESTRICT,
  condition integer CHECK (condition BETWEEN 0 AND 5),
  height numeric(5,2),
  note text,
  stamped text,
  double_height double precision GENERATED ALWAYS AS (height * 2) STORED
);
CREATE FUNCTION stamp_it() RETURNS trigger LANGUAGE plpgsql AS
  $$ BEGIN NEW.stamped := 'stamped'; RETURN NEW; END $$;
CREATE TRIGGER stamp BEFORE UPDATE OF condition ON tree FOR EACH ROW EXECUTE FUNCTION stamp_it();
CREATE TABLE inspection (
  tree_id integer NOT NULL REFERENCES tree ON DELETE CASCADE,
  inspected_on date NOT NULL,
  grade text NOT NULL DEFAULT 'unknown' CHECK (grade IN ('sound', 'poor', 'unknown')),
  PRIMARY KEY (tree_id, inspected_on)
);
CREATE TABLE photo (
  photo_id integer GENERATED BY DEFAULT AS IDENTITY (START WITH 3) PRIMARY KEY,
  tree_id integer REFERENCES tree ON DELETE SET NULL, caption text);
CREATE TABLE log (line text, message text);
)sql";
constexpr const char* kRecords = R"sql(
INSERT INTO species VALUES (1, 'lime'), (2, 'oak'), (3, 'elm');
INSERT INTO tree VALUES
  (7, 'T7', 1, 2, 12.5, 'old', NULL, DEFAULT), (8, 'T8', 1, 2, 9, NULL, NULL, DEFAULT),
  (9, 'T9', 2, 4, 20.25, '', NULL, DEFAULT);
INSERT INTO inspection VALUES (7, '2025-03-02', 'sound'), (7, '2026-03-02', 'poor'), (9, '2025-05-05', 'unknown');
INSERT INTO photo VALUES (1, 7, 'crown'), (2, 9, NULL);
INSERT INTO log VALUES (1, 'taken over'), (1, 'taken over'), ('two', '2.5');
)sql";

}  // namespace

std::string engineName(Engine engine) {
  static constexpr const char* kNames[] = {"SQLite", "PostgreSQL", "MariaDB"};
  return kNames[static_cast<int>(engine)];
}

std::unique_ptr<OtherConnection> otherSqlite(const std::string& path) { return std::make_unique<OtherSqlite>(path); }
std::unique_ptr<OtherConnection> otherPostgreSql() { return std::make_unique<OtherPostgreSql>(); }
std::unique_ptr<OtherConnection> otherMariaDb(const std::string& server) {
  const char* usual = std::getenv("ITERANDUM_TEST_MARIADB");
  require(!server.empty() || usual != nullptr, "ITERANDUM_TEST_MARIADB is not set");
  return std::make_unique<OtherMariaDb>(server.empty() ? usual : server);
}

std::string rowsText(const std::vector<ValueTuple>& rows) {
  std::string out;
  for (std::size_t r = 0; r < rows.size(); ++r) {
    if (r > 0) out += "\n";
    for (std::size_t c = 0; c < rows[r].size(); ++c) {
      const Value& v = rows[r][c];
      const std::string text = v.kind() == Value::Kind::Decimal ? normalDecimal(v.asString()) : canonicalText(v);
      out += (c ? "|" : "") + (v.isNull() ? std::string("-") : text);
    }
  }
  return out;
}

std::vector<Engine> enginesAtHand() {
  std::vector<Engine> out{Engine::Sqlite};
  if (std::getenv("ITERANDUM_TEST_POSTGRESQL") != nullptr) out.push_back(Engine::PostgreSql);
  if (std::getenv("ITERANDUM_TEST_MARIADB") != nullptr) out.push_back(Engine::MariaDb);
  return out;
}

std::vector<Engine> serversAtHand() {
  std::vector<Engine> out = enginesAtHand();
  std::erase(out, Engine::Sqlite);
  return out;
}

std::string smallRegister(Engine engine) {
  if (engine == Engine::Sqlite) return kSmallRegister;
  return std::string(engine == Engine::PostgreSql ? kPostgreSqlRegister : kMariaDbRegister) + kRecords;
}

const char* const kSmallRegister = R"sql(
CREATE TABLE species (species_id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE tree (
  tree_id INTEGER PRIMARY KEY,
  tag VARCHAR(8) NOT NULL UNIQUE,
  species_id INTEGER NOT NULL REFERENCES species ON DELETE RESTRICT,
  condition INTEGER CHECK (condition BETWEEN 0 AND 5),
  height DECIMAL(5,2),
  note TEXT,
  stamped TEXT,
  double_height REAL GENERATED ALWAYS AS (height * 2) VIRTUAL
);
CREATE TRIGGER stamp AFTER UPDATE OF condition ON tree BEGIN
  UPDATE tree SET stamped = 'stamped' WHERE tree_id = NEW.tree_id;
END;
CREATE TABLE inspection (
  tree_id INTEGER NOT NULL REFERENCES tree ON DELETE CASCADE,
  inspected_on DATE NOT NULL,
  grade TEXT NOT NULL DEFAULT 'unknown' CHECK (grade IN ('sound', 'poor', 'unknown')),
  PRIMARY KEY (tree_id, inspected_on)
) WITHOUT ROWID;
CREATE TABLE photo (photo_id INTEGER PRIMARY KEY, tree_id INTEGER REFERENCES tree ON DELETE SET NULL, caption TEXT);
CREATE TABLE log (line, message);
INSERT INTO species VALUES (1, 'lime'), (2, 'oak'), (3, 'elm');
INSERT INTO tree (tree_id, tag, species_id, condition, height, note) VALUES
  (7, 'T7', 1, 2, 12.5, 'old'), (8, 'T8', 1, 2, 9, NULL), (9, 'T9', 2, 4, 20.25, '');
INSERT INTO inspection VALUES (7, '2025-03-02', 'sound'), (7, '2026-03-02', 'poor'), (9, '2025-05-05', 'unknown');
INSERT INTO photo VALUES (1, 7, 'crown'), (2, 9, NULL);
INSERT INTO log VALUES (1, 'taken over'), (1, 'taken over'), ('two', 2.5);
)sql";

}  // namespace iterandum::test
