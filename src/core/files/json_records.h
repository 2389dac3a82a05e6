// Records of a JSON document: an array of objects, or an object a line. The first "line" holds the names.
#pragma once

#include <string_view>

#include "core/files/table_source.h"
#include "core/value/json.h"

namespace iterandum {

class JsonRecords final : public TableSource {
 public:
  // Errors: InvalidFile with the place: no such document, an element that is no object.
  [[nodiscard]] static Result<std::unique_ptr<JsonRecords>> open(std::string_view document);
  [[nodiscard]] Result<bool> next(FileLine& line) override;
  [[nodiscard]] const char* lineWord() const override { return byLine_ ? "line" : "record"; }

 private:
  [[nodiscard]] Status add(JsonNode&& node, std::uint64_t number, const std::string& place);

  bool byLine_ = false;
  std::vector<std::string> names_;
  struct Record {
    std::uint64_t number = 0;
    std::vector<std::pair<std::size_t, Value>> values;  // by position in names_
  };
  std::vector<Record> records_;
  std::size_t at_ = 0;  // 0: the names
};

}  // namespace iterandum
