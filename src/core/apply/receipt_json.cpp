// Receipts as JSON documents, "iterandum-receipt" version 1.
#include <algorithm>
#include <map>

#include "core/apply/receipt.h"
#include "core/base/names.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

void writeRecord(JsonWriter& out, const char* name, const ReceiptBlock& block, const std::vector<ValueColumn>& values,
                 std::size_t row) {
  if (values.empty()) return;
  out.name(name).beginObject();
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    out.name(block.columns[c]).value(values[c].at(row), contains(block.anyTypeColumns, block.columns[c]));
  }
  out.endObject();
}

void writeSource(JsonWriter& out, const FileOrigins& origins, std::uint32_t change) {
  const LineOrigin origin = origins.of(change);
  if (origin.file == 0) return;
  const SourceFile& file = origins.files[origin.file - 1];
  out.name("source").beginObject().name("file").string(file.name).name(file.lineWord).number(origin.line);
  if (origin.alsoByHand) out.name("also_by_hand").boolean(true);
  out.name("digest").string(file.digest).endObject();
}

void writeResult(JsonWriter& out, const Receipt& receipt, const ReceiptBlock& block, std::size_t row) {
  out.compactNext().beginObject().name("change").number(block.changeIndex[row]);
  out.name("action").string(actionName(block.action)).name("table").string(displayName(block.table));
  if (!block.keys.empty()) {
    out.name("key").beginObject();
    for (std::size_t k = 0; k < block.keys.size(); ++k)
      out.name(block.keyColumns[k]).value(block.keys[k].at(row), true);
    out.endObject();
  }
  if (!block.cascaded) out.name("outcome").string(outcomeName(block.outcomes[row]));
  if (!block.cascaded) writeSource(out, receipt.origins, block.changeIndex[row]);
  writeRecord(out, "before", block, block.before, row);
  writeRecord(out, "after", block, block.after, row);
  if (!block.written.empty()) {
    out.name("written").beginArray();
    for (const std::string& c : block.written) out.string(c);
    out.endArray();
  }
  if (const auto kept = block.kept.find(static_cast<std::uint32_t>(row)); kept != block.kept.end()) {
    out.name("kept").beginArray();
    for (const std::string& c : kept->second) out.string(c);
    out.endArray();
  }
  out.endObject();
}

void writeResults(JsonWriter& out, const Receipt& receipt, bool cascaded) {
  std::vector<std::pair<const ReceiptBlock*, std::size_t>> rows;
  for (const ReceiptBlock& block : receipt.blocks) {
    if (block.cascaded != cascaded) continue;
    for (std::size_t r = 0; r < block.rows(); ++r) rows.emplace_back(&block, r);
  }
  std::stable_sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) {
    return a.first->changeIndex[a.second] < b.first->changeIndex[b.second];
  });
  for (const auto& [block, row] : rows) writeResult(out, receipt, *block, row);
}

// --- reading
// -----------------------------------------------------------------------------------------------------------

class ReceiptReader {
 public:
  Result<Receipt> read(const JsonNode& root) {
    if (root.type != JsonNode::Type::Object) return badDocument("/", "a receipt is an object");
    const JsonNode* format = root.find("format");
    if (format == nullptr || format->text != "iterandum-receipt")
      return badDocument("/format", "this is not a receipt");
    const JsonNode* version = root.find("version");
    if (version == nullptr || version->text != "1")
      return badDocument("/version", "this program reads receipts of version 1");
    const std::map<std::string, std::string*> texts{{"applied_at", &receipt_.appliedAt},
                                                    {"applied_by", &receipt_.appliedBy},
                                                    {"database", &receipt_.database},
                                                    {"title", &receipt_.title}};
    for (const auto& [name, node] : root.members) {
      const std::string place = pointerTo("", name);
      if (const auto text = texts.find(name); text != texts.end()) {
        if (node.type != JsonNode::Type::String) return badDocument(place, "a string is wanted here");
        *text->second = node.text;
      } else if (name == "results" || name == "cascaded") {
        ITERANDUM_TRY(readResults(node, place, name == "cascaded"));
      } else if (name == "signatures") {
        ITERANDUM_ASSIGN(receipt_.signatures, readSignatures(node, place));
      } else if (name == "comments") {
        ITERANDUM_ASSIGN(receipt_.comments, readComments(node, place));
      } else if (name != "format" && name != "version" && name != "notes") {
        return badDocument(place, "this name is not known here");
      }
    }
    if (root.find("results") == nullptr) return badDocument("/results", "is missing");
    return std::move(receipt_);
  }

 private:
  Status readResults(const JsonNode& node, const std::string& place, bool cascaded) {
    if (node.type != JsonNode::Type::Array) return badDocument(place, "an array is wanted here");
    for (std::size_t i = 0; i < node.items.size(); ++i) {
      ITERANDUM_TRY(readResult(node.items[i], pointerTo(place, std::to_string(i)), cascaded));
    }
    return {};
  }

  using Record = std::vector<std::pair<std::string, Value>>;

  static Result<Record> readRecord(const JsonNode* node, const std::string& place) {
    Record out;
    if (node == nullptr) return out;
    if (node->type != JsonNode::Type::Object) return badDocument(place, "an object is wanted here");
    for (const auto& [name, value] : node->members) {
      ITERANDUM_ASSIGN(Value v, valueFromJson(value, pointerTo(place, name)));
      out.emplace_back(name, std::move(v));
    }
    return out;
  }

  // Of a line of a file; what is not told of it is left out.
  Status readSource(const JsonNode& node, const std::string& place, std::uint32_t change) {
    if (node.type != JsonNode::Type::Object) return badDocument(place, "an object is wanted here");
    SourceFile file;
    LineOrigin origin;
    for (const auto& [name, value] : node.members) {
      const bool isText = name == "file" || name == "digest";
      if (isText && value.type == JsonNode::Type::String) {
        (name == "file" ? file.name : file.digest) = value.text;
      } else if (name == "also_by_hand" && value.type == JsonNode::Type::Boolean) {
        origin.alsoByHand = value.boolean;
      } else if (!isText && value.type == JsonNode::Type::Number) {
        file.lineWord = name;
        origin.line = static_cast<std::uint32_t>(std::strtoul(value.text.c_str(), nullptr, 10));
      } else {
        return badDocument(pointerTo(place, name), "a file, its digest and the number of a line are wanted here");
      }
    }
    // They are kept by position: a number that no change set has would ask for room up to it.
    constexpr std::uint32_t kMostChanges = 1U << 24U;
    if (change >= kMostChanges) return {};
    std::vector<SourceFile>& files = receipt_.origins.files;
    const auto at = std::find(files.begin(), files.end(), file);
    origin.file = static_cast<std::uint32_t>(at - files.begin()) + 1;
    if (at == files.end()) files.push_back(std::move(file));
    receipt_.origins.note(change, origin);
    return {};
  }

  Status readResult(const JsonNode& node, const std::string& place, bool cascaded) {
    if (node.type != JsonNode::Type::Object) return badDocument(place, "an object is wanted here");
    ReceiptBlock block;
    block.cascaded = cascaded;
    const JsonNode* table = node.find("table");
    if (table == nullptr || table->type != JsonNode::Type::String)
      return badDocument(place + "/table", "a table name is wanted");
    auto name = parseTableName(table->text);
    if (!name) return badDocument(place + "/table", name.error().message);
    block.table = *name;
    ITERANDUM_TRY(readAction(node, place, block));
    ITERANDUM_ASSIGN(const Record key, readRecord(node.find("key"), place + "/key"));
    ITERANDUM_ASSIGN(const Record before, readRecord(node.find("before"), place + "/before"));
    ITERANDUM_ASSIGN(const Record after, readRecord(node.find("after"), place + "/after"));
    for (const auto& [column, value] : key) {
      block.keyColumns.push_back(column);
      block.keys.emplace_back(1, value);
    }
    const Record& shown = before.empty() ? after : before;
    for (const auto& [column, value] : shown) {
      block.columns.push_back(column);
      if (!before.empty()) block.before.emplace_back(1, value);
    }
    if (block.action == Action::Add && !before.empty())
      return badDocument(place + "/before", "an addition held nothing before");
    if (block.action == Action::Remove && !after.empty())
      return badDocument(place + "/after", "a removal leaves nothing");
    if (block.action == Action::Edit && before.size() != after.size()) {
      return badDocument(place, "before and after must have the same columns");
    }
    for (const auto& [column, value] : after) {
      const std::size_t at = block.after.size();
      if (at >= block.columns.size() || block.columns[at] != column) {
        return badDocument(place + "/after", "before and after must have the same columns");
      }
      block.after.emplace_back(1, value);
    }
    if (block.action != Action::Remove && block.outcomes[0] == Outcome::Applied && block.after.empty()) {
      return badDocument(place + "/after", "is missing");
    }
    if (block.action != Action::Add && block.outcomes[0] == Outcome::Applied && block.before.empty()) {
      return badDocument(place + "/before", "is missing");
    }
    if (const JsonNode* source = node.find("source")) {
      ITERANDUM_TRY(readSource(*source, place + "/source", block.changeIndex[0]));
    }
    if (const JsonNode* written = node.find("written")) {
      for (const JsonNode& column : written->items) block.written.push_back(column.text);
    }
    if (const JsonNode* kept = node.find("kept")) {
      for (const JsonNode& column : kept->items) block.kept[0].push_back(column.text);
    }
    receipt_.blocks.push_back(std::move(block));
    return {};
  }

  static Status readAction(const JsonNode& node, const std::string& place, ReceiptBlock& block) {
    const JsonNode* action = node.find("action");
    bool known = false;
    for (const Action a : {Action::Edit, Action::Add, Action::Remove}) {
      if (action != nullptr && action->text == actionName(a)) {
        block.action = a;
        known = true;
      }
    }
    if (!known) return badDocument(place + "/action", "edit, add or remove is wanted");
    Outcome outcome = Outcome::Applied;
    if (const JsonNode* given = node.find("outcome")) {
      known = false;
      for (const Outcome o : {Outcome::Applied, Outcome::AlreadySo, Outcome::Skipped}) {
        if (given->text == outcomeName(o)) {
          outcome = o;
          known = true;
        }
      }
      if (!known) return badDocument(place + "/outcome", "applied, already-so or skipped is wanted");
    }
    block.outcomes.push_back(outcome);
    const JsonNode* change = node.find("change");
    if (change == nullptr || change->type != JsonNode::Type::Number)
      return badDocument(place + "/change", "a number is wanted");
    block.changeIndex.push_back(static_cast<std::uint32_t>(std::strtoul(change->text.c_str(), nullptr, 10)));
    return {};
  }

  Receipt receipt_;
};

}  // namespace

std::string receiptJson(const Receipt& receipt, bool onOneLine) {
  JsonWriter out(!onOneLine);
  out.beginObject().name("format").string("iterandum-receipt").name("version").number(1);
  out.name("applied_at").string(receipt.appliedAt).name("applied_by").string(receipt.appliedBy);
  out.name("database").string(receipt.database).name("title").string(receipt.title);
  writeSignatures(out, receipt.signatures);
  writeComments(out, receipt.comments);
  out.name("results").beginArray();
  writeResults(out, receipt, false);
  out.endArray();
  const bool cascades =
      std::any_of(receipt.blocks.begin(), receipt.blocks.end(), [](const auto& b) { return b.cascaded; });
  if (cascades) {
    out.name("cascaded").beginArray();
    writeResults(out, receipt, true);
    out.endArray();
  }
  out.endObject();
  return onOneLine ? out.take() : out.take() + "\n";
}

Result<Receipt> readReceiptJson(std::string_view document) {
  ITERANDUM_ASSIGN(const JsonNode root, parseJson(document));
  return ReceiptReader().read(root);
}

}  // namespace iterandum
