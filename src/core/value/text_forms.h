// What is done to texts: capitals and small letters, blanks, and parts of them by characters as people see them.
// Letters change by Unicode's full mappings as ICU has them, in no language in particular. Texts are UTF-8; what is
// none stays as it is.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace iterandum {

[[nodiscard]] std::string upperCase(std::string_view text);
[[nodiscard]] std::string lowerCase(std::string_view text);
// Each word begins with a large letter; the other letters stay.
[[nodiscard]] std::string capitalised(std::string_view text);

// The first letter is large; the other letters stay.
[[nodiscard]] std::string sentenceCase(std::string_view text);
// Letters with marks in one form, Unicode's NFC: what looks the same is the same.
[[nodiscard]] std::string composed(std::string_view text);
// Dashes and quotation marks as a keyboard has them: - ' "
[[nodiscard]] std::string plainMarks(std::string_view text);
// Without noughts in front of other digits, behind a sign: "007" becomes "7", "-00.5" "-0.5".
[[nodiscard]] std::string withoutNoughts(std::string_view text);

// Without blanks and line ends at both ends.
[[nodiscard]] std::string trimmed(std::string_view text);
// The same, and each run of blanks inside is one blank. Line ends stay.
[[nodiscard]] std::string tidied(std::string_view text);
// Without regard to capitals, blanks at the ends and doubled ones.
[[nodiscard]] std::string looseText(std::string_view text);

// Characters as people see them: extended grapheme clusters of Unicode.
[[nodiscard]] std::size_t characterCount(std::string_view text);
// Where character number `n`, from 0, begins, in bytes; the end of the text where there are not so many.
[[nodiscard]] std::size_t characterOffset(std::string_view text, std::uint64_t n);

// Every `part` becomes `other`; capitals are told apart. An empty part changes nothing.
[[nodiscard]] std::string withReplaced(std::string_view text, std::string_view part, std::string_view other);

}  // namespace iterandum
