#include "core/acts/adopt_changes.h"

#include <algorithm>
#include <numeric>
#include <optional>

#include "core/catalogue/column_rules.h"
#include "core/catalogue/record_words.h"

namespace iterandum {
namespace {

// The changes of one block: of one table, one action and the same columns.
class Adoption {
 public:
  Adoption(Session& session, const Catalogue& catalogue, const ChangeBlock& block, AdoptedChanges& out,
           Progress& progress)
      : session_(session), block_(block), table_(catalogue.find(block.table)), out_(out), progress_(progress) {}

  Status run() {
    if (const std::string why = misfit(); !why.empty()) {
      for (std::size_t row = 0; row < block_.rows(); ++row) leaveOut(row, why);
      return {};
    }
    found_.resize(block_.rows());
    counts_.assign(block_.rows(), 0);
    const bool renamed = block_.action != Action::Add && block_.keyColumns != table_->writeKeyColumns();
    if (renamed || unseen() || blindRemoval()) ITERANDUM_TRY(readNow());
    for (std::size_t row = 0; row < block_.rows(); ++row) adopt(row, renamed);
    return {};
  }

 private:
  [[nodiscard]] std::string misfit() const {
    if (table_ == nullptr) return "there is no table " + displayName(block_.table) + " here";
    if (block_.action != Action::Add && table_->writeKeyColumns().empty()) {
      return "records of " + displayName(block_.table) + " cannot be named here";
    }
    const std::vector<std::string> known = table_->recordColumns();
    const auto missing = [&](const std::string& column) {
      return std::find(known.begin(), known.end(), column) == known.end() && column != table_->rowIdName;
    };
    for (const std::string& column : block_.keyColumns) {
      if (missing(column)) return displayName(block_.table) + " has no column " + column + " here";
    }
    for (const ChangeBlock::Cells& cells : block_.cells) {
      if (missing(cells.column)) return displayName(block_.table) + " has no column " + cells.column + " here";
    }
    return {};
  }

  // A removal that tells nothing of its record is to take what is seen of it now, too.
  [[nodiscard]] bool blindRemoval() const { return block_.action == Action::Remove && block_.cells.empty(); }
  [[nodiscard]] bool unseen() const {
    return block_.action == Action::Edit && std::any_of(block_.cells.begin(), block_.cells.end(),
                                                        [](const ChangeBlock::Cells& c) { return !c.hasFrom; });
  }

  // Of each record its key here, and what its cells hold.
  Status readNow() {
    std::vector<std::uint32_t> rows(block_.rows());
    std::iota(rows.begin(), rows.end(), 0U);
    std::vector<std::string> columns = table_->writeKeyColumns();
    for (const ChangeBlock::Cells& cells : block_.cells) columns.push_back(cells.column);
    if (blindRemoval()) {
      for (const std::string& column : table_->recordColumns()) columns.push_back(column);
    }
    const KeyRead read{table_, block_.keyColumns, &block_.keys, rows, columns, 2};
    return session_.readByKeys(
        read,
        [this](std::size_t row, ValueTuple&& record) {
          ++counts_[row];
          found_[row] = std::move(record);
        },
        progress_);
  }

  void adopt(std::size_t row, bool renamed) {
    Change change = block_.change(row);
    giveForms(change);
    const std::vector<std::string> names = table_->writeKeyColumns();
    if (renamed) {
      if (counts_[row] != 1) {
        return leaveOut(row, counts_[row] == 0 ? "there is no such record here" : "several records are called so here");
      }
      change.keyColumns = names;
      change.key.assign(found_[row].begin(), found_[row].begin() + static_cast<std::ptrdiff_t>(names.size()));
    }
    for (std::size_t c = 0; block_.action == Action::Edit && c < change.cells.size(); ++c) {
      CellChange& cell = change.cells[c];
      if (cell.hasFrom) continue;
      // Where the record is gone there is nothing to be seen: the review says so.
      cell.hasFrom = true;
      cell.from = counts_[row] == 1 ? found_[row][names.size() + c] : Value();
      ++out_.guarded;
    }
    if (blindRemoval() && counts_[row] == 1) {
      const std::vector<std::string> whole = table_->recordColumns();
      for (std::size_t c = 0; c < whole.size(); ++c) {
        change.cells.push_back({whole[c], true, found_[row][names.size() + c], {}});
      }
      ++out_.guarded;
    }
    out_.changes.addAt(change, block_.changeIndex[row]);
  }

  // As the columns hold them: "4711" in a file is 4711 where numbers are. What they cannot hold stays as it is, for the
  // review to say.
  void giveForms(Change& change) const {
    const auto give = [&](const std::string& name, Value& value) {
      const Column* column = table_->column(name);
      if (column == nullptr || value.isNull() || value.kind() == Value::Kind::PendingKey) return;
      if (auto stored = storedForm(*column, value)) value = std::move(*stored);
    };
    for (std::size_t k = 0; k < change.key.size(); ++k) give(change.keyColumns[k], change.key[k]);
    for (CellChange& cell : change.cells) {
      if (cell.hasFrom) give(cell.column, cell.from);
      if (change.action != Action::Remove) give(cell.column, cell.to);
    }
  }

  void leaveOut(std::size_t row, const std::string& why) {
    const std::string record = block_.action == Action::Add ? "a new record of " + displayName(block_.table)
                                                            : recordInWords(block_.table, block_.key(row));
    out_.leftOut.push_back(record + ": " + why);
  }

  Session& session_;
  const ChangeBlock& block_;
  const Table* table_;
  AdoptedChanges& out_;
  Progress& progress_;
  std::vector<ValueTuple> found_;  // by row: the key here, then the cells
  std::vector<int> counts_;
};

}  // namespace

Result<AdoptedChanges> adoptChanges(Session& session, const Catalogue& catalogue, const ChangeList& list,
                                    Progress& progress) {
  AdoptedChanges out;
  out.changes.title = list.title;
  for (const ChangeBlock& block : list.blocks())
    ITERANDUM_TRY(Adoption(session, catalogue, block, out, progress).run());
  return out;
}

}  // namespace iterandum
