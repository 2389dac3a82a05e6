#include "support/random_world.h"

#include <algorithm>
#include <deque>
#include <set>

namespace iterandum::test {
namespace {

const char* words(Rule rule) {
  switch (rule) {
    case Rule::Restrict:
      return "RESTRICT";
    case Rule::Cascade:
      return "CASCADE";
    case Rule::SetNull:
      return "SET NULL";
    case Rule::SetDefault:
      return "SET DEFAULT";
    default:
      return "NO ACTION";
  }
}

Cells part(const Cells& record, const std::vector<std::size_t>& columns) {
  Cells out;
  for (const std::size_t c : columns) out.push_back(record[c]);
  return out;
}

bool holdsNull(const Cells& cells) {
  return std::any_of(cells.begin(), cells.end(), [](const Cell& c) { return !c.has_value(); });
}

std::string names(const WorldTable& table, const std::vector<std::size_t>& columns) {
  std::string out;
  for (const std::size_t c : columns) out += (out.empty() ? "" : ", ") + table.columns[c];
  return out;
}

constexpr std::size_t kCode = 3;
constexpr std::size_t kValue = 4;
constexpr std::size_t kStamp = 5;
constexpr std::size_t kOwnColumns = 6;

// What the trigger makes of a record.
void stamp(const WorldTable& table, Cells& record) {
  if (!table.stamped) return;
  record[kStamp] = record[kValue] ? Cell(*record[kValue] * 2) : Cell();
}

std::string json(const Cell& cell) { return cell ? std::to_string(*cell) : "null"; }

bool keepsItsRules(const World& w) {
  for (std::size_t t = 0; t < w.tables.size(); ++t) {
    const WorldTable& table = w.tables[t];
    for (const auto& key : table.keys) {
      std::set<Cells> seen;
      for (const Cells& record : w.records[t]) {
        const Cells tuple = part(record, key);
        if (!holdsNull(tuple) && !seen.insert(tuple).second) return false;
      }
    }
    for (const Cells& record : w.records[t]) {
      for (std::size_t c = 0; c < record.size(); ++c) {
        if (!record[c] && !table.nullable[c]) return false;
      }
      for (const WorldReference& r : table.references) {
        const Cells tuple = part(record, r.columns);
        const auto isParent = [&](const Cells& parent) { return part(parent, r.targetColumns) == tuple; };
        if (!holdsNull(tuple) && std::none_of(w.records[r.target].begin(), w.records[r.target].end(), isParent))
          return false;
      }
    }
  }
  return true;
}

}  // namespace

// --- making ----------------------------------------------------------------------------------------------------------

void RandomWorld::addReference(World& w, std::size_t t) {
  static const std::vector<std::vector<std::size_t>> kTargets = {{0}, {3}, {1, 2}};
  static const char* const kNames = "pqrs";
  WorldTable& table = w.tables[t];
  WorldReference r;
  r.target = static_cast<std::size_t>(below(static_cast<int>(t) + 1));
  r.targetColumns = kTargets[static_cast<std::size_t>(below(3))];
  r.nullable = r.targetColumns[0] == 3 || !oneIn(3);  // some servers want who points at what may be NULL to be so too
  const auto rule = [&] {
    static const Rule kRules[] = {Rule::NoAction, Rule::Restrict, Rule::Cascade,
                                  Rule::Cascade,  Rule::SetNull,  Rule::SetDefault};
    // MariaDB knows no SET DEFAULT.
    const Rule chosen = kRules[below(engine_ == Engine::MariaDb ? 5 : 6)];
    const bool needsNull = chosen == Rule::SetNull || (chosen == Rule::SetDefault && w.records[r.target].empty());
    return needsNull && !r.nullable ? Rule::Cascade : chosen;
  };
  r.onDelete = rule();
  r.onUpdate = rule();
  const auto& parents = w.records[r.target];
  const bool hasDefault = !parents.empty() && (!r.nullable || !oneIn(3));
  const Cells parent =
      hasDefault ? parents[static_cast<std::size_t>(below(static_cast<int>(parents.size())))] : Cells(kOwnColumns);
  for (std::size_t i = 0; i < r.targetColumns.size(); ++i) {
    table.defaults.push_back(parent[r.targetColumns[i]]);
    r.columns.push_back(table.columns.size());
    table.columns.push_back(std::string(1, kNames[table.references.size()]) + std::to_string(i + 1));
    table.nullable.push_back(r.nullable);
  }
  table.references.push_back(std::move(r));
}

Cell RandomWorld::value(const World& w, std::size_t t, std::size_t column) {
  const WorldTable& table = w.tables[t];
  for (const WorldReference& r : table.references) {
    const auto at = std::find(r.columns.begin(), r.columns.end(), column);
    if (at == r.columns.end()) continue;
    if (r.nullable && oneIn(5)) return std::nullopt;
    const auto& parents = w.records[r.target];
    if (parents.empty()) return std::nullopt;
    return parents[static_cast<std::size_t>(below(static_cast<int>(parents.size())))]
                  [r.targetColumns[static_cast<std::size_t>(at - r.columns.begin())]];
  }
  if ((column == kCode || column == kValue) && oneIn(6)) return std::nullopt;
  // Often something new, sometimes what may be taken.
  if (column == 1 || column == 2) return 1 + below(6);
  return 1 + below(oneIn(3) ? 9 : 60);
}

Cells RandomWorld::record(const World& w, std::size_t t) {
  Cells out(w.tables[t].columns.size());
  for (std::size_t c = 0; c < kStamp; ++c) out[c] = value(w, t, c);
  stamp(w.tables[t], out);
  for (const WorldReference& r : w.tables[t].references) {
    const auto& parents = w.records[r.target];
    if (parents.empty() || (r.nullable && oneIn(5))) continue;
    const Cells& parent = parents[static_cast<std::size_t>(below(static_cast<int>(parents.size())))];
    for (std::size_t i = 0; i < r.columns.size(); ++i) out[r.columns[i]] = parent[r.targetColumns[i]];
  }
  return out;
}

World RandomWorld::world() {
  World w;
  const std::size_t count = 2 + static_cast<std::size_t>(below(3));
  for (std::size_t t = 0; t < count; ++t) {
    WorldTable table;
    table.name = "t" + std::to_string(t);
    table.columns = {"id", "a", "b", "code", "v", "s"};
    table.nullable = {false, false, false, true, true, true};
    table.defaults.resize(kOwnColumns);
    table.stamped = oneIn(3);
    table.keys = oneIn(3) ? std::vector<std::vector<std::size_t>>{{1, 2}, {0}, {3}}
                          : std::vector<std::vector<std::size_t>>{{0}, {1, 2}, {3}};
    w.tables.push_back(table);
    w.records.emplace_back();
    for (int r = below(t == 0 ? 2 : 3); r > 0; --r) addReference(w, t);
    for (int tries = 0; tries < 12; ++tries) {
      w.records[t].push_back(record(w, t));
      if (!keepsItsRules(w)) w.records[t].pop_back();
    }
  }
  return w;
}

std::vector<WorldChange> RandomWorld::changes(const World& w) {
  std::vector<WorldChange> out;
  std::set<std::pair<std::size_t, std::size_t>> used;
  for (int i = 1 + below(5); i > 0; --i) {
    WorldChange change;
    change.table = static_cast<std::size_t>(below(static_cast<int>(w.tables.size())));
    const auto& records = w.records[change.table];
    const std::size_t width = w.tables[change.table].columns.size();
    change.action = "eeear"[below(5)];
    if (records.empty()) change.action = 'a';
    if (change.action == 'a') {
      const Cells cells = record(w, change.table);
      for (std::size_t c = 0; c < width; ++c) change.cells[c] = cells[c];
      change.cells.erase(kStamp);
      out.push_back(std::move(change));
      continue;
    }
    change.record = static_cast<std::size_t>(below(static_cast<int>(records.size())));
    if (!used.insert({change.table, change.record}).second) continue;
    for (int n = 1 + below(3); change.action == 'e' && n > 0; --n) {
      const auto column = static_cast<std::size_t>(below(static_cast<int>(width)));
      if (column == kStamp) continue;
      change.cells[column] = value(w, change.table, column);
      if (w.tables[change.table].nullable[column]) continue;
      if (!change.cells[column]) change.cells.erase(column);
    }
    if (change.action == 'e' && change.cells.empty()) continue;
    // Two records that change places in a unique value, or a removed one whose place is taken.
    if (change.action == 'e' && oneIn(3) && records.size() > 1) {
      const std::size_t other = (change.record + 1) % records.size();
      const std::size_t column = oneIn(2) ? kCode : 0;
      if (used.insert({change.table, other}).second) {
        WorldChange second = change;
        second.record = other;
        second.cells = {{column, records[change.record][column]}};
        change.cells = {{column, records[other][column]}};
        out.push_back(second);
      }
    }
    if (change.action == 'r' && oneIn(2)) {
      WorldChange again = change;
      again.action = 'a';
      for (std::size_t c = 0; c < width; ++c) again.cells[c] = records[change.record][c];
      again.cells[kValue] = below(9);
      again.cells.erase(kStamp);
      out.push_back(again);
    }
    out.push_back(std::move(change));
  }
  return out;
}

// --- writing down ----------------------------------------------------------------------------------------------------

namespace {

// Keeps s at twice v, whoever writes.
std::string triggerOf(const WorldTable& table, Engine engine) {
  const std::string& t = table.name;
  switch (engine) {
    case Engine::Sqlite: {
      const std::string act = " BEGIN UPDATE " + t + " SET s = NEW.v * 2 WHERE id = NEW.id; END;";
      return "CREATE TRIGGER " + t + "_added AFTER INSERT ON " + t + act + "CREATE TRIGGER " + t +
             "_edited AFTER UPDATE OF v ON " + t + act;
    }
    case Engine::PostgreSql:
      return "CREATE FUNCTION " + t +
             "_stamp() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN NEW.s := NEW.v * 2; RETURN "
             "NEW; END'; CREATE TRIGGER " +
             t + "_stamped BEFORE INSERT OR UPDATE ON " + t + " FOR EACH ROW EXECUTE FUNCTION " + t + "_stamp();";
    default:
      return "CREATE TRIGGER " + t + "_added BEFORE INSERT ON " + t + " FOR EACH ROW SET NEW.s = NEW.v * 2;" +
             "CREATE TRIGGER " + t + "_edited BEFORE UPDATE ON " + t + " FOR EACH ROW SET NEW.s = NEW.v * 2;";
  }
}

}  // namespace

std::string sqlOf(const World& w, Engine engine) {
  std::string out;
  for (std::size_t t = 0; t < w.tables.size(); ++t) {
    const WorldTable& table = w.tables[t];
    out += "CREATE TABLE " + table.name + " (";
    for (std::size_t c = 0; c < table.columns.size(); ++c)
      out += table.columns[c] + " INTEGER" + (table.nullable[c] ? "" : " NOT NULL") +
             (table.defaults[c] ? " DEFAULT " + std::to_string(*table.defaults[c]) : "") + ", ";
    out += "PRIMARY KEY (" + names(table, table.keys[0]) + ")";
    for (std::size_t k = 1; k < table.keys.size(); ++k) out += ", UNIQUE (" + names(table, table.keys[k]) + ")";
    for (const WorldReference& r : table.references) {
      out += ", FOREIGN KEY (" + names(table, r.columns) + ") REFERENCES " + w.tables[r.target].name + " (" +
             names(w.tables[r.target], r.targetColumns) + ") ON DELETE " + words(r.onDelete) + " ON UPDATE " +
             words(r.onUpdate);
    }
    out += ");";
    if (table.stamped) out += triggerOf(table, engine);
  }
  // Records may point at later ones of their own table: they are made so that no order matters.
  for (std::size_t t = 0; t < w.tables.size(); ++t) {
    for (const Cells& record : w.records[t]) {
      out += "INSERT INTO " + w.tables[t].name + " VALUES (";
      for (std::size_t c = 0; c < record.size(); ++c)
        out += (c ? "," : "") + (record[c] ? std::to_string(*record[c]) : "NULL");
      out += ");";
    }
  }
  return out;
}

std::string linesOf(const World& w, const std::vector<WorldChange>& changes) {
  std::string out;
  for (const WorldChange& change : changes) {
    const WorldTable& table = w.tables[change.table];
    out += (change.action == 'e' ? "edit " : change.action == 'r' ? "remove " : "add ") + table.name;
    if (change.action == 'a') {
      for (const auto& [c, value] : change.cells) out += " " + table.columns[c] + "=" + json(value);
    } else {
      const Cells& record = w.records[change.table][change.record];
      for (const std::size_t c : table.keys[0]) out += " " + table.columns[c] + "=" + json(record[c]);
      for (const auto& [c, value] : change.cells)
        out += " " + table.columns[c] + ":" + json(record[c]) + "->" + json(value);
      if (change.action == 'r') out += " v:" + json(record[kValue]);
    }
    out += "\n";
  }
  return out;
}

std::string textOf(const World& w) {
  std::string out;
  for (std::size_t t = 0; t < w.tables.size(); ++t) {
    std::vector<Cells> sorted = w.records[t];
    std::sort(sorted.begin(), sorted.end());
    out += w.tables[t].name + ":";
    for (const Cells& record : sorted) {
      out += " ";
      for (std::size_t c = 0; c < record.size(); ++c)
        out += (c ? "," : "") + (record[c] ? std::to_string(*record[c]) : "-");
    }
    out += "\n";
  }
  return out;
}

World worldIn(const TestDatabase& db, const World& world) {
  World now = world;
  for (std::size_t t = 0; t < world.tables.size(); ++t) {
    now.records[t].clear();
    const std::string rows = db.rows("SELECT * FROM " + world.tables[t].name);
    for (std::size_t at = 0; at < rows.size();) {
      const std::size_t end = std::min(rows.find('\n', at), rows.size());
      Cells record;
      for (std::size_t cell = at; cell <= end;) {
        const std::size_t stop = std::min(rows.find('|', cell), end);
        const std::string text = rows.substr(cell, stop - cell);
        record.push_back(text == "-" ? Cell() : Cell(std::stoi(text)));
        cell = stop + 1;
      }
      now.records[t].push_back(std::move(record));
      at = end + 1;
    }
  }
  return now;
}

// --- the oracle ------------------------------------------------------------------------------------------------------

namespace {

class Oracle {
 public:
  Oracle(const World& world, const std::vector<WorldChange>& changes) : start_(world), changes_(changes), end_(world) {
    for (const auto& records : world.records) {
      removed_.emplace_back(records.size(), false);
      asked_.emplace_back(records.size());
    }
  }

  std::optional<World> after() {
    for (const WorldChange& change : changes_) {
      if (change.action == 'r') remove(change.table, change.record);
      if (change.action == 'a') {
        Cells record(start_.tables[change.table].columns.size());
        for (const auto& [c, value] : change.cells) record[c] = value;
        added_.emplace_back(change.table, std::move(record));
      }
      if (change.action != 'e') continue;
      asked_[change.table][change.record] = change.cells;
      for (const auto& [c, value] : change.cells) end_.records[change.table][change.record][c] = value;
      touched_.emplace_back(change.table, change.record);
    }
    while (!touched_.empty() && possible_) {
      const auto [table, record] = touched_.front();
      touched_.pop_front();
      follow(table, record);
    }
    for (const auto& [t, c] : left_) possible_ = possible_ && removed_[t][c];
    if (!possible_) return std::nullopt;
    World out = start_;
    for (std::size_t t = 0; t < out.tables.size(); ++t) {
      out.records[t].clear();
      for (std::size_t r = 0; r < end_.records[t].size(); ++r) {
        if (!removed_[t][r]) out.records[t].push_back(end_.records[t][r]);
      }
    }
    for (auto& [t, record] : added_) out.records[t].push_back(record);
    for (std::size_t t = 0; t < out.tables.size(); ++t) {
      for (Cells& record : out.records[t]) stamp(out.tables[t], record);
    }
    return keepsItsRules(out) ? std::optional(out) : std::nullopt;
  }

 private:
  void remove(std::size_t table, std::size_t record) {
    if (removed_[table][record]) return;
    removed_[table][record] = true;
    touched_.emplace_back(table, record);
  }

  // Who pointed at the record, and what becomes of them.
  void follow(std::size_t table, std::size_t record) {
    for (std::size_t t = 0; t < start_.tables.size(); ++t) {
      for (const WorldReference& r : start_.tables[t].references) {
        if (r.target != table) continue;
        const Cells before = part(start_.records[table][record], r.targetColumns);
        const Cells after = part(end_.records[table][record], r.targetColumns);
        if (holdsNull(before) || (!removed_[table][record] && before == after)) continue;
        for (std::size_t c = 0; c < start_.records[t].size(); ++c) {
          if (part(start_.records[t][c], r.columns) == before) judge(t, c, r, table, record);
        }
      }
    }
  }

  void judge(std::size_t t, std::size_t c, const WorldReference& r, std::size_t table, std::size_t record) {
    if (removed_[t][c]) return;
    const auto& asked = asked_[t][c];
    if (std::any_of(r.columns.begin(), r.columns.end(), [&](std::size_t column) { return asked.contains(column); })) {
      // It says itself where it points. A removal that takes it along all the same is a contradiction.
      const bool stays = part(end_.records[t][c], r.columns) == part(start_.records[t][c], r.columns);
      if (stays && removed_[table][record] && r.onDelete == Rule::Cascade) possible_ = false;
      return;
    }
    const Rule rule = removed_[table][record] ? r.onDelete : r.onUpdate;
    if (rule == Rule::Cascade && removed_[table][record]) {
      if (!asked.empty()) possible_ = false;
      return remove(t, c);
    }
    if (rule == Rule::NoAction || rule == Rule::Restrict) {
      const Cells before = part(start_.records[table][record], r.targetColumns);
      const bool replaced = rule == Rule::NoAction && removed_[table][record] &&
                            std::any_of(added_.begin(), added_.end(), [&](const auto& a) {
                              return a.first == table && part(a.second, r.targetColumns) == before;
                            });
      // Unless it goes along by another reference, which is known at the end.
      if (!replaced) left_.emplace_back(t, c);
      return;
    }
    const Cells now = rule == Rule::SetNull      ? Cells(r.columns.size())
                      : rule == Rule::SetDefault ? part(start_.tables[t].defaults, r.columns)
                                                 : part(end_.records[table][record], r.targetColumns);
    if (part(end_.records[t][c], r.columns) == now) return;
    for (std::size_t i = 0; i < r.columns.size(); ++i) end_.records[t][c][r.columns[i]] = now[i];
    touched_.emplace_back(t, c);
  }

  const World& start_;
  const std::vector<WorldChange>& changes_;
  World end_;
  std::vector<std::vector<bool>> removed_;
  std::vector<std::vector<std::map<std::size_t, Cell>>> asked_;
  std::vector<std::pair<std::size_t, Cells>> added_;
  std::deque<std::pair<std::size_t, std::size_t>> touched_;
  std::vector<std::pair<std::size_t, std::size_t>> left_;  // still point at what is gone
  bool possible_ = true;
};

}  // namespace

std::optional<World> wantedAfter(const World& world, const std::vector<WorldChange>& changes) {
  return Oracle(world, changes).after();
}

}  // namespace iterandum::test
