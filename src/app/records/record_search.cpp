#include "app/records/record_search.h"

#include <QStringList>

#include "core/catalogue/column_rules.h"
#include "core/scope/condition_text.h"

namespace iterandum {
namespace {

Condition equals(const std::string& column, Value value) {
  Condition out;
  out.op = Condition::Op::Equal;
  out.column = column;
  out.value = std::move(value);
  return out;
}

}  // namespace

Condition calledLike(const std::vector<std::string>& readable, const QString& text) {
  Condition any;
  any.op = Condition::Op::Or;
  for (const std::string& column : readable) {
    Condition part;
    part.op = Condition::Op::Contains;
    part.column = column;
    part.value = Value::text(text.toStdString());
    any.parts.push_back(std::move(part));
  }
  return any;
}

Result<Condition> keyIs(const Table& table, const QString& text) {
  const std::vector<std::string> names = table.writeKeyColumns();
  const QStringList parts = names.size() == 1 ? QStringList{text.trimmed()} : text.split(',');
  if (names.empty() || parts.size() != static_cast<qsizetype>(names.size())) {
    std::string wanted;
    for (const std::string& name : names) wanted += (wanted.empty() ? "" : ", ") + name;
    return fail(ErrorKind::InvalidInput, names.empty() ? "records here have no key" : "the key is: " + wanted);
  }
  Condition out;
  for (std::size_t k = 0; k < names.size(); ++k) {
    const Column* column = table.column(names[k]);
    Column row;  // the row number
    row.type = TypeClass::Integer;
    ITERANDUM_ASSIGN(Value value, typedValue(column != nullptr ? *column : row,
                                             parts[static_cast<qsizetype>(k)].trimmed().toStdString()));
    if (value.isNull()) return fail(ErrorKind::InvalidInput, "a key is wanted here");
    out = bothHold(std::move(out), equals(names[k], std::move(value)));
  }
  return out;
}

Condition namedExactly(const Table& table, const QString& text) {
  Condition any;
  any.op = Condition::Op::Or;
  if (auto key = keyIs(table, text)) any.parts.push_back(std::move(*key));
  for (const UniqueKey& unique : table.keys) {
    if (unique.columns.size() != 1) continue;
    const Column& column = table.columns[unique.columns[0]];
    auto value = typedValue(column, text.trimmed().toStdString());
    if (value && !value->isNull()) any.parts.push_back(equals(column.name, std::move(*value)));
  }
  return any.parts.empty() ? Condition{} : any;
}

}  // namespace iterandum
