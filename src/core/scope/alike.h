// Spellings that are nearly alike: the same but for case, accents, blanks and signs, or with one letter more, less or
// other.
#pragma once

#include <cstddef>
#include <span>
#include <string>
#include <vector>

namespace iterandum {

// Groups of two or more positions in `texts` that may be spellings of the same. Texts whose digits differ are never of
// one group: they number things. In each group, and between groups by their first, the order of `texts`.
// Neighbours of one edit are found by the variants that lack one letter (the deletion neighbourhood of M. Mor and
// A. S. Fraenkel, "A hash code method for detecting and correcting spelling errors", 1982): the work grows with the
// length of all texts together.
[[nodiscard]] std::vector<std::vector<std::size_t>> alikeGroups(std::span<const std::string> texts);

// What two spellings have in common that differ in case, accents, blanks and signs alone.
[[nodiscard]] std::string plainSpelling(const std::string& text);

}  // namespace iterandum
