#include "core/acts/act.h"

namespace iterandum {
namespace {

constexpr std::size_t kShown = 40;

std::string shortened(const std::string& text) {
  if (text.size() <= kShown) return text;
  std::size_t end = kShown;
  while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) --end;
  return text.substr(0, end) + "…";
}

// Fields of one file, each with whether it was quoted.
class MapReader {
 public:
  explicit MapReader(std::string_view text) : rest_(text) {
    if (rest_.starts_with("\xEF\xBB\xBF")) rest_.remove_prefix(3);
  }
  [[nodiscard]] bool atEnd() const { return rest_.empty(); }
  [[nodiscard]] std::size_t line() const { return line_; }

  // The fields of the next line; nothing: a quote is not closed, or something stands behind one.
  std::optional<std::vector<TypedOrNone>> record() {
    std::vector<TypedOrNone> out;
    while (true) {
      auto one = field();
      if (!one) return std::nullopt;
      out.push_back(std::move(*one));
      if (rest_.empty()) return out;
      const char c = rest_.front();
      rest_.remove_prefix(1);
      if (c == ',') continue;
      if (c == '\r' && !rest_.empty() && rest_.front() == '\n') rest_.remove_prefix(1);
      ++line_;
      return out;
    }
  }

 private:
  std::optional<TypedOrNone> field() {
    if (rest_.empty() || rest_.front() != '"') {
      const std::string_view plain = rest_.substr(0, rest_.find_first_of(",\r\n"));
      rest_.remove_prefix(plain.size());
      return plain.empty() ? TypedOrNone() : TypedOrNone(plain);
    }
    std::string out;
    rest_.remove_prefix(1);
    while (!rest_.empty()) {
      const char c = rest_.front();
      rest_.remove_prefix(1);
      if (c == '\n') ++line_;
      if (c != '"') {
        out += c;
      } else if (!rest_.empty() && rest_.front() == '"') {
        out += '"';
        rest_.remove_prefix(1);
      } else {
        const bool ends = rest_.empty() || rest_.find_first_of(",\r\n") == 0;
        return ends ? std::optional(TypedOrNone(std::move(out))) : std::nullopt;
      }
    }
    return std::nullopt;
  }

  std::string_view rest_;
  std::size_t line_ = 1;
};

}  // namespace

std::string actInWords(const Act& act) {
  switch (act.kind) {
    case Act::Kind::To:
      return act.column + " to " + (act.text.empty() ? "empty text" : shortened(act.text));
    case Act::Kind::Clear:
      return act.column + " to no value";
    case Act::Kind::Compute:
      return act.column + " = " + shortened(act.text);
    case Act::Kind::Replace:
      return shortened(act.text) + " → " + (act.with.empty() ? "nothing" : shortened(act.with)) + " in " + act.column;
    case Act::Kind::Map:
      break;
  }
  return act.column + " by a list of " + std::to_string(act.map.size());
}

Result<std::vector<std::pair<TypedOrNone, TypedOrNone>>> readMap(std::string_view csv) {
  std::vector<std::pair<TypedOrNone, TypedOrNone>> out;
  MapReader reader(csv);
  while (!reader.atEnd()) {
    const std::string place = "line " + std::to_string(reader.line());
    auto fields = reader.record();
    if (!fields) return fail(ErrorKind::InvalidFile, "a quote is not closed, or something stands behind it", place);
    if (fields->size() == 1 && !fields->front()) continue;  // an empty line
    if (fields->size() != 2) {
      return fail(ErrorKind::InvalidFile, "two fields are wanted, old and new, not " + std::to_string(fields->size()),
                  place);
    }
    out.emplace_back(std::move((*fields)[0]), std::move((*fields)[1]));
  }
  return out;
}

}  // namespace iterandum
