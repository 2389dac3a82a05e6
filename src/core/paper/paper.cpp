#include "core/paper/paper.h"

#include <algorithm>
#include <cstdint>
#include <map>

#include "core/base/names.h"
#include "core/review/groups.h"
#include "core/value/html_text.h"
#include "core/value/visible_text.h"

namespace iterandum {
namespace {

std::string escaped(const std::string& text) { return htmlText(visibleText(text)); }

std::string opening(const std::string& title) {
  return "<!DOCTYPE html>\n<html>\n<head>\n<meta charset=\"utf-8\">\n<title>" + escaped(title) +
         "</title>\n<style>\nbody { font-family: Inter, sans-serif; font-size: 9pt; color: #222; }\n"
         "h1 { font-family: serif; font-size: 17pt; font-weight: normal; }\n"
         "h2 { font-family: serif; font-size: 12pt; font-weight: normal; }\n"
         "table { border-collapse: collapse; }\n"
         "th { text-align: left; border-bottom: 1px solid #222; padding: 2px 10px 2px 0; }\n"
         "td { border-bottom: 1px solid #bbb; padding: 2px 10px 2px 0; vertical-align: top; }\n"
         ".soft { color: #666; }\n.amiss { color: #8a2b12; }\n</style>\n</head>\n<body>\n<h1>" +
         escaped(title) + "</h1>\n";
}

std::string line(const std::string& text, const char* look = "") {
  return "<p" + (*look == '\0' ? std::string() : " class=\"" + std::string(look) + "\"") + ">" + escaped(text) +
         "</p>\n";
}

std::string row(const std::vector<std::string>& cells, const char* tag = "td") {
  std::string out = "<tr>";
  for (const std::string& cell : cells) out += "<" + std::string(tag) + ">" + cell + "</" + tag + ">";
  return out + "</tr>\n";
}

std::string heads(const std::vector<std::string>& names) { return "<table>\n" + row(names, "th"); }

std::string restInWords(std::size_t all) {
  return all <= kMostOnPaper ? "</table>\n"
                             : "</table>\n" + line("and " + std::to_string(all - kMostOnPaper) + " more", "soft");
}

// The key, and the name beside it.
std::string recordCell(const std::string& name, const ValueTuple& key) {
  std::string out = escaped(key.empty() ? std::string("new") : tupleInWords(key));
  if (!name.empty()) out += " <b>" + escaped(name) + "</b>";
  return out;
}

std::string valueCell(const RecordNames& names, const TableName& table, const std::string& column, const Value& value) {
  const std::string pointed = names.pointed(table, column, value);
  return escaped(valueInWords(value, SIZE_MAX)) + (pointed.empty() ? "" : " <b>" + escaped(pointed) + "</b>");
}

std::string commentLines(const std::vector<Comment>& comments) {
  if (comments.empty()) return {};
  std::string out = "<h2>What was said of it</h2>\n" + heads({"by", "of", "words"});
  for (const Comment& c : comments) {
    const std::string of = inWords(c.about);
    out += row({escaped(c.by) + "<br>" + escaped(c.at), escaped(of.empty() ? "all of it" : of), escaped(c.words)});
  }
  return out + "</table>\n";
}

class ReviewPaper {
 public:
  ReviewPaper(const ChangeList& changes, const Review& review, const RecordNames& names)
      : review_(review), names_(names) {
    for (auto& [index, change] : changes.inOrder()) changes_.emplace(index, std::move(change));
  }

  std::string write(const PaperHead& head, const ChangeList& changes) {
    out_ = opening(head.title.empty() ? "What would change" : head.title);
    out_ += line(head.database + ", reviewed at " + head.at + (head.by.empty() ? "" : " by " + head.by), "soft");
    const ReviewCounts& c = review_.counts;
    std::string counts = several(c.cells, "cell", "cells") + " in " + several(c.edits, "record", "records");
    if (c.additions > 0) counts += ", " + several(c.additions, "new record", "new records");
    if (c.removals > 0) counts += ", " + several(c.removals, "record removed", "records removed");
    out_ += line(counts + ", in " + several(c.tables, "table", "tables") + ".");
    const auto blocking = static_cast<std::uint64_t>(std::count_if(
        review_.findings.begin(), review_.findings.end(), [](const Finding& finding) { return finding.blocks; }));
    out_ += review_.ready ? line("Nothing stands in the way of applying it.")
                          : line(several(blocking, "thing stands", "things stand") + " in its way.", "amiss");
    findings();
    out_ += commentLines(head.comments);
    for (const ChangeGroup& group : groupChanges(changes)) this->group(group);
    besides();
    out_ +=
        "<p>&nbsp;</p>\n<table>\n<tr><td>Looked through by</td><td>____________________________</td></tr>\n"
        "<tr><td>Day</td><td>____________________________</td></tr>\n"
        "<tr><td>To be applied: yes / no</td><td>____________________________</td></tr>\n</table>\n";
    return out_ + "</body>\n</html>\n";
  }

 private:
  void findings() {
    if (review_.findings.empty()) return;
    out_ += "<h2>What needs a look</h2>\n" + heads({"", "what"});
    std::size_t listed = 0;
    for (const Finding& finding : review_.findings) {
      if (++listed > kMostOnPaper) break;
      out_ += row({finding.blocks ? "stands in the way" : "to be known", escaped(finding.message)});
    }
    out_ += restInWords(review_.findings.size());
  }

  static std::string titleOf(const ChangeGroup& group) {
    const std::string records = several(group.changes.size(), "record", "records");
    const std::string table = displayName(group.table);
    if (group.action == Action::Add) return table + ": " + several(group.changes.size(), "new record", "new records");
    if (group.action == Action::Remove)
      return table + ": " + several(group.changes.size(), "record is removed", "records are removed");
    std::string out = table + ": " + group.column;
    if (group.from) out += " from " + valueInWords(*group.from);
    if (group.to) out += " to " + valueInWords(*group.to);
    return out + " in " + records;
  }

  void group(const ChangeGroup& group) {
    out_ += "<h2>" + escaped(titleOf(group)) + "</h2>\n";
    const bool edits = group.action == Action::Edit;
    out_ += edits ? heads({"record", "was", "will be"})
                  : heads({"record", group.action == Action::Add ? "with" : "that held"});
    std::size_t listed = 0;
    for (const std::uint32_t index : group.changes) {
      if (++listed > kMostOnPaper) break;
      const auto found = changes_.find(index);
      if (found != changes_.end()) out_ += edits ? edit(found->second, group.column) : whole(found->second);
    }
    out_ += restInWords(group.changes.size());
  }

  std::string edit(const Change& change, const std::string& column) const {
    for (const CellChange& cell : change.cells) {
      if (cell.column != column) continue;
      const std::string from =
          cell.hasFrom ? valueCell(names_, change.table, column, cell.from) : std::string("not known");
      return row({recordCell(names_.name(change.table, change.keyColumns, change.key), change.key), from,
                  valueCell(names_, change.table, column, cell.to)});
    }
    return {};
  }

  std::string whole(const Change& change) const {
    std::string cells;
    for (const CellChange& cell : change.cells) {
      const bool adds = change.action == Action::Add;
      if (!adds && !cell.hasFrom) continue;
      cells += (cells.empty() ? "" : "; ") + escaped(cell.column) + " " +
               valueCell(names_, change.table, cell.column, adds ? cell.to : cell.from);
    }
    return row({recordCell(names_.name(change.table, change.keyColumns, change.key), change.key), cells});
  }

  // What the database does by itself.
  void besides() {
    std::map<std::string, std::uint64_t> times;
    for (const Effect& effect : review_.effects) {
      const std::string table = displayName(effect.table);
      const bool cascade = effect.kind != Effect::Kind::DatabaseSet;
      const std::string what = effect.kind == Effect::Kind::CascadeRemove ? table + ": records removed along"
                               : cascade ? table + "." + effect.column + ": set along in records"
                                         : table + "." + effect.column + ": cells that the database sets";
      times[what] += cascade ? effect.rows : 1;
    }
    if (times.empty() && review_.elsewhere.empty() && review_.rehearsed) return;
    out_ += "<h2>What the database does besides</h2>\n";
    if (!review_.rehearsed) out_ += line("It was not rehearsed: what the database does besides is not known.", "amiss");
    for (const auto& [what, count] : times) out_ += line(what + ": " + std::to_string(count));
    for (const WrittenElsewhere& written : review_.elsewhere) {
      std::string by;
      for (const std::string& trigger : written.by) by += (by.empty() ? ", by " : ", ") + trigger;
      out_ += line(elsewhereInWords(written) + by + (written.untold.empty() ? "" : "; " + written.untold));
    }
  }

  std::map<std::uint32_t, Change> changes_;
  const Review& review_;
  const RecordNames& names_;
  std::string out_;
};

ValueTuple keyOf(const ReceiptBlock& block, std::size_t at) {
  ValueTuple out;
  for (const ValueColumn& column : block.keys) out.push_back(column.at(at));
  return out;
}

std::string titleOf(const ReceiptBlock& block) {
  const char* what = block.action == Action::Add ? "added" : block.action == Action::Remove ? "removed" : "changed";
  return displayName(block.table) + ": " + several(block.rows(), "record", "records") + " " + what +
         (block.cascaded ? " by the database along with the others" : "");
}

// A line for each cell that differs; of a record that came or went, all that it held.
std::string cellsOf(const ReceiptBlock& block, std::size_t at, const RecordNames& names) {
  std::string out;
  const std::string record = recordCell(names.name(block.table, block.keyColumns, keyOf(block, at)), keyOf(block, at));
  if (block.outcomes.size() > at && block.outcomes[at] != Outcome::Applied) {
    return row({record, block.outcomes[at] == Outcome::AlreadySo ? "was so already" : "left as it was", "", ""});
  }
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    const Value before = c < block.before.size() ? block.before[c].at(at) : Value();
    const Value after = c < block.after.size() ? block.after[c].at(at) : Value();
    if (block.action == Action::Edit ? sameValue(before, after) : before.isNull() && after.isNull()) continue;
    const auto cell = [&](const Value& value, bool there) {
      return there ? valueCell(names, block.table, block.columns[c], value) : std::string();
    };
    out += row({out.empty() ? record : "", escaped(block.columns[c]), cell(before, !block.before.empty()),
                cell(after, !block.after.empty())});
  }
  return out.empty() ? row({record, "", "", ""}) : out;
}

}  // namespace

void wantNames(const ChangeList& changes, RecordNames& names) {
  std::map<std::pair<TableName, Action>, std::size_t> listed;
  for (const auto& [index, change] : changes.inOrder()) {
    if (++listed[{change.table, change.action}] > 4 * kMostOnPaper) continue;
    if (change.action != Action::Add) names.want(change.table, change.keyColumns, change.key);
    for (const CellChange& cell : change.cells) {
      if (cell.hasFrom) names.wantPointed(change.table, cell.column, cell.from);
      if (change.action != Action::Remove) names.wantPointed(change.table, cell.column, cell.to);
    }
  }
}

void wantNames(const Receipt& receipt, RecordNames& names) {
  for (const ReceiptBlock& block : receipt.blocks) {
    for (std::size_t at = 0; at < std::min(block.rows(), kMostOnPaper); ++at) {
      names.want(block.table, block.keyColumns, keyOf(block, at));
      for (std::size_t c = 0; c < block.columns.size(); ++c) {
        if (c < block.before.size()) names.wantPointed(block.table, block.columns[c], block.before[c].at(at));
        if (c < block.after.size()) names.wantPointed(block.table, block.columns[c], block.after[c].at(at));
      }
    }
  }
}

std::string reviewPaper(const PaperHead& head, const ChangeList& changes, const Review& review,
                        const RecordNames& names) {
  return ReviewPaper(changes, review, names).write(head, changes);
}

std::string receiptPaper(const Receipt& receipt, const RecordNames& names) {
  std::string out = opening(receipt.title.empty() ? "What was changed" : receipt.title);
  out += line(receipt.database + ", applied at " + receipt.appliedAt +
                  (receipt.appliedBy.empty() ? "" : " by " + receipt.appliedBy),
              "soft");
  for (const Signature& s : receipt.signatures) {
    out += line("signed by " + s.by + ", " + s.at + (s.words.empty() ? "" : ": " + s.words) +
                    (s.proof.empty() ? " (a plain name)" : " (with a key)"),
                "soft");
  }
  out += commentLines(receipt.comments);
  for (const ReceiptBlock& block : receipt.blocks) {
    out += "<h2>" + escaped(titleOf(block)) + "</h2>\n" + heads({"record", "column", "before", "after"});
    for (std::size_t at = 0; at < std::min(block.rows(), kMostOnPaper); ++at) out += cellsOf(block, at, names);
    out += restInWords(block.rows());
  }
  return out + "</body>\n</html>\n";
}

}  // namespace iterandum
