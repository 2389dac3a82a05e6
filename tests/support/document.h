// The documents of the languages, whose tables are their contract: each line is tried as it stands.
#pragma once

#include <fstream>
#include <set>

#include "core/scope/condition_check.h"
#include "core/scope/condition_text.h"
#include "support/test_database.h"

namespace iterandum::test {

using Cells = std::vector<std::string>;

inline std::string stripped(const std::string& text) {
  const std::size_t begin = text.find_first_not_of(' ');
  return begin == std::string::npos ? "" : text.substr(begin, text.find_last_not_of(' ') - begin + 1);
}

// The lines of the document's tables under a head that begins with this name.
inline std::vector<Cells> linesUnder(const std::string& document, const std::string& head) {
  std::ifstream file(TEST_DATA "/../../docs/" + document);
  std::vector<Cells> out;
  bool inside = false;
  for (std::string line; std::getline(file, line);) {
    if (!line.starts_with("|")) {
      inside = false;
      continue;
    }
    Cells cells;
    for (std::size_t at = 1, end = 0; (end = line.find('|', at)) != std::string::npos; at = end + 1) {
      cells.push_back(stripped(line.substr(at, end - at)));
    }
    if (inside && !cells[0].starts_with("---")) out.push_back(cells);
    inside = inside || cells[0] == head;
  }
  return out;
}

inline constexpr const char* kTables = R"(
  CREATE TABLE street (street_id INTEGER PRIMARY KEY, name VARCHAR(40) NOT NULL, town VARCHAR(40));
  CREATE TABLE tree (tree_id INTEGER PRIMARY KEY, tag VARCHAR(20) NOT NULL, note VARCHAR(60), grade INTEGER,
    height DECIMAL(5, 2), planted DATE, seen $moment, felled BOOLEAN, street_id INTEGER,
    CONSTRAINT tree_street FOREIGN KEY (street_id) REFERENCES street (street_id));
  CREATE TABLE work (work_id INTEGER PRIMARY KEY, tree_id INTEGER, next_to_id INTEGER, kind VARCHAR(20),
    CONSTRAINT work_tree FOREIGN KEY (tree_id) REFERENCES tree (tree_id),
    CONSTRAINT work_beside FOREIGN KEY (next_to_id) REFERENCES tree (tree_id));
  INSERT INTO street VALUES (1, 'Harbour Row', 'Quillhaven'), (2, 'Lantern Street', 'Quillhaven'), (3, 'Mere Lane', NULL);
)";

inline std::string documentTables(Engine engine) {
  std::string sql = kTables;
  sql.replace(sql.find("$moment"), 7, engine == Engine::MariaDb ? "DATETIME" : "TIMESTAMP");
  for (const Cells& cells : linesUnder("conditions.md", "tree_id")) {
    std::string values;
    for (std::size_t c = 0; c < cells.size(); ++c) {
      std::string value = "'" + cells[c] + "'";
      if (cells[c] == "*no value*") value = "NULL";
      if (cells[c] == "*empty text*") value = "''";
      if (cells[c] == "yes" || cells[c] == "no") value = cells[c] == "yes" ? "TRUE" : "FALSE";
      values += (c > 0 ? ", " : "") + value;
    }
    sql += "INSERT INTO tree VALUES (" + values + ");";
  }
  return sql + "INSERT INTO work VALUES (1, 1, 2, 'prune'), (2, 2, NULL, 'water'), (3, NULL, 5, 'prune')";
}

// What is needed of a tree, read from the database.
struct KnownTree {
  std::string id;
  ValueTuple columns;
  std::vector<char> facts;
};

inline std::vector<KnownTree> readTrees(TestDatabase& db, const Table& tree, const RecordNeeds& needs) {
  Progress progress;
  std::vector<std::set<std::string>> facts;
  for (const Condition& fact : needs.facts) {
    Query query;
    query.table = &tree;
    query.columns = {"tree_id"};
    query.where = fact;
    auto& ids = facts.emplace_back();
    EXPECT_TRUE(db.session().select(
        query, [&](ValueTuple&& row) { return ids.insert(canonicalText(row[0])).second; }, progress));
  }
  Query query;
  query.table = &tree;
  query.columns = {"tree_id"};
  query.order = {{"tree_id"}};
  std::vector<std::size_t> from;
  std::size_t own = 1;
  for (const ColumnPath& path : needs.columns) own += path.isBorrowed() ? 0 : 1;
  for (const ColumnPath& path : needs.columns) {
    from.push_back(path.isBorrowed() ? own + query.borrowed.size() : query.columns.size());
    if (path.isBorrowed()) {
      query.borrowed.push_back(path);
    } else {
      query.columns.push_back(path.column);
    }
  }
  std::vector<KnownTree> out;
  EXPECT_TRUE(db.session().select(
      query,
      [&](ValueTuple&& row) {
        KnownTree& known = out.emplace_back();
        known.id = canonicalText(row[0]);
        for (const std::size_t at : from) known.columns.push_back(row[at]);
        for (const auto& ids : facts) known.facts.push_back(ids.contains(known.id) ? 1 : 0);
        return true;
      },
      progress));
  return out;
}

}  // namespace iterandum::test
