// Anything may be handed over as a list of corrections: it is read to its end or refused, whatever it is.
#include <cstdint>
#include <string>

#include "core/files/cell_values.h"
#include "core/files/table_file.h"

namespace {

iterandum::Table shelf() {
  using iterandum::TypeClass;
  iterandum::Table table;
  table.name = {"", "shelf"};
  const std::pair<const char*, TypeClass> columns[] = {{"id", TypeClass::Integer},    {"note", TypeClass::Text},
                                                       {"price", TypeClass::Decimal}, {"seen", TypeClass::Date},
                                                       {"at", TypeClass::Timestamp},  {"any", TypeClass::Any}};
  for (const auto& [name, type] : columns) {
    iterandum::Column column;
    column.name = name;
    column.type = type;
    table.columns.push_back(column);
  }
  table.identity.columns = {"id"};
  return table;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace iterandum;
  static const Table kTable = shelf();
  if (size < 2) return 0;
  // The first byte says how it is read.
  const bool asText = (data[0] & 1U) != 0;
  WrittenForms forms;
  forms.decimal = static_cast<WrittenForms::Decimal>(data[0] / 2 % 3);
  forms.days = static_cast<WrittenForms::Days>(data[0] / 8 % 4);
  std::string content(reinterpret_cast<const char*>(data) + 1, size - 1);
  const auto file = TableFile::open({asText ? "a.csv" : "a", {}, {}, {}}, kTable, std::move(content));
  if (!file) return 0;
  FileHeader header;
  const auto match = matchColumns(kTable, {});
  auto source = (*file)->linesBehindHeader(kTable, *match, header);
  if (!source) return 0;
  FileLine line;
  while (true) {
    const auto more = (*source)->next(line);
    if (!more || !*more) return 0;
    for (std::size_t i = 0; i < line.cells.size() && i < header.columns.size(); ++i) {
      const FileCell& cell = line.cells[i];
      const bool says = cell.kind != FileCell::Kind::Absent && cell.kind != FileCell::Kind::None;
      if (header.columns[i] != nullptr && says) (void)valueOfCell(*header.columns[i], cell, forms);
    }
  }
}
