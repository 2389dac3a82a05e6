// Gesture: one act of staging, over one cell or a million; one step of undo.
//
// The list of gestures is what is kept on disk; a change set is what the gestures up to some position amount to.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/catalogue/catalogue.h"
#include "core/changes/file_origin.h"
#include "core/value/value_column.h"

namespace iterandum {

struct GesturePart {
  enum class Kind : std::uint8_t {
    Edit,          // cells of `column` in existing records
    Remove,        // existing records; `records` holds what they held
    PutBackCells,  // cells of `column` in existing records are no longer changed
    PutBack,       // existing records are no longer changed or removed
    KeepMine,      // `from` of cells of `column` becomes what the database holds now; the correction stays
    Add,           // new records with these ids
    EditAdded,     // cells of `column` in new records
    DropAdded      // new records are no longer wanted
  };
  Kind kind = Kind::Edit;
  TableName table;
  std::vector<std::string> keyColumns;
  std::vector<ValueColumn> keys;  // existing records: one for each key column
  std::string column;
  ValueColumn from;                        // Edit, KeepMine: what the cells held
  ValueColumn to;                          // Edit, EditAdded
  std::vector<std::string> recordColumns;  // Remove
  std::vector<ValueColumn> records;        // Remove
  std::vector<std::uint64_t> addedIds;     // Add, EditAdded, DropAdded
  std::vector<LineOrigin> origins = {};    // Edit, Add, EditAdded: one for each row, or none; of the gesture's files

  [[nodiscard]] std::size_t rows() const {
    return addedIds.empty() ? (keys.empty() ? 0 : keys[0].size()) : addedIds.size();
  }
};

struct Gesture {
  std::string title;  // in words: "Condition to 3 in 38 records"
  std::vector<GesturePart> parts;
  std::vector<SourceFile> files = {};  // that its records come from
};

[[nodiscard]] std::string packGesture(const Gesture& gesture);
[[nodiscard]] Result<Gesture> unpackGesture(std::string_view bytes);

}  // namespace iterandum
