#include "core/files/delimited_text.h"

#include <unicode/ucnv.h>

#include <algorithm>
#include <array>
#include <memory>

namespace iterandum {
namespace {

struct CloseConverter {
  void operator()(UConverter* converter) const { ucnv_close(converter); }
};

Result<std::string> converted(const std::string& content, const std::string& encoding) {
  UErrorCode code = U_ZERO_ERROR;
  const std::unique_ptr<UConverter, CloseConverter> from(ucnv_open(encoding.c_str(), &code));
  const std::unique_ptr<UConverter, CloseConverter> to(ucnv_open("UTF-8", &code));
  if (U_FAILURE(code)) {
    return fail(ErrorKind::InvalidInput, "there is no encoding called '" + encoding + "'", "--encoding");
  }
  // What has no letter is not to become a question mark.
  ucnv_setToUCallBack(from.get(), UCNV_TO_U_CALLBACK_STOP, nullptr, nullptr, nullptr, &code);
  std::string out;
  out.reserve(content.size());
  std::array<char, 16384> piece{};
  std::array<UChar, 4096> between{};
  UChar* betweenFrom = between.data();
  UChar* betweenTo = between.data();
  const char* source = content.data();
  bool first = true;
  do {
    code = U_ZERO_ERROR;
    char* end = piece.data();
    ucnv_convertEx(to.get(), from.get(), &end, piece.data() + piece.size(), &source, content.data() + content.size(),
                   between.data(), &betweenFrom, &betweenTo, between.data() + between.size(), first ? 1 : 0, 1, &code);
    out.append(piece.data(), end);
    first = false;
  } while (code == U_BUFFER_OVERFLOW_ERROR);
  if (U_FAILURE(code)) {
    const auto line = 1 + std::count(content.data(), source, '\n');
    return fail(ErrorKind::InvalidFile, "it cannot be read as " + encoding, "line " + std::to_string(line));
  }
  if (out.starts_with("\xEF\xBB\xBF")) out.erase(0, 3);
  return out;
}

constexpr std::size_t kLookedAt = 1U << 16U;

bool isAscii(std::string_view text) {
  return std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
}

// Text that is no UTF-8 as a whole: where some lines have letters of UTF-8 and others have not, it was put together
// from two files, and whichever way it is read, some of its words come out wrong.
Status readableInOneWay(std::string_view content) {
  std::uint64_t number = 0;
  std::uint64_t inUtf8 = 0;
  std::uint64_t inOther = 0;
  while (!content.empty() && (inUtf8 == 0 || inOther == 0)) {
    const std::size_t end = std::min(content.find('\n'), content.size() - 1);
    const std::string_view line = content.substr(0, end + 1);
    content.remove_prefix(end + 1);
    ++number;
    if (isAscii(line)) continue;
    std::uint64_t& first = isValidUtf8(line) ? inUtf8 : inOther;
    if (first == 0) first = number;
  }
  if (inUtf8 == 0 || inOther == 0) return {};
  return fail(ErrorKind::InvalidFile,
              "its letters are written in two ways: line " + std::to_string(inUtf8) +
                  " in UTF-8, this one not; save it in one of them, or say which encoding is to be taken for all",
              "line " + std::to_string(inOther));
}

}  // namespace

Result<std::string> textOfFile(std::string content, TextForm& form) {
  if (content.size() > INT32_MAX) return fail(ErrorKind::InvalidFile, "it is larger than 2 GiB");
  const bool found = form.encoding.empty();
  if (found && content.starts_with("\xFF\xFE")) form.encoding = "UTF-16LE";
  if (found && content.starts_with("\xFE\xFF")) form.encoding = "UTF-16BE";
  if (found && content.starts_with("\xEF\xBB\xBF")) content.erase(0, 3);
  // Wide letters have bytes of nothing in them.
  const bool wide = form.encoding.starts_with("UTF-16") || form.encoding.starts_with("UTF-32");
  if (const std::size_t nul = content.find('\0'); nul != std::string::npos && !wide) {
    const auto line = 1 + std::count(content.begin(), content.begin() + static_cast<std::ptrdiff_t>(nul), '\n');
    return fail(ErrorKind::InvalidFile, "a NUL byte stands here; this is no text", "line " + std::to_string(line));
  }
  if (found && form.encoding.empty() && isValidUtf8(content)) form.encoding = "UTF-8";
  if (found && form.encoding == "UTF-8") return content;
  if (form.encoding.empty()) {
    ITERANDUM_TRY(readableInOneWay(content));
    form.note = "it is no UTF-8 and is read as Windows-1252";
    form.encoding = "windows-1252";
    return converted(content, form.encoding);
  }
  return converted(content, form.encoding);
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
