#include "core/apply/receipt.h"

#include <algorithm>

#include "core/base/names.h"
#include "core/value/codec.h"

namespace iterandum {
namespace {

// 1 had no columns that were kept, 2 no lines of files, 3 no signatures, 4 no comments.
constexpr std::uint64_t kPackedVersion = 5;

// Whoever has an older version of this program can read what does not need the newest.
std::uint64_t versionFor(const Receipt& receipt) {
  if (!receipt.comments.empty()) return 5;
  if (!receipt.signatures.empty()) return 4;
  return receipt.origins.any() ? 3 : 2;
}

void writeNames(ByteWriter& out, const std::vector<std::string>& names) {
  out.number(names.size());
  for (const std::string& n : names) out.string(n);
}

std::vector<std::string> readNames(ByteReader& in) {
  std::vector<std::string> out;
  const std::size_t count = in.count();
  for (std::size_t i = 0; i < count && in.ok(); ++i) out.emplace_back(in.string());
  return out;
}

void writeColumns(ByteWriter& out, const std::vector<ValueColumn>& columns) {
  out.number(columns.size());
  for (const ValueColumn& c : columns) out.column(c);
}

std::vector<ValueColumn> readColumns(ByteReader& in) {
  std::vector<ValueColumn> out;
  const std::size_t count = in.count();
  for (std::size_t i = 0; i < count && in.ok(); ++i) out.push_back(in.column());
  return out;
}

bool sameColumn(const ValueColumn& a, const ValueColumn& b) {
  if (a.size() != b.size()) return false;
  for (std::size_t i = 0; i < a.size(); ++i) {
    if (!(a.at(i) == b.at(i))) return false;
  }
  return true;
}

// Most columns are the same before and after: those are not kept twice.
void writeAfter(ByteWriter& out, const ReceiptBlock& block) {
  out.number(block.after.size());
  for (std::size_t c = 0; c < block.after.size(); ++c) {
    const bool same = c < block.before.size() && sameColumn(block.before[c], block.after[c]);
    out.number(same ? 1 : 0);
    if (!same) out.column(block.after[c]);
  }
}

std::vector<ValueColumn> readAfter(ByteReader& in, const std::vector<ValueColumn>& before) {
  std::vector<ValueColumn> out;
  const std::size_t count = in.count();
  for (std::size_t c = 0; c < count && in.ok(); ++c) {
    const bool same = in.number() == 1;
    out.push_back(same && c < before.size() ? before[c] : in.column());
  }
  return out;
}

bool consistent(const ReceiptBlock& block) {
  const auto fits = [&](const std::vector<ValueColumn>& columns, std::size_t width) {
    return columns.empty() ||
           (columns.size() == width && std::all_of(columns.begin(), columns.end(),
                                                   [&](const ValueColumn& c) { return c.size() == block.rows(); }));
  };
  // Whoever takes an applied row back reads all columns of it.
  const bool applied =
      std::find(block.outcomes.begin(), block.outcomes.end(), Outcome::Applied) != block.outcomes.end();
  const bool hasBefore = block.before.size() == block.columns.size() || block.action == Action::Add;
  const bool hasAfter = block.after.size() == block.columns.size() || block.action == Action::Remove;
  return fits(block.keys, block.keyColumns.size()) && fits(block.before, block.columns.size()) &&
         fits(block.after, block.columns.size()) && block.outcomes.size() == block.rows() &&
         block.keys.size() == block.keyColumns.size() && (!applied || (hasBefore && hasAfter));
}

// --- taking back -----------------------------------------------------------------------------------------------------

void keyOf(const ReceiptBlock& block, std::size_t row, bool afterwards, Change& change) {
  change.keyColumns = block.keyColumns;
  for (std::size_t k = 0; k < block.keyColumns.size(); ++k) {
    const auto at = std::find(block.columns.begin(), block.columns.end(), block.keyColumns[k]);
    const bool known = afterwards && at != block.columns.end() && !block.after.empty();
    change.key.push_back(known ? block.after[static_cast<std::size_t>(at - block.columns.begin())].at(row)
                               : block.keys[k].at(row));
  }
}

Change revertRow(const ReceiptBlock& block, std::size_t row) {
  Change change;
  change.table = block.table;
  if (block.action == Action::Add) {
    change.action = Action::Remove;
    keyOf(block, row, true, change);
  } else if (block.action == Action::Remove) {
    change.action = Action::Add;
  } else {
    keyOf(block, row, true, change);
  }
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    CellChange cell;
    cell.column = block.columns[c];
    const bool writable = block.written.empty() || contains(block.written, cell.column);
    if (block.action == Action::Add) {
      cell.hasFrom = true;
      cell.from = block.after[c].at(row);
    } else if (block.action == Action::Remove) {
      if (!writable) continue;
      cell.to = block.before[c].at(row);
    } else {
      const auto keptHere = block.kept.find(static_cast<std::uint32_t>(row));
      const bool kept = keptHere != block.kept.end() && contains(keptHere->second, cell.column);
      if (!writable || (!kept && block.before[c].at(row) == block.after[c].at(row))) continue;
      cell.hasFrom = true;
      cell.from = block.after[c].at(row);
      cell.to = block.before[c].at(row);
    }
    change.cells.push_back(std::move(cell));
  }
  return change;
}

}  // namespace

const char* outcomeName(Outcome outcome) {
  switch (outcome) {
    case Outcome::Applied:
      return "applied";
    case Outcome::AlreadySo:
      return "already-so";
    case Outcome::Skipped:
      break;
  }
  return "skipped";
}

std::size_t Receipt::appliedCount() const {
  std::size_t n = 0;
  for (const ReceiptBlock& block : blocks) {
    if (block.cascaded) continue;
    n += static_cast<std::size_t>(std::count(block.outcomes.begin(), block.outcomes.end(), Outcome::Applied));
  }
  return n;
}

std::string packReceipt(const Receipt& receipt) {
  ByteWriter out;
  const std::uint64_t version = versionFor(receipt);
  out.number(version);
  for (const std::string* s : {&receipt.appliedAt, &receipt.appliedBy, &receipt.database, &receipt.title})
    out.string(*s);
  out.number(receipt.blocks.size());
  for (const ReceiptBlock& block : receipt.blocks) {
    out.number(static_cast<std::uint64_t>(block.action));
    out.string(block.table.schema);
    out.string(block.table.name);
    out.number(block.cascaded ? 1 : 0);
    writeNames(out, block.keyColumns);
    writeColumns(out, block.keys);
    writeNames(out, block.columns);
    writeNames(out, block.anyTypeColumns);
    writeNames(out, block.written);
    writeColumns(out, block.before);
    writeAfter(out, block);
    out.number(block.rows());
    for (std::size_t r = 0; r < block.rows(); ++r) {
      out.number(static_cast<std::uint64_t>(block.outcomes[r]));
      out.number(block.changeIndex[r]);
    }
    out.number(block.kept.size());
    for (const auto& [row, columns] : block.kept) {
      out.number(row);
      writeNames(out, columns);
    }
  }
  if (version < 3) return out.take();
  writeFiles(out, receipt.origins.files);
  std::vector<LineOrigin> origins;
  for (std::uint32_t i = 0; i < receipt.origins.end(); ++i) origins.push_back(receipt.origins.of(i));
  writeOrigins(out, origins);
  if (version >= 4) out.string(packSignatures(receipt.signatures));
  if (version >= 5) out.string(packComments(receipt.comments));
  return out.take();
}

Result<Receipt> unpackReceipt(std::string_view bytes) {
  ByteReader in(bytes);
  Receipt receipt;
  const std::uint64_t version = in.number();
  if (version < 1 || version > kPackedVersion)
    return fail(ErrorKind::InvalidFile, "this receipt was written by another version");
  for (std::string* s : {&receipt.appliedAt, &receipt.appliedBy, &receipt.database, &receipt.title}) *s = in.string();
  const std::size_t blocks = in.count();
  for (std::size_t b = 0; b < blocks && in.ok(); ++b) {
    ReceiptBlock block;
    block.action = static_cast<Action>(std::min<std::uint64_t>(in.number(), 2));
    block.table.schema = in.string();
    block.table.name = in.string();
    block.cascaded = in.number() == 1;
    block.keyColumns = readNames(in);
    block.keys = readColumns(in);
    block.columns = readNames(in);
    block.anyTypeColumns = readNames(in);
    block.written = readNames(in);
    block.before = readColumns(in);
    block.after = readAfter(in, block.before);
    const std::size_t rows = in.count();
    for (std::size_t r = 0; r < rows && in.ok(); ++r) {
      block.outcomes.push_back(static_cast<Outcome>(std::min<std::uint64_t>(in.number(), 2)));
      block.changeIndex.push_back(static_cast<std::uint32_t>(in.number()));
    }
    const std::size_t kept = version >= 2 ? in.count() : 0;
    for (std::size_t k = 0; k < kept && in.ok(); ++k) {
      const auto row = static_cast<std::uint32_t>(in.number());
      block.kept[row] = readNames(in);
    }
    if (!in.ok() || !consistent(block)) break;
    receipt.blocks.push_back(std::move(block));
  }
  bool complete = in.ok() && receipt.blocks.size() == blocks;
  if (complete && version >= 3) {
    receipt.origins.files = readFiles(in);
    const auto origins = readOrigins(in, receipt.origins.files.size());
    for (std::uint32_t i = 0; origins && i < origins->size(); ++i) receipt.origins.note(i, (*origins)[i]);
    complete = origins.has_value();
  }
  if (complete && version >= 4) {
    auto signatures = unpackSignatures(in.string());
    complete = in.ok() && signatures.has_value();
    if (complete) receipt.signatures = std::move(*signatures);
  }
  if (complete && version >= 5) {
    auto comments = unpackComments(in.string());
    complete = in.ok() && comments.has_value();
    if (complete) receipt.comments = std::move(*comments);
  }
  if (!complete) return fail(ErrorKind::InvalidFile, "the receipt is damaged");
  return receipt;
}

Reversal revertReceipt(const Receipt& receipt) {
  Reversal out;
  out.changes.title = receipt.title.empty() ? "Take back" : "Take back: " + receipt.title;
  bool additions = false;
  for (std::size_t b = receipt.blocks.size(); b-- > 0;) {
    const ReceiptBlock& block = receipt.blocks[b];
    for (std::size_t r = 0; r < block.rows(); ++r) {
      if (block.outcomes[r] != Outcome::Applied) continue;
      const Change change = revertRow(block, r);
      if (change.action == Action::Edit && change.cells.empty()) continue;
      additions = additions || block.action == Action::Add;
      out.changes.add(change);
      out.rows.push_back({static_cast<std::uint32_t>(b), static_cast<std::uint32_t>(r)});
    }
  }
  if (additions) out.notes.emplace_back("numbers that the database gave to new records are not given back");
  out.notes.emplace_back("what triggers did in other records or tables is not undone by this");
  return out;
}

}  // namespace iterandum
