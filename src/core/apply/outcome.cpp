#include "core/apply/outcome.h"

#include <algorithm>
#include <functional>
#include <map>
#include <numeric>
#include <unordered_map>

#include "core/base/names.h"
#include "core/review/finding.h"

namespace iterandum {
namespace {

struct Evidence {
  std::uint64_t written = 0;
  std::uint64_t notWritten = 0;
};

// What lies under one key when nothing was written, and when all was; nothing: no record.
struct Picture {
  std::optional<ValueTuple> start;
  std::optional<ValueTuple> end;
};

// All keys of one table that the receipt touches. Records that change places are told apart by what else they hold.
struct TablePictures {
  std::vector<std::string> columns;
  std::unordered_map<ValueTuple, Picture, TupleHash, TupleSame> byKey;
};

ValueTuple recordOf(const std::vector<ValueColumn>& values, std::size_t row) {
  ValueTuple out;
  for (const ValueColumn& column : values) out.push_back(column.at(row));
  return out;
}

// The record's identity: among its values, or, for a row id, as the change names it. Empty: not known.
ValueTuple identityOf(const Table& table, const ReceiptBlock& block, const ValueTuple& record, std::size_t row) {
  ValueTuple out;
  for (const std::string& name : table.writeKeyColumns()) {
    const auto at = std::find(block.columns.begin(), block.columns.end(), name);
    const auto key = std::find(block.keyColumns.begin(), block.keyColumns.end(), name);
    if (at != block.columns.end()) {
      out.push_back(record[static_cast<std::size_t>(at - block.columns.begin())]);
    } else if (key != block.keyColumns.end()) {
      out.push_back(block.keys[static_cast<std::size_t>(key - block.keyColumns.begin())].at(row));
    } else {
      return {};
    }
  }
  return out;
}

void addPictures(const Table& table, const ReceiptBlock& block, TablePictures& pictures) {
  for (std::size_t row = 0; row < block.rows(); ++row) {
    if (block.outcomes[row] != Outcome::Applied) continue;
    const auto add = [&](const std::vector<ValueColumn>& values, std::optional<ValueTuple> Picture::*when) {
      ValueTuple record = recordOf(values, row);
      const ValueTuple key = identityOf(table, block, record, row);
      if (!key.empty()) pictures.byKey[key].*when = std::move(record);
    };
    if (block.action != Action::Add) add(block.before, &Picture::start);
    if (block.action != Action::Remove) add(block.after, &Picture::end);
  }
}

// Where there is a record either way, what differs between the two tells; else whether it is there. Another record
// under the key tells nothing.
void weigh(const Picture& picture, const std::optional<ValueTuple>& now, Evidence& evidence) {
  std::vector<std::size_t> telling;
  if (picture.start && picture.end) {
    for (std::size_t c = 0; c < picture.start->size(); ++c) {
      if (!sameValue((*picture.start)[c], (*picture.end)[c])) telling.push_back(c);
    }
    if (telling.empty()) return;
  } else {
    telling.resize(picture.start ? picture.start->size() : picture.end->size());
    std::iota(telling.begin(), telling.end(), std::size_t{0});
  }
  const auto fits = [&](const std::optional<ValueTuple>& wanted) {
    if (!wanted || !now) return !wanted && !now;
    return std::all_of(telling.begin(), telling.end(),
                       [&](std::size_t c) { return sameValue((*now)[c], (*wanted)[c]); });
  };
  if (fits(picture.end)) ++evidence.written;
  if (fits(picture.start)) ++evidence.notWritten;
}

// What lies under each key now.
using PictureSink = std::function<void(const ValueTuple& key, const Picture&, const std::optional<ValueTuple>& now)>;

Status lookAtAll(Session& session, const Table& table, const TablePictures& pictures, const PictureSink& sink,
                 Progress& progress) {
  std::vector<ValueColumn> keys(table.writeKeyColumns().size());
  std::vector<std::pair<const ValueTuple*, const Picture*>> order;
  for (const auto& [key, picture] : pictures.byKey) {
    for (std::size_t k = 0; k < keys.size(); ++k) keys[k].push(key[k]);
    order.emplace_back(&key, &picture);
  }
  std::vector<std::uint32_t> rows(order.size());
  std::iota(rows.begin(), rows.end(), 0U);
  std::vector<std::optional<ValueTuple>> found(order.size());
  KeyRead read{&table, table.writeKeyColumns(), &keys, rows, pictures.columns, 2};
  ITERANDUM_TRY(session.readByKeys(
      read, [&](std::size_t row, ValueTuple&& record) { found[row] = std::move(record); }, progress));
  for (std::size_t i = 0; i < order.size(); ++i) sink(*order[i].first, *order[i].second, found[i]);
  return {};
}

}  // namespace

Result<WrittenState> writtenState(Session& session, const Catalogue& catalogue, const Receipt& receipt,
                                  Progress& progress) {
  std::map<const Table*, TablePictures> all;
  for (const ReceiptBlock& block : receipt.blocks) {
    const Table* table = catalogue.find(block.table);
    if (table == nullptr || block.keys.empty()) return WrittenState::NotKnown;
    const bool known = std::all_of(block.columns.begin(), block.columns.end(),
                                   [&](const std::string& name) { return table->column(name) != nullptr; });
    TablePictures& pictures = all[table];
    if (pictures.columns.empty()) pictures.columns = block.columns;
    if (!known || pictures.columns != block.columns) return WrittenState::NotKnown;
    addPictures(*table, block, pictures);
  }
  Evidence evidence;
  const auto weighAll = [&]() -> Status {
    evidence = {};
    for (const auto& [table, pictures] : all) {
      ITERANDUM_TRY(lookAtAll(
          session, *table, pictures,
          [&](const ValueTuple&, const Picture& picture, const std::optional<ValueTuple>& now) {
            weigh(picture, now, evidence);
          },
          progress));
    }
    return {};
  };
  ITERANDUM_TRY(weighAll());
  if (evidence.written > 0 && evidence.notWritten == 0) return WrittenState::Written;
  // That something is not there yet is no proof: it may be on its way from another server.
  ITERANDUM_TRY(session.catchUp(progress));
  ITERANDUM_TRY(weighAll());
  if (evidence.written > 0 && evidence.notWritten == 0) return WrittenState::Written;
  const bool none = evidence.notWritten > 0 && evidence.written == 0;
  if (none && !session.mayStillArrive()) return WrittenState::NotWritten;
  return WrittenState::NotKnown;
}

Result<ReadBack> readBack(Session& session, const Catalogue& catalogue, const Receipt& receipt, Progress& progress) {
  constexpr std::size_t kMostNamed = 5;
  ReadBack out;
  std::map<std::pair<const Table*, std::vector<std::string>>, TablePictures> all;
  for (const ReceiptBlock& block : receipt.blocks) {
    const Table* table = catalogue.find(block.table);
    const bool known =
        table != nullptr && std::all_of(block.columns.begin(), block.columns.end(), [&](const auto& name) {
          return name == table->rowIdName || table->column(name) != nullptr;
        });
    if (!known || block.keys.empty()) continue;
    TablePictures& pictures = all[{table, block.columns}];
    pictures.columns = block.columns;
    addPictures(*table, block, pictures);
  }
  for (const auto& [where, pictures] : all) {
    const Table& table = *where.first;
    ITERANDUM_TRY(lookAtAll(
        session, table, pictures,
        [&](const ValueTuple& key, const Picture& picture, const std::optional<ValueTuple>& now) {
          ++out.records;
          const bool same = picture.end && now ? sameTuple(*picture.end, *now) : !picture.end && !now;
          if (same) return;
          ++out.different;
          if (out.first.size() < kMostNamed) out.first.push_back(recordInWords(table.name, key));
        },
        progress));
  }
  return out;
}

}  // namespace iterandum
