// What several working copies say, taken together.
#include <algorithm>
#include <numeric>
#include <unordered_map>

#include "core/acts/record_acts.h"
#include "core/base/names.h"
#include "core/catalogue/record_words.h"
#include "core/files/returned_copy.h"

namespace iterandum {
namespace {

struct Word {
  std::size_t copy = 0;
  Value from;
  Value to;
};

struct Cell {
  std::string column;
  std::vector<Word> words;  // by when the copies were handed out
};

struct Touched {
  const Table* table = nullptr;
  std::vector<std::string> keyColumns;
  ValueTuple key;
  std::vector<Cell> cells;
};

std::vector<std::string> keyColumnsOf(const CopyHead& head) {
  std::vector<std::string> out;
  for (const CopyColumn& column : head.columns) {
    if (column.role == CopyColumn::Role::Key) out.push_back(column.column);
  }
  return out;
}

class Together {
 public:
  Together(const std::vector<ReturnedCopy>& copies, std::optional<std::size_t> preferred)
      : copies_(copies), preferred_(preferred) {}

  BroughtTogether run() {
    std::vector<std::size_t> order(copies_.size());
    std::iota(order.begin(), order.end(), 0U);
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return copies_[a].head.at < copies_[b].head.at; });
    for (const std::size_t at : order) take(at);
    for (const Touched& record : touched_) settle(record);
    return std::move(out_);
  }

 private:
  void take(std::size_t at) {
    const ReturnedCopy& copy = copies_[at];
    for (const LineOutcome& row : copy.rows) {
      ++out_.counts.lines;
      out_.counts.failed += row.failed() ? 1 : 0;
      out_.counts.already += row.kind == LineOutcome::Kind::AlreadySo ? 1 : 0;
    }
    for (const ReturnedRecord& record : copy.changed) {
      Touched& one = recordOf(copy, record.key);
      for (const ReturnedCell& cell : record.cells) {
        auto found =
            std::find_if(one.cells.begin(), one.cells.end(), [&](const Cell& c) { return c.column == cell.column; });
        if (found == one.cells.end()) found = one.cells.insert(one.cells.end(), Cell{cell.column, {}});
        found->words.push_back({at, cell.from, cell.to});
      }
    }
  }

  Touched& recordOf(const ReturnedCopy& copy, const ValueTuple& key) {
    const auto [at, isNew] = places_[copy.table].try_emplace(key, touched_.size());
    if (isNew) touched_.push_back({copy.table, keyColumnsOf(copy.head), key, {}});
    return touched_[at->second];
  }

  void settle(const Touched& record) {
    Change change;
    change.table = record.table->name;
    change.keyColumns = record.keyColumns;
    change.key = record.key;
    for (const Cell& cell : record.cells) {
      const Word* word = &cell.words.back();
      if (auto split = disagreement(record, cell)) {
        word = nullptr;
        for (const Word& one : cell.words) word = preferred_ == one.copy ? &one : word;
        split->settled = word != nullptr;
        out_.disagreements.push_back(std::move(*split));
      }
      if (word != nullptr) change.cells.push_back({cell.column, true, word->from, word->to});
    }
    if (change.cells.empty()) return;
    ++out_.counts.changing;
    out_.counts.cells += change.cells.size();
    out_.changes.add(change);
  }

  static std::optional<Disagreement> disagreement(const Touched& record, const Cell& cell) {
    const Column* column = record.table->column(cell.column);
    Disagreement out{record.table, record.key, cell.column, cell.words.back().from, {}, false};
    for (const Word& word : cell.words) {
      const bool isSaid = std::any_of(out.words.begin(), out.words.end(), [&](const Disagreement::Word& said) {
        return sameValue(said.to, word.to) ||
               (column != nullptr && !said.to.isNull() && !word.to.isNull() && sameInColumn(*column, said.to, word.to));
      });
      if (!isSaid) out.words.push_back({word.copy, word.to});
    }
    return out.words.size() > 1 ? std::optional(std::move(out)) : std::nullopt;
  }

  const std::vector<ReturnedCopy>& copies_;
  std::optional<std::size_t> preferred_;
  std::map<const Table*, std::unordered_map<ValueTuple, std::size_t, TupleHash, TupleSame>> places_;
  std::vector<Touched> touched_;
  BroughtTogether out_;
};

}  // namespace

BroughtTogether bringTogether(const std::vector<ReturnedCopy>& copies, std::optional<std::size_t> preferred) {
  return Together(copies, preferred).run();
}

std::string inWords(const BroughtTogether& together) {
  const CorrectionCounts& c = together.counts;
  std::string out = several(c.lines, "row", "rows") + ": " + several(c.changing, "record changes", "records change") +
                    " in " + several(c.cells, "cell", "cells") + ", " +
                    several(c.already, "is as it was handed out", "are as they were handed out") + ", " +
                    several(c.failed, "fails", "fail");
  if (!together.disagreements.empty())
    out += "; they disagree in " + several(together.disagreements.size(), "cell", "cells");
  return out;
}

std::string inWords(const Disagreement& disagreement, const std::vector<ReturnedCopy>& copies) {
  std::string out = disagreement.column + " of " + recordInWords(disagreement.table->name, disagreement.key) + " (" +
                    valueInWords(disagreement.from) + "):";
  const char* between = " ";
  for (const Disagreement::Word& word : disagreement.words) {
    out += between + valueInWords(word.to) + " in " + copies[word.copy].name;
    between = ", ";
  }
  return out;
}

}  // namespace iterandum
