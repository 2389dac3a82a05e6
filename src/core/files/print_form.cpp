#include "core/files/print_form.h"

#include <algorithm>
#include <array>
#include <charconv>

#include "core/value/json.h"

namespace iterandum {
namespace {

constexpr std::array<const char*, 3> kKinds{"table", "cards", "labels"};
constexpr std::array<const char*, 3> kTurned{"as it fits", "upright", "lying"};

class FormReader {
 public:
  explicit FormReader(const JsonNode& node) : node_(node) {}

  Status text(const char* name, std::string& into) const {
    const JsonNode* found = node_.find(name);
    if (found == nullptr) return {};
    if (found->type != JsonNode::Type::String) return badDocument(pointerTo({}, name), "a text is wanted");
    into = found->text;
    return {};
  }
  Status flag(const char* name, bool& into) const {
    const JsonNode* found = node_.find(name);
    if (found == nullptr) return {};
    if (found->type != JsonNode::Type::Boolean) return badDocument(pointerTo({}, name), "true or false is wanted");
    into = found->boolean;
    return {};
  }
  Status number(const char* name, int least, int most, int& into) const {
    const JsonNode* found = node_.find(name);
    if (found == nullptr) return {};
    int read = 0;
    const char* end = found->text.data() + found->text.size();
    const auto parsed = std::from_chars(found->text.data(), end, read);
    const bool isWhole = found->type == JsonNode::Type::Number && parsed.ec == std::errc() && parsed.ptr == end;
    if (!isWhole || read < least || read > most) {
      return badDocument(pointerTo({}, name),
                         "a whole number from " + std::to_string(least) + " to " + std::to_string(most) + " is wanted");
    }
    into = read;
    return {};
  }
  template <typename Choice>
  Status choice(const char* name, const std::array<const char*, 3>& words, Choice& into) const {
    std::string said = words[static_cast<std::size_t>(into)];
    ITERANDUM_TRY(text(name, said));
    const auto found = std::find(words.begin(), words.end(), said);
    if (found == words.end()) {
      return badDocument(pointerTo({}, name), std::string("one of ") + words[0] + ", " + words[1] + ", " + words[2] +
                                                  " is wanted, not '" + said + "'");
    }
    into = static_cast<Choice>(found - words.begin());
    return {};
  }

 private:
  const JsonNode& node_;
};

}  // namespace

std::string printFormToJson(const PrintForm& form) {
  JsonWriter out(true);
  out.beginObject().name("format").string("iterandum-print-form").name("version").number(1);
  if (!form.name.empty()) out.name("name").string(form.name);
  out.name("kind").string(kKinds[static_cast<std::size_t>(form.kind)]);
  if (!form.title.empty()) out.name("title").string(form.title);
  out.name("paper").string(kTurned[static_cast<std::size_t>(form.turned)]);
  out.name("points").number(form.points);
  if (!form.groupBy.empty()) out.name("group_by").string(form.groupBy);
  out.name("card_a_page").boolean(form.cardAPage).name("across").number(form.across).name("down").number(form.down);
  out.name("as_stored").boolean(form.asStored).endObject();
  return out.take() + "\n";
}

Result<PrintForm> printFormFromJson(std::string_view document) {
  ITERANDUM_ASSIGN(const JsonNode node, parseJson(document));
  if (node.type != JsonNode::Type::Object) return badDocument({}, "an object is wanted");
  ITERANDUM_TRY(onlyKnownNames(node, {},
                               {"format", "version", "name", "kind", "title", "paper", "points", "group_by",
                                "card_a_page", "across", "down", "as_stored"}));
  const FormReader reader(node);
  std::string format;
  ITERANDUM_TRY(reader.text("format", format));
  if (format != "iterandum-print-form") return badDocument("/format", "'iterandum-print-form' is wanted");
  int version = 0;
  ITERANDUM_TRY(reader.number("version", 1, 1, version));
  if (version != 1) return badDocument("/version", "1 is wanted");
  PrintForm out;
  ITERANDUM_TRY(reader.text("name", out.name));
  ITERANDUM_TRY(reader.choice("kind", kKinds, out.kind));
  ITERANDUM_TRY(reader.text("title", out.title));
  ITERANDUM_TRY(reader.choice("paper", kTurned, out.turned));
  ITERANDUM_TRY(reader.number("points", kFewestPoints, kMostPoints, out.points));
  ITERANDUM_TRY(reader.text("group_by", out.groupBy));
  ITERANDUM_TRY(reader.flag("card_a_page", out.cardAPage));
  ITERANDUM_TRY(reader.number("across", 1, kMostLabels, out.across));
  ITERANDUM_TRY(reader.number("down", 1, kMostLabels, out.down));
  ITERANDUM_TRY(reader.flag("as_stored", out.asStored));
  return out;
}

}  // namespace iterandum
