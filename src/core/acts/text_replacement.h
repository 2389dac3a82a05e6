// Replacing in texts: a part, a beginning, an end, all of it, or what fits a regular expression (ICU's, which is
// Perl's as far as people use it).
#pragma once

#include <memory>
#include <string>
#include <string_view>

#include "core/acts/act.h"

namespace iterandum {

class TextReplacement {
 public:
  // `act` is a Replace. Errors: InvalidInput, a pattern that is none, with what is wrong with it and where.
  [[nodiscard]] static Result<TextReplacement> make(const Act& act);
  // The text with all of it replaced. In any case: letter by letter, as conditions take them. Not from several threads
  // at once. Errors: InvalidInput, the pattern takes too long on this text, or it becomes too long.
  [[nodiscard]] Result<std::string> in(const std::string& text) const;

 private:
  class Pattern;
  [[nodiscard]] std::string plainly(const std::string& text) const;

  std::string part_;  // in small letters where capitals are not told apart
  std::string with_;
  Act::Where where_ = Act::Where::Inside;
  bool exactCase_ = false;
  std::shared_ptr<Pattern> pattern_;
};

}  // namespace iterandum
