// Applying with the receipt kept for the test.
#pragma once

#include "support/test_database.h"

namespace iterandum::test {

// "applied", else the findings or the error in words.
inline std::string applyKeeping(TestDatabase& db, const ChangeList& changes, Receipt& kept) {
  Progress progress;
  LambdaKeeper keeper([&](const Receipt& receipt, ReceiptStage) {
    kept = receipt;
    return Status();
  });
  ApplyOptions options;
  options.keeper = &keeper;
  const auto applied = applyChanges(db.session(), db.catalogue(), changes, options, progress);
  return !applied ? applied.error().text() : (applied->receipt ? "applied" : findingsText(applied->review));
}

}  // namespace iterandum::test
