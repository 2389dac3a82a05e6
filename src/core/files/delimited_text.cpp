#include "core/files/delimited_text.h"

#include <unicode/ucnv.h>

#include <algorithm>
#include <array>

namespace iterandum {
namespace {

Result<std::string> converted(const std::string& content, const char* encoding) {
  UErrorCode code = U_ZERO_ERROR;
  const auto length = static_cast<std::int32_t>(content.size());
  const std::int32_t size = ucnv_convert("UTF-8", encoding, nullptr, 0, content.data(), length, &code);
  if (code != U_BUFFER_OVERFLOW_ERROR && U_FAILURE(code)) {
    return fail(ErrorKind::InvalidFile, std::string("it cannot be read as ") + encoding);
  }
  std::string out(static_cast<std::size_t>(size), '\0');
  code = U_ZERO_ERROR;
  ucnv_convert("UTF-8", encoding, out.data(), size, content.data(), length, &code);
  if (U_FAILURE(code)) return fail(ErrorKind::InvalidFile, std::string("it cannot be read as ") + encoding);
  if (out.starts_with("\xEF\xBB\xBF")) out.erase(0, 3);
  return out;
}

constexpr std::size_t kLookedAt = 1U << 16U;

}  // namespace

Result<std::string> textOfFile(std::string content, std::string& note) {
  if (content.size() > INT32_MAX) return fail(ErrorKind::InvalidFile, "it is larger than 2 GiB");
  if (content.starts_with("\xFF\xFE")) return converted(content, "UTF-16LE");
  if (content.starts_with("\xFE\xFF")) return converted(content, "UTF-16BE");
  if (content.starts_with("\xEF\xBB\xBF")) content.erase(0, 3);
  if (const std::size_t nul = content.find('\0'); nul != std::string::npos) {
    const auto line = 1 + std::count(content.begin(), content.begin() + static_cast<std::ptrdiff_t>(nul), '\n');
    return fail(ErrorKind::InvalidFile, "a NUL byte stands here; this is no text", "line " + std::to_string(line));
  }
  if (isValidUtf8(content)) return content;
  note = "it is no UTF-8 and is read as Windows-1252";
  return converted(content, "windows-1252");
}

Status DelimitedText::readQuoted(FileCell& cell) {
  const std::uint64_t begins = line_;
  const auto wrong = [&](const char* message) {
    return fail(ErrorKind::InvalidFile, message, "line " + std::to_string(begins));
  };
  cell.quoted = true;
  rest_.remove_prefix(1);
  while (true) {
    const std::size_t quote = rest_.find('"');
    if (quote == std::string_view::npos) return wrong("the quote that opens here is not closed");
    cell.text += rest_.substr(0, quote);
    line_ +=
        static_cast<std::uint64_t>(std::count(rest_.begin(), rest_.begin() + static_cast<std::ptrdiff_t>(quote), '\n'));
    rest_.remove_prefix(quote + 1);
    if (rest_.empty() || rest_.front() != '"') break;
    cell.text += '"';
    rest_.remove_prefix(1);
  }
  if (!rest_.empty() && !isEnd(rest_.front())) return wrong("something stands behind a closing quote");
  return {};
}

Status DelimitedText::readField(FileCell& cell) {
  cell.kind = FileCell::Kind::Text;
  cell.quoted = false;
  cell.text.clear();
  if (!rest_.empty() && rest_.front() == '"') return readQuoted(cell);
  std::size_t end = 0;
  while (end < rest_.size() && !isEnd(rest_[end])) ++end;
  cell.text = rest_.substr(0, end);
  rest_.remove_prefix(end);
  if (cell.text.empty() || (!form_.noValue.empty() && cell.text == form_.noValue)) cell.kind = FileCell::Kind::None;
  return {};
}

void DelimitedText::endLine() {
  if (rest_.empty()) return;
  const bool two = rest_.size() > 1 && rest_[0] == '\r' && rest_[1] == '\n';
  rest_.remove_prefix(two ? 2 : 1);
  ++line_;
}

Result<bool> DelimitedText::next(FileLine& line) {
  if (rest_.empty()) return false;
  line.number = line_;
  std::size_t used = 0;
  while (true) {
    if (used == line.cells.size()) line.cells.emplace_back();
    ITERANDUM_TRY(readField(line.cells[used++]));
    if (rest_.empty() || rest_.front() != form_.delimiter) break;
    rest_.remove_prefix(1);
  }
  line.cells.resize(used);
  endLine();
  return true;
}

char delimiterOf(std::string_view text, const std::function<bool(const std::string&)>& isColumn) {
  constexpr std::array<char, 4> kSigns{',', ';', '\t', '|'};
  std::size_t end = std::min(text.size(), kLookedAt);
  if (end < text.size()) end = std::max<std::size_t>(text.rfind('\n', end), 1);
  char best = kSigns[0];
  std::pair<std::size_t, std::size_t> most{0, 1};
  for (const char sign : kSigns) {
    DelimitedText lines(text.substr(0, end), {sign});
    FileLine line;
    std::pair<std::size_t, std::size_t> found{0, 0};
    for (int i = 0; i < 50; ++i) {
      const auto more = lines.next(line);
      if (!more || !*more) break;
      const auto named = static_cast<std::size_t>(
          std::count_if(line.cells.begin(), line.cells.end(), [&](const FileCell& c) { return isColumn(c.text); }));
      found = std::max(found, std::pair(named, line.cells.size()));
    }
    if (found > most) {
      most = found;
      best = sign;
    }
  }
  return best;
}

}  // namespace iterandum
