#include "core/rules/rule_reads.h"

#include <algorithm>

#include "core/catalogue/database_code.h"

namespace iterandum {
namespace {

using Op = Condition::Op;

class Reads {
 public:
  explicit Reads(const ReadRule& rule) {
    add({}, *rule.table, false);
    follow(rule.holds, 0);
  }
  std::vector<RuleRead> take() { return std::move(reads_); }

 private:
  std::size_t add(std::vector<RuleHop> hops, const Table& table, bool isFact) {
    RuleRead read;
    read.hops = std::move(hops);
    read.table = &table;
    read.isFact = isFact;
    reads_.push_back(std::move(read));
    return reads_.size() - 1;
  }

  // The read at the end of one more hop.
  std::size_t hop(std::size_t at, const Condition& c, const Condition::Join& join, bool isFact) {
    RuleHop hop;
    hop.from = reads_[at].table;
    hop.to = c.related;
    for (const auto& [here, there] : join) {
      hop.here.push_back(here);
      hop.there.push_back(there);
      reads_[at].columns.insert(here);
    }
    std::vector<RuleHop> hops = reads_[at].hops;
    hops.push_back(hop);
    const std::size_t out = add(std::move(hops), *c.related, isFact || reads_[at].isFact);
    reads_[out].columns.insert(hop.there.begin(), hop.there.end());
    return out;
  }

  void follow(const Condition& c, std::size_t at) {
    if (c.op == Op::Through) return follow(c.parts.front(), hop(at, c, c.joins.front(), false));
    if (c.op == Op::Pointing) {
      for (const Condition::Join& join : c.joins) {
        const std::size_t there = hop(at, c, join, true);
        reads_[there].fits = c.parts.front();
        follow(c.parts.front(), there);
      }
      return;
    }
    if (!c.column.empty()) reads_[at].columns.insert(c.column);
    if (!c.otherColumn.empty()) reads_[at].columns.insert(c.otherColumn);
    for (const Condition& part : c.parts) follow(part, at);
  }

  std::vector<RuleRead> reads_;
};

}  // namespace

std::vector<RuleRead> readsOf(const ReadRule& rule) { return Reads(rule).take(); }

bool triggersMayWrite(const Catalogue& catalogue, const std::vector<RuleRead>& reads) {
  const auto writes = [&](const Trigger& trigger) {
    if (trigger.text.empty()) return true;  // nobody knows what it does
    return std::any_of(reads.begin(), reads.end(), [&](const RuleRead& read) {
      const bool makesOrTakes = mentionsName(trigger.text, "into") || mentionsName(trigger.text, "values") ||
                                (!read.hops.empty() && mentionsName(trigger.text, "delete"));
      return (makesOrTakes && mentionsName(trigger.text, read.table->name.name)) ||
             std::any_of(read.columns.begin(), read.columns.end(),
                         [&](const std::string& column) { return mentionsName(trigger.text, column); });
    });
  };
  const auto& tables = catalogue.tables();
  return std::any_of(tables.begin(), tables.end(), [&](const Table& table) {
    return std::any_of(table.triggers.begin(), table.triggers.end(), writes);
  });
}

}  // namespace iterandum
