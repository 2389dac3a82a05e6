#include "core/acts/text_replacement.h"

#include <unicode/uregex.h>
#include <unicode/ustring.h>

#include <algorithm>
#include <optional>
#include <vector>

#include "core/value/small_letters.h"
#include "core/value/value.h"

namespace iterandum {
namespace {

constexpr std::size_t kLongest = std::size_t{64} << 20;

std::optional<std::u16string> utf16(std::string_view text) {
  std::u16string out(text.size(), u'\0');
  std::int32_t size = 0;
  UErrorCode status = U_ZERO_ERROR;
  u_strFromUTF8(out.data(), static_cast<std::int32_t>(out.size()), &size, text.data(),
                static_cast<std::int32_t>(text.size()), &status);
  if (U_FAILURE(status)) return std::nullopt;
  out.resize(static_cast<std::size_t>(size));
  return out;
}

std::string utf8(std::u16string_view text) {
  std::string out(text.size() * 3, '\0');
  std::int32_t size = 0;
  UErrorCode status = U_ZERO_ERROR;
  u_strToUTF8(out.data(), static_cast<std::int32_t>(out.size()), &size, text.data(),
              static_cast<std::int32_t>(text.size()), &status);
  out.resize(U_SUCCESS(status) ? static_cast<std::size_t>(size) : 0);
  return out;
}

bool isAscii(std::string_view text) {
  return std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
}

}  // namespace

// A regular expression and what is put in its place.
class TextReplacement::Pattern {
 public:
  static Result<std::shared_ptr<Pattern>> make(const Act& act) {
    const auto wide = utf16(act.text);
    if (!wide) return fail(ErrorKind::InvalidInput, "the pattern is no UTF-8");
    auto out = std::make_shared<Pattern>();
    UErrorCode status = U_ZERO_ERROR;
    UParseError where{};
    out->regex_.reset(uregex_open(wide->data(), static_cast<std::int32_t>(wide->size()),
                                  act.exactCase ? 0 : UREGEX_CASE_INSENSITIVE, &where, &status));
    if (U_FAILURE(status)) {
      return fail(ErrorKind::InvalidInput, "the pattern '" + act.text + "' cannot be read (" +
                                               std::string(u_errorName(status)) + " at position " +
                                               std::to_string(std::max(where.offset, 0) + 1) + ")");
    }
    // In steps of the engine, each about a millisecond.
    uregex_setTimeLimit(out->regex_.get(), kTimeLimit, &status);
    const std::int32_t groups = uregex_groupCount(out->regex_.get(), &status);
    ITERANDUM_TRY(out->readReplacement(act.with, groups));
    return out;
  }

  Result<bool> in(std::string_view text, std::string& into) {
    const auto wide = utf16(text);
    if (!wide) return fail(ErrorKind::InvalidInput, "this is no text in UTF-8");
    UErrorCode status = U_ZERO_ERROR;
    uregex_setText(regex_.get(), wide->data(), static_cast<std::int32_t>(wide->size()), &status);
    std::u16string out;
    std::size_t from = 0;
    while (uregex_findNext(regex_.get(), &status) != 0 && U_SUCCESS(status)) {
      const auto begin = static_cast<std::size_t>(uregex_start(regex_.get(), 0, &status));
      out.append(*wide, from, begin - from);
      for (const Piece& piece : pieces_) {
        if (piece.group < 0) {
          out += piece.text;
          continue;
        }
        const std::int32_t first = uregex_start(regex_.get(), piece.group, &status);
        const std::int32_t last = uregex_end(regex_.get(), piece.group, &status);
        if (first >= 0) out.append(*wide, static_cast<std::size_t>(first), static_cast<std::size_t>(last - first));
      }
      from = static_cast<std::size_t>(uregex_end(regex_.get(), 0, &status));
      if (out.size() > kLongest) return fail(ErrorKind::InvalidInput, "the text becomes too long");
    }
    if (U_FAILURE(status)) {
      return fail(ErrorKind::InvalidInput, status == U_REGEX_TIME_OUT || status == U_REGEX_STACK_OVERFLOW
                                               ? "the pattern takes too long on this text"
                                               : std::string("the pattern fails: ") + u_errorName(status));
    }
    out.append(*wide, from);
    if (out == *wide) return false;
    into = utf8(out);
    return true;
  }

 private:
  static constexpr std::int32_t kTimeLimit = 200;
  struct Close {
    void operator()(URegularExpression* regex) const { uregex_close(regex); }
  };
  struct Piece {
    std::u16string text;
    std::int32_t group = -1;
  };

  // $1 is a group, as many digits as make one; a backslash takes the meaning from what follows; any other $ is a $.
  Status readReplacement(const std::string& with, std::int32_t groups) {
    const auto wide = utf16(with);
    if (!wide) return fail(ErrorKind::InvalidInput, "what is put in its place is no UTF-8");
    pieces_.emplace_back();
    for (std::size_t at = 0; at < wide->size(); ++at) {
      const char16_t c = (*wide)[at];
      const auto digit = [&](std::size_t i) {
        return i < wide->size() && (*wide)[i] >= u'0' && (*wide)[i] <= u'9' ? (*wide)[i] - u'0' : -1;
      };
      if (c == u'\\' && at + 1 < wide->size()) {
        pieces_.back().text += (*wide)[++at];
      } else if (c == u'$' && digit(at + 1) >= 0) {
        std::int32_t group = digit(++at);
        if (group > groups) {
          return fail(ErrorKind::InvalidInput, "the pattern has " + std::to_string(groups) + " groups; there is no $" +
                                                   std::to_string(group) + " (a $ itself is written \\$)");
        }
        while (digit(at + 1) >= 0 && group * 10 + digit(at + 1) <= groups) group = group * 10 + digit(++at);
        pieces_.push_back({{}, group});
        pieces_.emplace_back();
      } else {
        pieces_.back().text += c;
      }
    }
    return {};
  }

  std::unique_ptr<URegularExpression, Close> regex_;
  std::vector<Piece> pieces_;
};

Result<TextReplacement> TextReplacement::make(const Act& act) {
  TextReplacement out;
  out.where_ = act.where;
  out.exactCase_ = act.exactCase;
  out.with_ = act.with;
  if (act.where == Act::Where::Pattern) {
    ITERANDUM_ASSIGN(out.pattern_, Pattern::make(act));
    return out;
  }
  if (act.text.empty() && act.where != Act::Where::Whole) {
    return fail(ErrorKind::InvalidInput, "what is looked for is empty; only all of a text can be empty");
  }
  out.part_ = act.exactCase ? act.text : smallLetters(act.text);
  return out;
}

Result<bool> TextReplacement::in(std::string_view text, std::string& out) const {
  if (pattern_) return pattern_->in(text, out);
  if (!plainly(text, out)) return false;
  if (out.size() > kLongest) return fail(ErrorKind::InvalidInput, "the text becomes too long");
  return out != text;
}

void TextReplacement::fold(std::string_view text) const {
  folded_.from.clear();
  if (exactCase_ || isAscii(text)) {
    folded_.text.assign(text);
    if (exactCase_) return;
    for (char& c : folded_.text) c = static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c);
    return;
  }
  folded_.text.clear();
  for (std::size_t at = 0; at < text.size();) {
    std::size_t end = at + 1;
    while (end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) ++end;
    const std::string small = smallLetters(text.substr(at, end - at));
    folded_.from.insert(folded_.from.end(), small.size(), at);
    folded_.text += small;
    at = end;
  }
  folded_.from.push_back(text.size());
}

bool TextReplacement::plainly(std::string_view text, std::string& out) const {
  fold(text);
  const Folded& in = folded_;
  const std::size_t size = part_.size();
  switch (where_) {
    case Act::Where::Whole:
      if (in.text != part_) return false;
      out = with_;
      return true;
    case Act::Where::Start:
      if (!in.text.starts_with(part_)) return false;
      out.assign(with_).append(text.substr(in.origin(size)));
      return true;
    case Act::Where::End:
      if (!in.text.ends_with(part_)) return false;
      out.assign(text.substr(0, in.origin(in.text.size() - size))).append(with_);
      return true;
    default:
      break;
  }
  std::size_t at = in.text.find(part_);
  if (at == std::string::npos) return false;
  out.clear();
  std::size_t from = 0;
  for (; at != std::string::npos; at = in.text.find(part_, at + size)) {
    out.append(text.substr(from, in.origin(at) - from)).append(with_);
    from = in.origin(at + size);
  }
  out.append(text.substr(from));
  return true;
}

}  // namespace iterandum
