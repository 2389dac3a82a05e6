// Comment: what somebody says of a change set, or of a place in it, to those who go over it with them. Others answer
// with comments on the same place.
//
// Comments travel in the change file and stay on the receipt. They are no part of what is signed: a signature holds
// whatever is said afterwards.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/changes/change_list.h"

namespace iterandum {

struct JsonNode;
class JsonWriter;

// All of a change set; or a group of it: what is done to a column (a column's new value), or to records of a table; or
// one record, by its key or, a new one, by its label.
struct CommentPlace {
  enum class Kind : std::uint8_t { All, Group, Record, NewRecord };
  Kind kind = Kind::All;
  TableName table;
  Action action = Action::Edit;  // Group
  std::string column;            // Group: of edits
  std::optional<Value> to;       // Group: of edits; none: whatever values it gets
  std::vector<std::string> keyColumns;
  ValueTuple key;
  std::string label;
};
[[nodiscard]] bool operator==(const CommentPlace& a, const CommentPlace& b);

struct Comment {
  std::string by;
  std::string at;  // RFC 3339, UTC
  std::string words;
  CommentPlace about;
};
[[nodiscard]] bool operator==(const Comment& a, const Comment& b);

// Longer ones are refused, and more of them.
inline constexpr std::size_t kLongestComment = 10'000;  // bytes
inline constexpr std::size_t kMostComments = 10'000;

// Puts in those that are not there yet; they lie in the order in which they were said.
void putIn(const std::vector<Comment>& more, std::vector<Comment>& comments);

// "tree 4711", "condition_code to 3 in tree", "the new records in species"; empty: all of it.
[[nodiscard]] std::string inWords(const CommentPlace& place);

// As the member "comments" of a document; nothing where there are none.
void writeComments(JsonWriter& out, const std::vector<Comment>& comments);
// Errors: InvalidFile with the place.
[[nodiscard]] Result<std::vector<Comment>> readComments(const JsonNode& node, const std::string& place);

// The same as a text of their own, to be kept.
[[nodiscard]] std::string packComments(const std::vector<Comment>& comments);
[[nodiscard]] Result<std::vector<Comment>> unpackComments(std::string_view text);

}  // namespace iterandum
