#include "core/value/text_forms.h"

#include <unicode/ucasemap.h>
#include <unicode/uchar.h>
#include <utf8proc.h>

#include <cstdlib>
#include <memory>

#include "core/value/value.h"

namespace iterandum {
namespace {

struct CloseCaseMap {
  void operator()(UCaseMap* map) const { ucasemap_close(map); }
};

// One for each thread: titling keeps a word iterator in it.
UCaseMap* caseMap() {
  thread_local const std::unique_ptr<UCaseMap, CloseCaseMap> kMap = [] {
    UErrorCode status = U_ZERO_ERROR;
    return std::unique_ptr<UCaseMap, CloseCaseMap>(ucasemap_open("", U_TITLECASE_NO_LOWERCASE, &status));
  }();
  return kMap.get();
}

template <typename Mapping>
std::string mapped(std::string_view text, const Mapping& mapping) {
  // ICU would put a mark in the place of bytes that are no UTF-8.
  if (text.empty() || caseMap() == nullptr || !isValidUtf8(text)) return std::string(text);
  // Few letters grow; where one does, ICU says how much room is wanted.
  std::string out(text.size() + 16, '\0');
  for (int round = 0; round < 2; ++round) {
    UErrorCode status = U_ZERO_ERROR;
    const std::int32_t size = mapping(out, status);
    if (U_SUCCESS(status)) {
      out.resize(static_cast<std::size_t>(size));
      return out;
    }
    if (status != U_BUFFER_OVERFLOW_ERROR) break;
    out.resize(static_cast<std::size_t>(size) + 1);
  }
  return std::string(text);
}

using CaseFunction = std::int32_t (*)(const UCaseMap*, char*, std::int32_t, const char*, std::int32_t, UErrorCode*);

std::string cased(std::string_view text, CaseFunction function) {
  return mapped(text, [&](std::string& out, UErrorCode& status) {
    return function(caseMap(), out.data(), static_cast<std::int32_t>(out.size()), text.data(),
                    static_cast<std::int32_t>(text.size()), &status);
  });
}

struct Letter {
  utf8proc_int32_t code = 0;
  std::size_t bytes = 1;
};

// What is no UTF-8 goes byte by byte.
Letter letterAt(std::string_view text, std::size_t at) {
  Letter out;
  const auto lead = static_cast<unsigned char>(text[at]);
  if (lead < 0x80) {
    out.code = lead;
    return out;
  }
  const utf8proc_ssize_t read = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data() + at),
                                                 static_cast<utf8proc_ssize_t>(text.size() - at), &out.code);
  if (read > 0) {
    out.bytes = static_cast<std::size_t>(read);
  } else {
    out.code = 0xFFFD;
  }
  return out;
}

bool isLineEnd(utf8proc_int32_t code) {
  return code == '\n' || code == '\r' || code == 0x85 || code == 0x2028 || code == 0x2029;
}

bool isSpace(utf8proc_int32_t code) { return u_isUWhiteSpace(code) != 0; }

// Goes over the beginnings of characters, until `visit` says no.
template <typename Visit>
void overCharacters(std::string_view text, const Visit& visit) {
  utf8proc_int32_t state = 0;
  utf8proc_int32_t before = 0;
  for (std::size_t at = 0; at < text.size();) {
    const Letter letter = letterAt(text, at);
    const bool begins = at == 0 || utf8proc_grapheme_break_stateful(before, letter.code, &state) != 0;
    if (begins && !visit(at)) return;
    before = letter.code;
    at += letter.bytes;
  }
}

}  // namespace

std::string upperCase(std::string_view text) { return cased(text, ucasemap_utf8ToUpper); }
std::string lowerCase(std::string_view text) { return cased(text, ucasemap_utf8ToLower); }

std::string capitalised(std::string_view text) {
  return mapped(text, [&](std::string& out, UErrorCode& status) {
    return ucasemap_utf8ToTitle(caseMap(), out.data(), static_cast<std::int32_t>(out.size()), text.data(),
                                static_cast<std::int32_t>(text.size()), &status);
  });
}

std::string sentenceCase(std::string_view text) {
  for (std::size_t at = 0; at < text.size();) {
    const Letter letter = letterAt(text, at);
    if (u_isalpha(letter.code)) {
      const std::size_t end = at + characterOffset(text.substr(at), 1);
      return std::string(text.substr(0, at)) + capitalised(text.substr(at, end - at)) + std::string(text.substr(end));
    }
    at += letter.bytes;
  }
  return std::string(text);
}

std::string composed(std::string_view text) {
  utf8proc_uint8_t* out = nullptr;
  const utf8proc_ssize_t size =
      utf8proc_map(reinterpret_cast<const utf8proc_uint8_t*>(text.data()), static_cast<utf8proc_ssize_t>(text.size()),
                   &out, static_cast<utf8proc_option_t>(UTF8PROC_STABLE | UTF8PROC_COMPOSE));
  if (size < 0) return std::string(text);
  const std::unique_ptr<utf8proc_uint8_t, decltype(&std::free)> held(out, &std::free);
  return {reinterpret_cast<const char*>(out), static_cast<std::size_t>(size)};
}

std::string plainMarks(std::string_view text) {
  std::string out;
  for (std::size_t at = 0; at < text.size();) {
    const Letter letter = letterAt(text, at);
    // Hyphens, dashes and the minus; single and double quotation marks, primes.
    const auto c = letter.code;
    if ((c >= 0x2010 && c <= 0x2015) || c == 0x2212) {
      out += '-';
    } else if ((c >= 0x2018 && c <= 0x201B) || c == 0x2032 || c == 0x2039 || c == 0x203A) {
      out += '\'';
    } else if ((c >= 0x201C && c <= 0x201F) || c == 0x2033 || c == 0x00AB || c == 0x00BB) {
      out += '"';
    } else {
      out.append(text.substr(at, letter.bytes));
    }
    at += letter.bytes;
  }
  return out;
}

std::string withoutNoughts(std::string_view text) {
  const auto isDigit = [](char c) { return c >= '0' && c <= '9'; };
  const std::size_t sign = text.starts_with('-') || text.starts_with('+') ? 1 : 0;
  std::size_t at = sign;
  while (at + 1 < text.size() && text[at] == '0' && isDigit(text[at + 1])) ++at;
  return std::string(text.substr(0, sign)) + std::string(text.substr(at));
}

std::string trimmed(std::string_view text) {
  std::size_t begin = 0;
  while (begin < text.size()) {
    const Letter letter = letterAt(text, begin);
    if (!isSpace(letter.code)) break;
    begin += letter.bytes;
  }
  std::size_t end = begin;
  for (std::size_t at = begin; at < text.size();) {
    const Letter letter = letterAt(text, at);
    at += letter.bytes;
    if (!isSpace(letter.code)) end = at;
  }
  return std::string(text.substr(begin, end - begin));
}

std::string tidied(std::string_view text) {
  const std::string inner = trimmed(text);
  std::string out;
  bool blank = false;
  for (std::size_t at = 0; at < inner.size();) {
    const Letter letter = letterAt(inner, at);
    const bool isBlank = isSpace(letter.code) && !isLineEnd(letter.code);
    if (!isBlank) {
      if (blank) out += ' ';
      out.append(inner, at, letter.bytes);
    }
    blank = isBlank;
    at += letter.bytes;
  }
  return out;
}

std::string looseText(std::string_view text) { return lowerCase(tidied(text)); }

std::size_t characterCount(std::string_view text) {
  std::size_t count = 0;
  overCharacters(text, [&](std::size_t) { return ++count > 0; });
  return count;
}

std::size_t characterOffset(std::string_view text, std::uint64_t n) {
  std::size_t out = text.size();
  std::uint64_t count = 0;
  overCharacters(text, [&](std::size_t at) {
    if (count++ < n) return true;
    out = at;
    return false;
  });
  return out;
}

std::string withReplaced(std::string_view text, std::string_view part, std::string_view other) {
  if (part.empty()) return std::string(text);
  std::string out;
  std::size_t from = 0;
  for (std::size_t at = text.find(part); at != std::string_view::npos; at = text.find(part, from)) {
    out.append(text, from, at - from).append(other);
    from = at + part.size();
  }
  return out.append(text.substr(from));
}

}  // namespace iterandum
