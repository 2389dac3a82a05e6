// Replacing in texts: a part, a beginning, an end, all of it, or what fits a regular expression (ICU's, which is
// Perl's as far as people use it).
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/acts/act.h"

namespace iterandum {

class TextReplacement {
 public:
  // `act` is a Replace. Errors: InvalidInput, a pattern that is none, with what is wrong with it and where.
  [[nodiscard]] static Result<TextReplacement> make(const Act& act);
  // The text with all of it replaced, into `out`; whether that is another one: else `out` is of no account. In any
  // case: letter by letter, as conditions take them. Not from several threads at once. Errors: InvalidInput, the
  // pattern takes too long on this text, or it becomes too long.
  [[nodiscard]] Result<bool> in(std::string_view text, std::string& out) const;

 private:
  class Pattern;
  // Where each byte of a text in small letters comes from.
  struct Folded {
    std::string text;
    std::vector<std::size_t> from;  // empty: each from the same place
    [[nodiscard]] std::size_t origin(std::size_t at) const { return from.empty() ? at : from[at]; }
  };
  void fold(std::string_view text) const;
  // False: there is nothing to replace.
  bool plainly(std::string_view text, std::string& out) const;

  std::string part_;  // in small letters where capitals are not told apart
  std::string with_;
  Act::Where where_ = Act::Where::Inside;
  bool exactCase_ = false;
  std::shared_ptr<Pattern> pattern_;
  mutable Folded folded_;  // its room is used again
};

}  // namespace iterandum
