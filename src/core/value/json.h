// Reading and writing JSON exactly.
//
// On top of RapidJSON: numbers keep the digits they were written with (no binary float in between), a repeated name
// is an error, and every node can be named by its JSON Pointer (RFC 6901). Elements of one large array can be taken
// one at a time, so that a file of a million changes is never in memory as a tree.
#pragma once

#include <functional>
#include <initializer_list>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/result.h"
#include "core/value/value.h"

namespace iterandum {

struct JsonMember;

struct JsonNode {
  enum class Type { Null, Boolean, Number, String, Array, Object };
  Type type = Type::Null;
  bool boolean = false;
  std::string text;  // a string's content, or a number's digits
  std::vector<JsonNode> items;
  std::vector<JsonMember> members;

  [[nodiscard]] const JsonNode* find(std::string_view name) const;
};

struct JsonMember {
  std::string name;
  JsonNode value;
};

// What is wrong with a document, and where (a JSON Pointer).
[[nodiscard]] tl::unexpected<Error> badDocument(const std::string& pointer, const std::string& message);

// A JSON Pointer with one more step.
[[nodiscard]] std::string pointerTo(const std::string& pointer, std::string_view step);
[[nodiscard]] const char* jsonTypeName(JsonNode::Type type);

// That the node is an object without any names but these. Errors: InvalidFile with the name's pointer.
[[nodiscard]] Status onlyKnownNames(const JsonNode& node, const std::string& pointer,
                                    std::initializer_list<std::string_view> known);

// The items of a document that is a list: {"format": …, "version": 1, `list`: […]} and nothing else. Errors:
// InvalidFile with the pointer to what is otherwise.
[[nodiscard]] Result<std::vector<JsonNode>> documentItems(std::string_view document, std::string_view format,
                                                          std::string_view list);

// Called for each element of the streamed array with its index; an error stops the reading.
using JsonElementSink = std::function<Status(JsonNode&& element, std::size_t index)>;

// Parses a whole document. If `streamed` is not empty, the elements of the top-level object's member of that name are
// handed to `sink` instead of being kept (the member is then an empty array in the result).
// Errors: InvalidFile with the JSON Pointer or the byte offset as its place.
[[nodiscard]] Result<JsonNode> parseJson(std::string_view document, std::string_view streamed = {},
                                         const JsonElementSink& sink = {});

// The value that a JSON node stands for, before any column's type is known (change-file.md, "Values").
// A number becomes Integer, Unsigned, Real (when that is exact) or Decimal; never anything rounded; {"ref": …} a
// PendingKey;
// {"float": …} a Real; {"text": …}, our addition, an Other: text that is meant as it is even where the column's
// declared type asks for something else (what a database already held must be able to come back).
[[nodiscard]] Result<Value> valueFromJson(const JsonNode& node, const std::string& pointer);

// Writes JSON into a string. Names and values must come in the right order; that is the caller's part.
class JsonWriter {
 public:
  explicit JsonWriter(bool pretty = false) : pretty_(pretty) {}
  JsonWriter& beginObject();
  JsonWriter& endObject();
  JsonWriter& beginArray();
  JsonWriter& endArray();
  JsonWriter& name(std::string_view name);
  JsonWriter& string(std::string_view s);
  JsonWriter& number(std::int64_t n);
  JsonWriter& boolean(bool b);
  JsonWriter& null();
  // A value by the contract's table. Text that is not UTF-8 is written as {"text_base64": …}, which is read back too.
  // anyType: the cell may hold any type, so that a float that is not finite says that it is one.
  JsonWriter& value(const Value& v, bool anyType = false);
  // JSON that is already complete.
  JsonWriter& raw(std::string_view json);
  // Puts what follows in arrays and objects on one line (pretty writers only), until the matching end.
  JsonWriter& compactNext() {
    compactFrom_ = depth_ + 1;
    return *this;
  }
  [[nodiscard]] const std::string& text() const { return out_; }
  [[nodiscard]] std::string take() { return std::move(out_); }

 private:
  void beforeItem();
  void lineBreak();
  void close(char bracket);
  std::string out_;
  bool pretty_;
  bool first_ = true;
  bool afterName_ = false;
  int depth_ = 0;
  int compactFrom_ = 0;  // 0: nowhere
};

// The JSON text of a string, quotes included. Bytes that are no UTF-8 become U+FFFD.
[[nodiscard]] std::string quoteJson(std::string_view s);

}  // namespace iterandum
