#include "core/review/finding.h"

#include <array>

#include "core/value/json.h"
#include "core/value/visible_text.h"

namespace iterandum {
namespace {

constexpr std::array<const char*, 14> kFindingNames{
    "cell-changed",     "already-so",       "record-gone",   "record-ambiguous",  "duplicate",
    "parent-missing",   "still-referenced", "value-refused", "structure-changed", "not-editable",
    "database-refused", "unguarded",        "not-atomic",    "house-rule"};

bool holdsAnyType(const Catalogue& catalogue, const TableName& table, const std::string& column) {
  const Table* t = catalogue.find(table);
  const Column* c = t == nullptr ? nullptr : t->column(column);
  return c == nullptr || c->type == TypeClass::Any;
}

void writeKey(JsonWriter& out, const std::vector<std::string>& columns, const ValueTuple& key) {
  if (key.empty()) return;
  out.name("key").beginObject();
  for (std::size_t k = 0; k < key.size(); ++k) out.name(columns[k]).value(key[k], true);
  out.endObject();
}

void writeFinding(JsonWriter& out, const Finding& f, const Catalogue& catalogue) {
  out.compactNext().beginObject().name("kind").string(findingName(f.kind));
  out.name("level").string(f.blocks ? "blocks" : "note").name("change").number(f.change);
  out.name("table").string(displayName(f.table));
  writeKey(out, f.keyColumns, f.key);
  if (!f.column.empty()) out.name("column").string(f.column);
  const bool anyType = holdsAnyType(catalogue, f.table, f.column);
  if (f.from) out.name("from").value(*f.from, anyType);
  if (f.to) out.name("to").value(*f.to, anyType);
  if (f.now) out.name("now").value(*f.now, anyType);
  if (f.rows) out.name("rows").number(static_cast<std::int64_t>(*f.rows));
  if (f.fromTable) out.name("from_table").string(displayName(*f.fromTable));
  if (!f.rule.empty()) out.name("rule").string(f.rule);
  out.name("message").string(f.message).endObject();
}

void writeEffect(JsonWriter& out, const Effect& e, const Catalogue& catalogue) {
  out.compactNext().beginObject().name("kind").string(effectName(e.kind)).name("table").string(displayName(e.table));
  if (e.kind == Effect::Kind::DatabaseSet) {
    const bool anyType = holdsAnyType(catalogue, e.table, e.column);
    writeKey(out, e.keyColumns, e.key);
    out.name("column").string(e.column).name("from").value(e.from, anyType).name("to").value(e.to, anyType);
  } else {
    if (e.kind == Effect::Kind::CascadeSet) out.name("column").string(e.column);
    out.name("rows").number(static_cast<std::int64_t>(e.rows));
  }
  out.name("change").number(e.change).endObject();
}

std::string countWords(std::uint64_t n, const char* one, const char* many) {
  return std::to_string(n) + " " + (n == 1 ? one : many);
}

void writeCells(JsonWriter& out, const char* name, const WrittenElsewhere& of, const ValueTuple& values,
                const Catalogue& catalogue) {
  if (values.empty()) return;
  out.name(name).beginObject();
  for (std::size_t c = 0; c < values.size(); ++c) {
    out.name(of.columns[c]).value(values[c], holdsAnyType(catalogue, of.table, of.columns[c]));
  }
  out.endObject();
}

void writeElsewhere(JsonWriter& out, const WrittenElsewhere& e, const Catalogue& catalogue) {
  const auto count = [&](const char* name, std::uint64_t n) { out.name(name).number(static_cast<std::int64_t>(n)); };
  out.beginObject().name("table").string(displayName(e.table));
  count("added", e.added);
  count("changed", e.changed);
  count("removed", e.removed);
  if (!e.by.empty()) {
    out.name("by").compactNext().beginArray();
    for (const std::string& by : e.by) out.string(by);
    out.endArray();
  }
  if (!e.untold.empty()) out.name("untold").string(e.untold);
  if (!e.records.empty()) {
    out.name("records").beginArray();
    for (const WrittenElsewhere::Record& record : e.records) {
      out.compactNext().beginObject();
      writeKey(out, e.keyColumns, record.key);
      writeCells(out, "before", e, record.before, catalogue);
      writeCells(out, "after", e, record.after, catalogue);
      out.endObject();
    }
    out.endArray();
  }
  out.endObject();
}

}  // namespace

const char* findingName(FindingKind kind) { return kFindingNames.at(static_cast<std::size_t>(kind)); }

const char* effectName(Effect::Kind kind) {
  switch (kind) {
    case Effect::Kind::CascadeRemove:
      return "cascade-remove";
    case Effect::Kind::CascadeSet:
      return "cascade-set";
    case Effect::Kind::DatabaseSet:
      break;
  }
  return "database-set";
}

std::string reviewJson(const Review& review, const Catalogue& catalogue) {
  JsonWriter out(true);
  out.beginObject().name("format").string("iterandum-review").name("version").number(1);
  const ReviewCounts& c = review.counts;
  out.name("counts").compactNext().beginObject();
  out.name("edit")
      .number(static_cast<std::int64_t>(c.edits))
      .name("add")
      .number(static_cast<std::int64_t>(c.additions));
  out.name("remove").number(static_cast<std::int64_t>(c.removals));
  out.name("cells")
      .number(static_cast<std::int64_t>(c.cells))
      .name("tables")
      .number(static_cast<std::int64_t>(c.tables));
  out.endObject();
  out.name("statements").beginArray();
  for (const ReviewStatement& s : review.statements) {
    out.compactNext().beginObject().name("sql").string(s.sql).name("changes").beginArray();
    for (const std::uint32_t change : s.changes) out.number(change);
    out.endArray().endObject();
  }
  out.endArray().name("findings").beginArray();
  for (const Finding& f : review.findings) writeFinding(out, f, catalogue);
  out.endArray().name("effects").beginArray();
  for (const Effect& e : review.effects) writeEffect(out, e, catalogue);
  out.endArray();
  if (!review.elsewhere.empty()) {
    out.name("elsewhere").beginArray();
    for (const WrittenElsewhere& e : review.elsewhere) writeElsewhere(out, e, catalogue);
    out.endArray();
  }
  out.name("ready").boolean(review.ready).endObject();
  return out.take() + "\n";
}

std::string elsewhereInWords(const WrittenElsewhere& written) {
  std::string out;
  const auto count = [&](std::uint64_t n, const char* done) {
    if (n == 0) return;
    if (out.empty()) {
      out = countWords(n, "record", "records") + " of " + displayName(written.table) + " " + done;
    } else {
      out += ", " + std::to_string(n) + " " + done;
    }
  };
  count(written.added, "added");
  count(written.changed, "changed");
  count(written.removed, "removed");
  if (out.empty()) out = "records of " + displayName(written.table) + " may be written";
  return out;
}

std::string usedUpInWords(const Review& review) {
  std::string names;
  for (const std::string& name : review.usedUp) names += (names.empty() ? "" : ", ") + name;
  if (names.empty()) return {};
  return "the rehearsal used up numbers that the database gives out for " + names + "; the new records get later ones";
}

std::string reviewText(const Review& review) {
  const ReviewCounts& c = review.counts;
  std::string out = countWords(c.cells, "cell", "cells") + " in " + countWords(c.edits, "record", "records") + ", " +
                    std::to_string(c.additions) + " new, " + std::to_string(c.removals) + " removed, in " +
                    countWords(c.tables, "table", "tables") + "\n";
  for (const Finding& f : review.findings) {
    out += std::string(f.blocks ? "! " : "- ") + findingName(f.kind) + " (change " + std::to_string(f.change) +
           "): " + visibleText(f.message) + "\n";
  }
  for (const WrittenElsewhere& e : review.elsewhere) {
    std::string by;
    for (const std::string& name : e.by) by += (by.empty() ? ", as it seems by " : ", ") + name;
    out += "> elsewhere: " + visibleText(elsewhereInWords(e) + by) +
           (e.untold.empty() ? "" : " (" + visibleText(e.untold) + ")") + "\n";
  }
  for (const Effect& e : review.effects) {
    out += std::string("> ") + effectName(e.kind) + " (change " + std::to_string(e.change) + "): ";
    if (e.kind == Effect::Kind::DatabaseSet) {
      out += visibleText(recordInWords(e.table, e.key) + ", " + e.column + ": " + valueInWords(e.from) + " becomes " +
                         valueInWords(e.to));
    } else {
      out += countWords(e.rows, "record", "records") + " of " + visibleText(displayName(e.table));
      if (!e.column.empty()) out += ", " + visibleText(e.column);
    }
    out += "\n";
  }
  if (!review.usedUp.empty()) out += "- " + usedUpInWords(review) + "\n";
  if (!review.rehearsed) out += "checked by reading only, not rehearsed\n";
  return out +
         (review.ready ? "ready to apply\n" : "not ready: nothing can be applied until the lines with ! are settled\n");
}

std::string reviewScript(const Review& review) {
  std::string out;
  for (const Finding& f : review.findings) {
    out += std::string("-- ") + (f.blocks ? "BLOCKS " : "note ") + findingName(f.kind) + ", change " +
           std::to_string(f.change) + ": " + visibleText(f.message) + "\n";
  }
  for (const ReviewStatement& s : review.statements) out += s.sql + "\n";
  return out;
}

}  // namespace iterandum
