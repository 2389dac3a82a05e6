#include "core/files/json_records.h"

#include <algorithm>

namespace iterandum {

Status JsonRecords::add(JsonNode&& node, std::uint64_t number, const std::string& place) {
  if (node.type != JsonNode::Type::Object) return badDocument(place, "a record is an object");
  Record record;
  record.number = number;
  for (JsonMember& member : node.members) {
    auto name = std::find(names_.begin(), names_.end(), member.name);
    if (name == names_.end()) name = names_.insert(names_.end(), member.name);
    ITERANDUM_ASSIGN(Value value, valueFromJson(member.value, place + pointerTo("", member.name)));
    record.values.emplace_back(static_cast<std::size_t>(name - names_.begin()), std::move(value));
  }
  records_.push_back(std::move(record));
  return {};
}

Result<std::unique_ptr<JsonRecords>> JsonRecords::open(std::string_view document) {
  auto out = std::make_unique<JsonRecords>();
  const std::size_t first = document.find_first_not_of(" \t\r\n");
  out->byLine_ = first != std::string_view::npos && document[first] == '{';
  if (!out->byLine_) {
    ITERANDUM_ASSIGN(JsonNode root, parseJson(document));
    if (root.type != JsonNode::Type::Array) return badDocument("", "an array of records is wanted here");
    for (std::size_t i = 0; i < root.items.size(); ++i) {
      ITERANDUM_TRY(out->add(std::move(root.items[i]), i + 1, pointerTo("", std::to_string(i))));
    }
    return out;
  }
  std::uint64_t number = 0;
  while (!document.empty()) {
    ++number;
    const std::size_t end = document.find('\n');
    const std::string_view line = document.substr(0, end);
    document.remove_prefix(end == std::string_view::npos ? document.size() : end + 1);
    if (line.find_first_not_of(" \t\r") == std::string_view::npos) continue;
    const std::string place = "line " + std::to_string(number);
    auto node = parseJson(line);
    if (!node) {
      node.error().place = place + (node.error().place.empty() ? "" : ", " + node.error().place);
      return fail(std::move(node.error()));
    }
    ITERANDUM_TRY(out->add(std::move(*node), number, place));
  }
  return out;
}

Result<bool> JsonRecords::next(FileLine& line) {
  line.cells.clear();
  line.cells.resize(names_.size());
  if (at_ == 0) {
    ++at_;
    line.number = 0;
    for (std::size_t i = 0; i < names_.size(); ++i) {
      line.cells[i].kind = FileCell::Kind::Text;
      line.cells[i].text = names_[i];
    }
    return true;
  }
  if (at_ > records_.size()) return false;
  Record& record = records_[at_++ - 1];
  line.number = record.number;
  for (auto& [column, value] : record.values) {
    line.cells[column].kind = value.isNull() ? FileCell::Kind::None : FileCell::Kind::Exact;
    line.cells[column].value = std::move(value);
  }
  return true;
}

}  // namespace iterandum
