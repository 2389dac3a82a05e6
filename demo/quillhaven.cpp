// quillhaven: makes the street-tree register of an invented town, for demonstrations, tests and benchmarks.
//
// Deterministic: the same size and seed give the same records on every machine. The register holds believable mistakes
// on purpose: one street spelled three ways, unknown grades, trees planted next year, empty texts beside missing ones.
#include <CLI/CLI.hpp>
#include <cstdio>
#include <random>
#include <string>

#include "core/engines/sqlite/sqlite_handle.h"
#include "register_words.h"

namespace {

using iterandum::SqliteHandle;
using iterandum::SqliteStatement;
using iterandum::Status;
using iterandum::Value;

constexpr const char* kSchema = R"sql(
CREATE TABLE district (
  district_id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  warden TEXT
);
CREATE TABLE street (
  street_id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  district_id INTEGER NOT NULL REFERENCES district ON DELETE RESTRICT
);
CREATE INDEX street_by_district ON street (district_id);
CREATE TABLE species (
  species_id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  common_name TEXT,
  tallest_m INTEGER CHECK (tallest_m BETWEEN 1 AND 60)
);
CREATE TABLE crew (
  crew_id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  lead_of INTEGER REFERENCES crew ON DELETE SET NULL
);
CREATE TABLE tree (
  tree_id INTEGER PRIMARY KEY,
  tag VARCHAR(12) NOT NULL UNIQUE,
  species_id INTEGER NOT NULL REFERENCES species ON DELETE RESTRICT,
  street_id INTEGER NOT NULL REFERENCES street ON DELETE NO ACTION,
  house_no INTEGER CHECK (house_no >= 1),
  condition_code INTEGER CHECK (condition_code BETWEEN 0 AND 5),
  girth_mm INTEGER CHECK (girth_mm > 0),
  height_m DECIMAL(5,2),
  planted DATE,
  protected BOOLEAN NOT NULL DEFAULT 0,
  watering_every_s INTEGER,
  note TEXT,
  updated_at TEXT,
  crown_area_m2 REAL GENERATED ALWAYS AS (round(height_m * height_m * 0.28, 1)) VIRTUAL
);
CREATE INDEX tree_by_species ON tree (species_id);
CREATE INDEX tree_by_street ON tree (street_id, house_no);
CREATE TRIGGER tree_stamp AFTER UPDATE OF species_id, street_id, condition_code, girth_mm, height_m, planted ON tree
BEGIN
  UPDATE tree SET updated_at = strftime('%Y-%m-%dT%H:%M:%SZ', 'now') WHERE tree_id = NEW.tree_id;
END;
CREATE TABLE inspection (
  tree_id INTEGER NOT NULL REFERENCES tree ON DELETE CASCADE,
  inspected_on DATE NOT NULL,
  crew_id INTEGER REFERENCES crew ON DELETE SET NULL,
  grade TEXT NOT NULL DEFAULT 'unknown' CHECK (grade IN ('sound', 'fair', 'poor', 'failing', 'unknown')),
  duration_s INTEGER CHECK (duration_s >= 0),
  remark TEXT,
  PRIMARY KEY (tree_id, inspected_on)
) WITHOUT ROWID;
CREATE INDEX inspection_by_crew ON inspection (crew_id);
CREATE TABLE work_order (
  order_no TEXT PRIMARY KEY NOT NULL,
  tree_id INTEGER NOT NULL REFERENCES tree ON DELETE RESTRICT,
  crew_id INTEGER REFERENCES crew ON DELETE SET DEFAULT,
  task TEXT NOT NULL,
  due DATE,
  done_at_epoch INTEGER,
  cost DECIMAL(8,2) CHECK (cost >= 0),
  CONSTRAINT done_work_has_a_cost CHECK (done_at_epoch IS NULL OR cost IS NOT NULL)
);
CREATE INDEX work_order_by_tree ON work_order (tree_id);
CREATE TABLE photo (
  photo_id INTEGER PRIMARY KEY,
  tree_id INTEGER REFERENCES tree ON DELETE SET NULL,
  taken_on DATE,
  caption TEXT,
  thumbnail BLOB
);
CREATE INDEX photo_by_tree ON photo (tree_id);
CREATE TABLE sensor_reading (
  sensor INTEGER NOT NULL,
  read_at INTEGER NOT NULL,
  tree_id INTEGER NOT NULL,
  moisture REAL,
  PRIMARY KEY (sensor, read_at)
) WITHOUT ROWID;
CREATE TABLE import_log (line INTEGER, source TEXT, message TEXT);
CREATE VIEW tree_overview AS
  SELECT t.tag, s.name AS species, st.name AS street, t.house_no, d.name AS district, t.condition_code
  FROM tree t JOIN species s USING (species_id) JOIN street st USING (street_id) JOIN district d USING (district_id);
)sql";

// The generator's own arithmetic on top of a standard engine: distributions differ between libraries.
class Dice {
 public:
  explicit Dice(unsigned seed) : engine_(seed) {}
  std::int64_t upTo(std::int64_t below) {
    return static_cast<std::int64_t>(engine_() % static_cast<std::uint64_t>(below));
  }
  bool oneIn(std::int64_t n) { return upTo(n) == 0; }
  template <typename List>
  const auto& pick(const List& list) {
    return list[static_cast<std::size_t>(upTo(static_cast<std::int64_t>(list.size())))];
  }

 private:
  std::mt19937_64 engine_;
};

std::string date(std::int64_t year, std::int64_t dayOfYear) {
  char text[16];
  std::snprintf(text, sizeof text, "%04d-%02d-%02d", static_cast<int>(year), static_cast<int>(dayOfYear / 28 % 12 + 1),
                static_cast<int>(dayOfYear % 28 + 1));
  return text;
}

class Register {
 public:
  Register(SqliteHandle& db, std::int64_t trees, unsigned seed) : db_(db), trees_(trees), dice_(seed) {}

  Status make() {
    ITERANDUM_TRY(db_.run("PRAGMA journal_mode = DELETE; PRAGMA synchronous = OFF; PRAGMA cache_size = -200000;"));
    ITERANDUM_TRY(db_.run(kSchema));
    ITERANDUM_TRY(db_.run("BEGIN"));
    ITERANDUM_TRY(places());
    ITERANDUM_TRY(trees());
    ITERANDUM_TRY(inspections());
    ITERANDUM_TRY(rest());
    ITERANDUM_TRY(db_.run("COMMIT; ANALYZE; PRAGMA journal_mode = DELETE;"));
    return {};
  }

 private:
  Status insert(const std::string& sql, const std::vector<Value>& values) {
    if (sql != preparedSql_) {
      ITERANDUM_ASSIGN(prepared_, db_.prepare(sql));
      preparedSql_ = sql;
    }
    for (std::size_t i = 0; i < values.size(); ++i) prepared_.bind(static_cast<int>(i + 1), values[i]);
    const int code = prepared_.step();
    prepared_.reset();
    if (code != SQLITE_DONE) return iterandum::fail(db_.error(code, sql));
    return {};
  }

  Status places() {
    for (std::size_t i = 0; i < quillhaven::kDistricts.size(); ++i) {
      ITERANDUM_TRY(insert(
          "INSERT INTO district VALUES (?, ?, ?)",
          {Value::integer(static_cast<std::int64_t>(i + 1)), Value::text(quillhaven::kDistricts[i]),
           i % 4 == 3 ? Value()
                      : Value::text(std::string("warden.") + static_cast<char>('a' + i) + "@quillhaven.example")}));
    }
    std::int64_t id = 0;
    for (const char* last : quillhaven::kStreetLast) {
      for (const char* first : quillhaven::kStreetFirst) {
        ITERANDUM_TRY(street(++id, std::string(first) + " " + last));
      }
    }
    streets_ = id;
    // One street, spelled three ways: the first task of the demonstration.
    ITERANDUM_TRY(insert("INSERT INTO street VALUES (?, ?, ?)",
                         {Value::integer(++streets_), Value::text("Ancor Lane"), Value::integer(1)}));
    ITERANDUM_TRY(insert("INSERT INTO street VALUES (?, ?, ?)",
                         {Value::integer(++streets_), Value::text("Anchor La."), Value::integer(1)}));
    id = 0;
    for (const quillhaven::Species& s : quillhaven::kSpecies) {
      ITERANDUM_TRY(insert("INSERT INTO species VALUES (?, ?, ?, ?)",
                           {Value::integer(++id), Value::text(s.name),
                            dice_.oneIn(9) ? Value::text("") : Value::text(s.common), Value::integer(s.tallest)}));
    }
    id = 0;
    for (const char* crew : quillhaven::kCrews) {
      ++id;
      ITERANDUM_TRY(insert("INSERT INTO crew VALUES (?, ?, ?)",
                           {Value::integer(id), Value::text(crew), id > 3 ? Value::integer(id % 3 + 1) : Value()}));
    }
    return {};
  }

  Status street(std::int64_t id, const std::string& name) {
    const std::int64_t district = (id - 1) % 30 / 3 + 1 + ((id - 1) / 30 % 2 == 0 ? 0 : 2);
    return insert("INSERT INTO street VALUES (?, ?, ?)",
                  {Value::integer(id), Value::text(name), Value::integer(district > 12 ? 12 : district)});
  }

  Status trees() {
    for (std::int64_t id = 1; id <= trees_; ++id) {
      char tag[32];
      std::snprintf(tag, sizeof tag, "QH-%05lld", static_cast<long long>(id));
      std::int64_t street = dice_.upTo(streets_ - 2) + 1;
      if (street == 1 && dice_.oneIn(3)) street = streets_ - dice_.upTo(2);
      const std::size_t species =
          static_cast<std::size_t>(dice_.upTo(static_cast<std::int64_t>(quillhaven::kSpecies.size())));
      const std::int64_t planted = 1925 + dice_.upTo(100);
      const std::int64_t age = 2026 - planted;
      const std::int64_t tallest = quillhaven::kSpecies[species].tallest * 100;
      const double height = static_cast<double>(std::min(tallest, 150 + age * 28 + dice_.upTo(400))) / 100.0;
      const bool nextYear = dice_.oneIn(900);
      ITERANDUM_TRY(insert(
          "INSERT INTO tree VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
          {Value::integer(id), Value::text(tag), Value::integer(static_cast<std::int64_t>(species) + 1),
           Value::integer(street), dice_.oneIn(40) ? Value() : Value::integer(dice_.upTo(140) + 1),
           dice_.oneIn(25) ? Value() : Value::integer(condition()),
           dice_.oneIn(60) ? Value() : Value::integer(90 + age * 22 + dice_.upTo(300)), Value::real(height),
           dice_.oneIn(30) ? Value() : Value::text(date(nextYear ? 2027 : planted, dice_.upTo(336))),
           Value::integer(dice_.oneIn(50) ? 1 : 0), age < 8 ? Value::integer((dice_.upTo(4) + 1) * 86400) : Value(),
           note(), Value::text(date(2024 + dice_.upTo(2), dice_.upTo(336)) + "T09:00:00Z")}));
    }
    return {};
  }

  std::int64_t condition() {
    const std::int64_t roll = dice_.upTo(100);
    return roll < 20 ? 0 : (roll < 55 ? 1 : (roll < 80 ? 2 : (roll < 93 ? 3 : (roll < 98 ? 4 : 5))));
  }

  Value note() {
    const std::int64_t roll = dice_.upTo(20);
    if (roll == 0) return Value::text(dice_.pick(quillhaven::kRemarks));
    return roll < 4 ? Value::text("") : Value();
  }

  Status inspections() {
    static const std::vector<const char*> grades{"sound", "sound", "fair", "fair", "poor", "failing", "unknown"};
    for (std::int64_t id = 1; id <= trees_; ++id) {
      const std::int64_t count = dice_.upTo(5) + (dice_.oneIn(2) ? 1 : 0);
      for (std::int64_t i = 0; i < count; ++i) {
        ITERANDUM_TRY(
            insert("INSERT INTO inspection VALUES (?, ?, ?, ?, ?, ?)",
                   {Value::integer(id), Value::text(date(2021 + i, dice_.upTo(336))),
                    dice_.oneIn(12) ? Value() : Value::integer(dice_.upTo(9) + 1), Value::text(dice_.pick(grades)),
                    dice_.oneIn(8) ? Value() : Value::integer(120 + dice_.upTo(5400)),
                    dice_.oneIn(6) ? Value::text(dice_.pick(quillhaven::kRemarks)) : Value()}));
      }
    }
    return {};
  }

  Status rest() {
    for (std::int64_t i = 1; i <= trees_ / 16 + 1; ++i) {
      char number[32];
      std::snprintf(number, sizeof number, "W-%05lld", static_cast<long long>(i));
      const bool done = !dice_.oneIn(3);
      ITERANDUM_TRY(
          insert("INSERT INTO work_order VALUES (?, ?, ?, ?, ?, ?, ?)",
                 {Value::text(number), Value::integer(dice_.upTo(trees_) + 1),
                  dice_.oneIn(10) ? Value() : Value::integer(dice_.upTo(9) + 1),
                  Value::text(dice_.pick(quillhaven::kTasks)), Value::text(date(2025 + dice_.upTo(2), dice_.upTo(336))),
                  done ? Value::integer(1735689600 + dice_.upTo(50000000)) : Value(),
                  Value::real(static_cast<double>(4000 + dice_.upTo(90000)) / 100.0)}));
    }
    for (std::int64_t i = 1; i <= trees_ / 20 + 1; ++i) {
      std::string thumbnail;
      for (int b = 0; b < 48; ++b) thumbnail += static_cast<char>(dice_.upTo(256));
      ITERANDUM_TRY(insert(
          "INSERT INTO photo VALUES (?, ?, ?, ?, ?)",
          {Value::integer(i), Value::integer(dice_.upTo(trees_) + 1),
           Value::text(date(2023 + dice_.upTo(3), dice_.upTo(336))),
           dice_.oneIn(3) ? Value::text("") : Value::text(dice_.pick(quillhaven::kRemarks)), Value::bytes(thumbnail)}));
    }
    for (std::int64_t i = 0; i < trees_ * 4; ++i) {
      ITERANDUM_TRY(insert("INSERT INTO sensor_reading VALUES (?, ?, ?, ?)",
                           {Value::integer(i / 1000 + 1), Value::integer(1764000000 + i % 1000 * 900),
                            Value::integer(i / 1000 % trees_ + 1),
                            dice_.oneIn(50) ? Value() : Value::real(static_cast<double>(dice_.upTo(1000)) / 10.0)}));
    }
    for (std::int64_t i = 0; i < 764; ++i) {
      ITERANDUM_TRY(insert("INSERT INTO import_log VALUES (?, ?, ?)",
                           {Value::integer(i / 2), Value::text("yard-list.csv"),
                            dice_.oneIn(4) ? Value::text("tag unknown, line left out") : Value::text("taken over")}));
    }
    return {};
  }

  SqliteHandle& db_;
  std::int64_t trees_;
  Dice dice_;
  std::int64_t streets_ = 0;
  SqliteStatement prepared_;
  std::string preparedSql_;
};

}  // namespace

int main(int argc, char** argv) {
  CLI::App app("Makes the street-tree register of Quillhaven.", "quillhaven");
  std::string path;
  std::int64_t trees = 50000;
  unsigned seed = 1;
  bool replace = false;
  app.add_option("FILE", path, "database to make")->required();
  app.add_option("--trees", trees, "how many trees (50000)")
      ->check(CLI::Range(std::int64_t{10}, std::int64_t{50000000}));
  app.add_option("--seed", seed, "another seed gives another town");
  app.add_flag("--replace", replace, "replace the file if it is there");
  CLI11_PARSE(app, argc, argv);
  if (replace) std::remove(path.c_str());
  if (FILE* there = std::fopen(path.c_str(), "rb")) {
    std::fclose(there);
    std::fprintf(stderr, "quillhaven: %s is there already; --replace makes it anew\n", path.c_str());
    return 1;
  }
  auto db = SqliteHandle::open(path, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE);
  const Status status = db ? Register(**db, trees, seed).make() : Status(tl::unexpected(db.error()));
  if (!status) {
    std::fprintf(stderr, "quillhaven: %s\n", status.error().text().c_str());
    return 1;
  }
  return 0;
}
