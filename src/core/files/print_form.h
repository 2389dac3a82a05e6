// PrintForm: how records lie on paper: as a table, as cards, as labels; under which words; in which groups. A document
// of its own (docs/formats.md, "Print forms"), kept for a table under a name.
#pragma once

#include <string>
#include <string_view>

#include "core/base/result.h"

namespace iterandum {

struct PrintForm {
  enum class Kind { Table, Cards, Labels };
  enum class Turned { AsItFits, Upright, Lying };
  std::string name;
  Kind kind = Kind::Table;
  std::string title;  // empty: the sentence
  Turned turned = Turned::AsItFits;
  int points = 8;          // of the letters
  std::string groupBy;     // a column, as readColumnPath() takes it; empty: no groups. They come in its order.
  bool cardAPage = false;  // Cards: each on a page of its own
  int across = 3;          // Labels: in a row, and rows on a page
  int down = 8;
  bool asStored = false;  // keys and codes, not names and what lenses show
  friend bool operator==(const PrintForm&, const PrintForm&) = default;
};

// What letters can be set in, and how many labels a page takes.
inline constexpr int kFewestPoints = 5;
inline constexpr int kMostPoints = 24;
inline constexpr int kMostLabels = 20;  // in a row, or rows

[[nodiscard]] std::string printFormToJson(const PrintForm& form);
// Errors: InvalidFile with the JSON Pointer.
[[nodiscard]] Result<PrintForm> printFormFromJson(std::string_view document);

}  // namespace iterandum
