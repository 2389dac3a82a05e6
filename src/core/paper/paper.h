// What would change, and what was changed, as a page to be printed, mailed and signed by hand: one HTML document that
// needs nothing else, readable without Iterandum. Every text of the database goes through visibleText().
#pragma once

#include <string>

#include "core/apply/receipt.h"
#include "core/paper/record_names.h"
#include "core/review/finding.h"

namespace iterandum {

struct PaperHead {
  std::string title;     // why; may be empty
  std::string database;  // never a password
  std::string at;        // when it was reviewed, RFC 3339
  std::string by;        // by whom
  std::vector<Comment> comments = {};
};

// More records of a group than these are counted, not listed.
inline constexpr std::size_t kMostOnPaper = 2000;

// Asks for the names of all that will be listed.
void wantNames(const ChangeList& changes, RecordNames& names);
void wantNames(const Receipt& receipt, RecordNames& names);

// `review` is of these changes. With lines for a signature.
[[nodiscard]] std::string reviewPaper(const PaperHead& head, const ChangeList& changes, const Review& review,
                                      const RecordNames& names);
[[nodiscard]] std::string receiptPaper(const Receipt& receipt, const RecordNames& names);

}  // namespace iterandum
