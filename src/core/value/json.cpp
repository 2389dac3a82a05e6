#include "core/value/json.h"

#include <algorithm>

#include <rapidjson/error/en.h>
#include <rapidjson/memorystream.h>
#include <rapidjson/reader.h>
#include <rapidjson/stringbuffer.h>
#include <rapidjson/writer.h>

#include <charconv>
#include <cmath>
#include <limits>

#include "core/value/base64.h"
#include "core/value/decimal.h"

namespace iterandum {
namespace {

constexpr std::size_t kMaxDepth = 64;  // no document of ours is deeper than 8; a hostile one must not exhaust the stack

// Receives RapidJSON's events and builds the tree; hands over streamed elements as soon as they are complete.
class TreeBuilder : public rapidjson::BaseReaderHandler<rapidjson::UTF8<>, TreeBuilder> {
 public:
  TreeBuilder(std::string_view streamed, const JsonElementSink& sink) : streamed_(streamed), sink_(sink) {}

  bool Null() { return leaf({}); }
  bool Bool(bool b) {
    JsonNode node;
    node.type = JsonNode::Type::Boolean;
    node.boolean = b;
    return leaf(std::move(node));
  }
  bool RawNumber(const char* digits, rapidjson::SizeType length, bool) {
    JsonNode node;
    node.type = JsonNode::Type::Number;
    node.text.assign(digits, length);
    return leaf(std::move(node));
  }
  bool String(const char* s, rapidjson::SizeType length, bool) {
    JsonNode node;
    node.type = JsonNode::Type::String;
    node.text.assign(s, length);
    if (!numberMark_.empty() && node.text.starts_with(numberMark_)) {
      node.type = JsonNode::Type::Number;
      node.text.erase(0, numberMark_.size());
    }
    return leaf(std::move(node));
  }
  // Strings that begin with this are numbers.
  void setNumberMark(std::string mark) { numberMark_ = std::move(mark); }
  bool StartObject() { return open(JsonNode::Type::Object); }
  bool StartArray() { return open(JsonNode::Type::Array); }
  bool EndObject(rapidjson::SizeType) { return closeTop(); }
  bool EndArray(rapidjson::SizeType) { return closeTop(); }
  bool Key(const char* s, rapidjson::SizeType length, bool) {
    std::string name(s, length);
    if (stack_.back().node.find(name) != nullptr) {
      error_ = Error(ErrorKind::InvalidFile, "the name " + quoteJson(name) + " stands here twice", pointer());
      return false;
    }
    stack_.back().name = std::move(name);
    return true;
  }

  [[nodiscard]] const std::optional<Error>& error() const { return error_; }
  JsonNode takeRoot() { return std::move(root_); }

 private:
  struct Open {
    JsonNode node;
    std::string name;          // of the member being read
    std::size_t streamed = 0;  // elements handed over
  };

  [[nodiscard]] std::string pointer() const {
    std::string out;
    for (const Open& open : stack_) {
      if (open.node.type == JsonNode::Type::Array) {
        out = pointerTo(out, std::to_string(open.node.items.size() + open.streamed));
      } else if (&open != &stack_.back()) {
        out = pointerTo(out, open.name);
      }
    }
    return out;
  }

  bool open(JsonNode::Type type) {
    if (stack_.size() >= kMaxDepth) {
      error_ = Error(ErrorKind::InvalidFile, "nested more than " + std::to_string(kMaxDepth) + " deep", pointer());
      return false;
    }
    stack_.emplace_back();
    stack_.back().node.type = type;
    return true;
  }
  bool closeTop() {
    JsonNode node = std::move(stack_.back().node);
    stack_.pop_back();
    return leaf(std::move(node));
  }
  [[nodiscard]] bool isStreamed() const {
    return sink_ && stack_.size() == 2 && stack_[0].node.type == JsonNode::Type::Object &&
           stack_[0].name == streamed_ && stack_[1].node.type == JsonNode::Type::Array;
  }
  bool leaf(JsonNode&& node) {
    if (stack_.empty()) {
      root_ = std::move(node);
      return true;
    }
    Open& top = stack_.back();
    if (isStreamed()) {
      if (Status status = sink_(std::move(node), top.streamed); !status) {
        error_ = status.error();
        return false;
      }
      ++top.streamed;
    } else if (top.node.type == JsonNode::Type::Array) {
      top.node.items.push_back(std::move(node));
    } else {
      top.node.members.push_back({std::move(top.name), std::move(node)});
      top.name.clear();
    }
    return true;
  }

  std::string numberMark_;
  std::string_view streamed_;
  const JsonElementSink& sink_;
  std::vector<Open> stack_;
  JsonNode root_;
  std::optional<Error> error_;
};

std::string placeAt(std::string_view document, std::size_t offset) {
  const std::string_view before = document.substr(0, std::min(offset, document.size()));
  std::size_t line = 1;
  std::size_t lineStart = 0;
  for (std::size_t i = 0; i < before.size(); ++i) {
    if (before[i] == '\n') {
      ++line;
      lineStart = i + 1;
    }
  }
  return "line " + std::to_string(line) + ", column " + std::to_string(before.size() - lineStart + 1);
}

// JSON text may hold surrogate escapes that stand alone; they have no UTF-8 form.
constexpr unsigned kParseFlags =
    rapidjson::kParseNumbersAsStringsFlag | rapidjson::kParseValidateEncodingFlag | rapidjson::kParseIterativeFlag;

Result<Value> floatValue(const JsonNode& node, const std::string& pointer) {
  if (node.type == JsonNode::Type::Number) {
    double d = 0;
    std::from_chars(node.text.data(), node.text.data() + node.text.size(), d);
    return Value::real(d);
  }
  if (node.text == "NaN") return Value::real(std::nan(""));
  if (node.text == "Infinity") return Value::real(std::numeric_limits<double>::infinity());
  if (node.text == "-Infinity") return Value::real(-std::numeric_limits<double>::infinity());
  return fail(ErrorKind::InvalidFile, R"("float" takes a number, "NaN", "Infinity" or "-Infinity")", pointer);
}

Result<Value> bytesValue(const JsonNode& node, Value::Kind kind, const std::string& pointer) {
  if (node.type == JsonNode::Type::String) {
    if (auto bytes = decodeBase64(node.text)) return Value::ofString(kind, *bytes);
  }
  return fail(ErrorKind::InvalidFile, "this is not valid base64 (RFC 4648, with padding)", pointer);
}

Result<Value> objectValue(const JsonNode& node, const std::string& pointer) {
  if (node.members.size() == 1) {
    const auto& [name, content] = node.members.front();
    const std::string at = pointerTo(pointer, name);
    if (name == "base64") return bytesValue(content, Value::Kind::Bytes, at);
    if (name == "text_base64") return bytesValue(content, Value::Kind::Other, at);
    if (name == "float") return floatValue(content, at);
    if (name == "ref" || name == "text") {
      if (content.type != JsonNode::Type::String) {
        return fail(ErrorKind::InvalidFile, "a string is wanted here", at);
      }
      return Value::ofString(name == "ref" ? Value::Kind::PendingKey : Value::Kind::Other, content.text);
    }
  }
  return fail(ErrorKind::InvalidFile,
              R"(a value that is an object is {"base64": …}, {"float": …}, {"text": …} or {"ref": …})", pointer);
}

Result<Value> numberValue(const std::string& digits, const std::string& pointer) {
  if (digits.find_first_of(".eE") == std::string::npos) {
    if (const auto n = wholeNumber<std::int64_t>(digits)) return Value::integer(*n);
    if (const auto n = wholeNumber<std::uint64_t>(digits)) return Value::unsignedInteger(*n);
    if (auto plain = plainDecimal(digits)) return Value::decimal(*plain);
  }
  if (auto plain = plainDecimal(digits)) {
    // A double whose shortest form is this very number loses nothing, and keeps "a float" apart from "a text of digits"
    // in cells that may hold any type.
    double d = 0;
    const auto r = std::from_chars(digits.data(), digits.data() + digits.size(), d);
    if (r.ec == std::errc() && normalDecimal(plainDouble(d)) == normalDecimal(*plain)) return Value::real(d);
    return Value::decimal(*plain);
  }
  return fail(ErrorKind::InvalidFile, "this number has too many digits", pointer);
}

}  // namespace

const JsonNode* JsonNode::find(std::string_view name) const {
  for (const auto& [key, node] : members) {
    if (key == name) return &node;
  }
  return nullptr;
}

tl::unexpected<Error> badDocument(const std::string& pointer, const std::string& message) {
  return fail(ErrorKind::InvalidFile, message, pointer.empty() ? "/" : pointer);
}

std::string pointerTo(const std::string& pointer, std::string_view step) {
  std::string out = pointer + "/";
  for (const char c : step) {
    if (c == '~') {
      out += "~0";
    } else if (c == '/') {
      out += "~1";
    } else {
      out += c;
    }
  }
  return out;
}

Status onlyKnownNames(const JsonNode& node, const std::string& pointer, std::initializer_list<std::string_view> known) {
  if (node.type != JsonNode::Type::Object) {
    return fail(ErrorKind::InvalidFile, "an object is wanted here", pointer.empty() ? "/" : pointer);
  }
  for (const auto& [name, value] : node.members) {
    if (std::find(known.begin(), known.end(), name) != known.end()) continue;
    std::string list;
    for (const std::string_view k : known) list += (list.empty() ? "" : ", ") + std::string(k);
    return fail(ErrorKind::InvalidFile, "this name is not known here; known are " + list, pointerTo(pointer, name));
  }
  return {};
}

const char* jsonTypeName(JsonNode::Type type) {
  switch (type) {
    case JsonNode::Type::Null:
      return "null";
    case JsonNode::Type::Boolean:
      return "true or false";
    case JsonNode::Type::Number:
      return "a number";
    case JsonNode::Type::String:
      return "a string";
    case JsonNode::Type::Array:
      return "an array";
    case JsonNode::Type::Object:
      break;
  }
  return "an object";
}

namespace {

// The library refuses a number that no double holds, even when it is to hand over its digits alone. Where there are
// such numbers, they go past it as strings with a mark that nothing else in the document begins with.
class BigNumbers {
 public:
  explicit BigNumbers(std::string_view document) {
    for (std::size_t at = 0; at < document.size();) {
      if (document[at] == '"') {
        at = stringEnd(document, at);
      } else if ((document[at] >= '0' && document[at] <= '9') || document[at] == '-') {
        const std::size_t end = std::min(document.find_first_not_of("0123456789+-.eE", at), document.size());
        if (isBig(document.substr(at, end - at))) places_.emplace_back(at, end);
        at = end;
      } else {
        ++at;
      }
    }
    if (places_.empty()) return;
    for (mark_ = "number "; document.find(mark_) != std::string_view::npos;) mark_.insert(0, "~");
    std::size_t from = 0;
    for (const auto& [begin, end] : places_) {
      text_ += document.substr(from, begin - from);
      text_ += "\"" + mark_ + std::string(document.substr(begin, end - begin)) + "\"";
      from = end;
    }
    text_ += document.substr(from);
  }

  [[nodiscard]] bool any() const { return !places_.empty(); }
  [[nodiscard]] const std::string& mark() const { return mark_; }
  [[nodiscard]] std::string_view text() const { return text_; }

 private:
  static std::size_t stringEnd(std::string_view document, std::size_t at) {
    for (++at; at < document.size() && document[at] != '"'; ++at) at += document[at] == '\\' ? 1 : 0;
    return at + 1;
  }

  // Surely no double, and surely a number as JSON writes it; what is neither is left to the library.
  static bool isBig(std::string_view digits) {
    constexpr std::size_t kSurelyFits = 290;
    const std::size_t exponent = digits.find_first_of("eE");
    int power = 0;
    if (exponent != std::string_view::npos) {
      const std::size_t from = exponent + 1 + (exponent + 1 < digits.size() && digits[exponent + 1] == '+' ? 1 : 0);
      const auto r = std::from_chars(digits.data() + from, digits.data() + digits.size(), power);
      if (r.ptr != digits.data() + digits.size() || from == digits.size()) return false;
      if (r.ec == std::errc::result_out_of_range) return true;
    }
    const std::string_view mantissa = digits.substr(0, exponent);
    const bool plain = plainDecimal(mantissa).has_value() && mantissa.find_first_of("eE+") == std::string_view::npos;
    return plain && (mantissa.size() > kSurelyFits || power > static_cast<int>(kSurelyFits) ||
                     power < -static_cast<int>(kSurelyFits));
  }

  std::vector<std::pair<std::size_t, std::size_t>> places_;
  std::string mark_;
  std::string text_;
};

}  // namespace

Result<JsonNode> parseJson(std::string_view document, std::string_view streamed, const JsonElementSink& sink) {
  if (document.substr(0, 3) == "\xEF\xBB\xBF") document.remove_prefix(3);
  // The library takes a NUL for the end of the document.
  if (const std::size_t nul = document.find('\0'); nul != std::string_view::npos)
    return fail(ErrorKind::InvalidFile, "not valid JSON: a NUL character stands here", placeAt(document, nul));
  const BigNumbers big(document);
  TreeBuilder builder(streamed, sink);
  if (big.any()) {
    document = big.text();
    builder.setNumberMark(big.mark());
  }
  rapidjson::MemoryStream bytes(document.data(), document.size());
  rapidjson::Reader reader;
  const rapidjson::ParseResult parsed = reader.Parse<kParseFlags>(bytes, builder);
  if (builder.error()) return fail(*builder.error());
  if (!parsed) {
    return fail(ErrorKind::InvalidFile, std::string("not valid JSON: ") + rapidjson::GetParseError_En(parsed.Code()),
                placeAt(document, parsed.Offset()));
  }
  return builder.takeRoot();
}

Result<std::vector<JsonNode>> documentItems(std::string_view document, std::string_view format, std::string_view list) {
  ITERANDUM_ASSIGN(JsonNode root, parseJson(document));
  if (root.type != JsonNode::Type::Object) return badDocument("", "an object is wanted here");
  const JsonNode* said = root.find("format");
  if (said == nullptr) return badDocument("/format", "is missing");
  if (said->type != JsonNode::Type::String || said->text != format)
    return badDocument("/format", "'" + said->text + "' is not " + std::string(format));
  const JsonNode* version = root.find("version");
  if (version == nullptr || version->type != JsonNode::Type::Number || version->text != "1")
    return badDocument("/version", "version 1 is wanted here");
  ITERANDUM_TRY(onlyKnownNames(root, "", {"format", "version", list}));
  for (JsonMember& member : root.members) {
    if (member.name == list && member.value.type == JsonNode::Type::Array) return std::move(member.value.items);
  }
  return badDocument(pointerTo("", list), "an array is wanted here");
}

Result<Value> valueFromJson(const JsonNode& node, const std::string& pointer) {
  switch (node.type) {
    case JsonNode::Type::Null:
      return Value();
    case JsonNode::Type::Boolean:
      return Value::boolean(node.boolean);
    case JsonNode::Type::Number:
      return numberValue(node.text, pointer);
    case JsonNode::Type::String:
      return Value::text(node.text);
    case JsonNode::Type::Object:
      return objectValue(node, pointer);
    case JsonNode::Type::Array:
      break;
  }
  return fail(ErrorKind::InvalidFile, "a value cannot be an array", pointer);
}

std::string quoteJson(std::string_view s) {
  if (!isValidUtf8(s)) {
    std::string clean;
    for (std::size_t i = 0; i < s.size();) {
      std::size_t length = 1;
      while (length <= 4 && i + length <= s.size() && !isValidUtf8(s.substr(i, length))) ++length;
      if (length > 4 || i + length > s.size()) {
        clean += "\xEF\xBF\xBD";
        ++i;
      } else {
        clean += s.substr(i, length);
        i += length;
      }
    }
    return quoteJson(clean);
  }
  rapidjson::StringBuffer buffer;
  rapidjson::Writer<rapidjson::StringBuffer> writer(buffer);
  writer.String(s.data(), static_cast<rapidjson::SizeType>(s.size()));
  return {buffer.GetString(), buffer.GetSize()};
}

void JsonWriter::lineBreak() {
  if (!pretty_ || (compactFrom_ > 0 && depth_ >= compactFrom_)) return;
  out_ += '\n';
  out_.append(static_cast<std::size_t>(depth_) * 2, ' ');
}

void JsonWriter::beforeItem() {
  if (afterName_) {
    afterName_ = false;
    return;
  }
  if (!first_) out_ += pretty_ && compactFrom_ > 0 && depth_ >= compactFrom_ ? ", " : ",";
  if (depth_ > 0) lineBreak();
  first_ = false;
}

void JsonWriter::close(char bracket) {
  const bool empty = first_;
  const bool compact = compactFrom_ > 0 && depth_ >= compactFrom_;
  --depth_;
  if (!empty && !compact) lineBreak();
  if (compactFrom_ > depth_) compactFrom_ = 0;
  out_ += bracket;
  first_ = false;
}

JsonWriter& JsonWriter::beginObject() {
  beforeItem();
  out_ += '{';
  ++depth_;
  first_ = true;
  return *this;
}
JsonWriter& JsonWriter::endObject() {
  close('}');
  return *this;
}
JsonWriter& JsonWriter::beginArray() {
  beforeItem();
  out_ += '[';
  ++depth_;
  first_ = true;
  return *this;
}
JsonWriter& JsonWriter::endArray() {
  close(']');
  return *this;
}
JsonWriter& JsonWriter::name(std::string_view name) {
  beforeItem();
  out_ += quoteJson(name);
  out_ += pretty_ ? ": " : ":";
  afterName_ = true;
  return *this;
}
JsonWriter& JsonWriter::string(std::string_view s) { return raw(quoteJson(s)); }
JsonWriter& JsonWriter::number(std::int64_t n) { return raw(std::to_string(n)); }
JsonWriter& JsonWriter::boolean(bool b) { return raw(b ? "true" : "false"); }
JsonWriter& JsonWriter::null() { return raw("null"); }
JsonWriter& JsonWriter::raw(std::string_view json) {
  beforeItem();
  out_ += json;
  return *this;
}

JsonWriter& JsonWriter::value(const Value& v, bool anyType) {
  switch (v.kind()) {
    case Value::Kind::Null:
      return null();
    case Value::Kind::Boolean:
    case Value::Kind::Integer:
    case Value::Kind::Unsigned:
      return raw(canonicalText(v));
    case Value::Kind::Real:
      if (std::isfinite(v.asReal())) return raw(canonicalText(v));
      if (!anyType) return string(canonicalText(v));
      return raw("{\"float\":" + quoteJson(canonicalText(v)) + "}");
    case Value::Kind::Bytes:
      return raw("{\"base64\":\"" + encodeBase64(v.asString()) + "\"}");
    case Value::Kind::PendingKey:
      return raw("{\"ref\":" + quoteJson(v.asString()) + "}");
    case Value::Kind::Other:
      if (!isValidUtf8(v.asString())) break;
      if (anyType) return raw("{\"text\":" + quoteJson(v.asString()) + "}");
      return string(v.asString());
    default:
      if (!isValidUtf8(v.asString())) break;
      return string(v.asString());
  }
  return raw("{\"text_base64\":\"" + encodeBase64(v.asString()) + "\"}");
}

}  // namespace iterandum
