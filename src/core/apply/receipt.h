// Receipt: what is left of an applied change set: before, after, when, who. It can be taken back.
//
// In memory and in the store it is columns, like the change set it came from; as JSON it is the contract's document.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/changes/change_list.h"
#include "core/changes/comment.h"
#include "core/changes/signature.h"

namespace iterandum {

enum class Outcome : std::uint8_t { Applied, AlreadySo, Skipped };
[[nodiscard]] const char* outcomeName(Outcome outcome);

struct ReceiptBlock {
  Action action = Action::Edit;
  TableName table;
  bool cascaded = false;  // done by the database because of a change
  std::vector<std::string> keyColumns;
  std::vector<ValueColumn> keys;            // as the change named the record; for additions the new key
  std::vector<std::string> columns;         // of before and after
  std::vector<std::string> anyTypeColumns;  // those that may hold any type
  std::vector<std::string> written;         // columns that can be written back
  std::vector<ValueColumn> before;          // empty for additions
  std::vector<ValueColumn> after;           // empty for removals
  // By row of an edit: columns that were written though they held the same before and after. A cascade would have moved
  // them on; taking back has to keep them in the same way.
  std::map<std::uint32_t, std::vector<std::string>> kept;
  std::vector<Outcome> outcomes;
  std::vector<std::uint32_t> changeIndex;

  [[nodiscard]] std::size_t rows() const { return changeIndex.size(); }
};

struct Receipt {
  std::string appliedAt;  // RFC 3339, UTC
  std::string appliedBy;
  std::string database;  // never with a password
  std::string title;
  std::vector<ReceiptBlock> blocks;
  FileOrigins origins;                // by the index of the change
  std::vector<Signature> signatures;  // of those who signed just this
  std::vector<Comment> comments;      // what was said of it before

  [[nodiscard]] std::size_t appliedCount() const;
};

// `onOneLine`: without a line end, nowhere in it.
[[nodiscard]] std::string receiptJson(const Receipt& receipt, bool onOneLine = false);
// Errors: InvalidFile with the place.
[[nodiscard]] Result<Receipt> readReceiptJson(std::string_view document);

[[nodiscard]] std::string packReceipt(const Receipt& receipt);
[[nodiscard]] Result<Receipt> unpackReceipt(std::string_view bytes);

// One record of a receipt.
struct ReceiptRow {
  std::uint32_t block = 0;
  std::uint32_t row = 0;
  friend auto operator<=>(const ReceiptRow&, const ReceiptRow&) = default;
};

struct Reversal {
  ChangeList changes;
  std::vector<ReceiptRow> rows;    // of each change, by its index
  std::vector<std::string> notes;  // what cannot be brought back
};
// The change set that takes the receipt back, guarded by the values that the receipt left behind.
[[nodiscard]] Reversal revertReceipt(const Receipt& receipt);

}  // namespace iterandum
