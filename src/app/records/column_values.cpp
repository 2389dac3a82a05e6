#include "app/records/column_values.h"

#include <QHash>

#include "core/catalogue/column_rules.h"

namespace iterandum {

QString operandFor(const Value& value) {
  if (value.isNull()) return QStringLiteral("no value");
  QString text = toQ(canonicalText(value));
  if (!value.isString()) return text;
  return QLatin1Char('\'') + text.replace(QLatin1Char('\''), QStringLiteral("''")) + QLatin1Char('\'');
}

QString filterFor(const Value& value) {
  if (value.kind() == Value::Kind::Bytes) return {};
  return value.isNull() ? QStringLiteral("no value") : QStringLiteral("= ") + operandFor(value);
}

QString kindInWords(const Column& column) {
  constexpr int kMost = 32;
  const QString words = toQ(wantedInWords(column));
  return words.size() > kMost ? words.left(kMost - 1) + QStringLiteral("…") : words;
}

std::vector<OfferedValue> offeredValues(SheetModel& model, const ColumnPath& path, const CountedValues& values,
                                        bool all) {
  const Table& owner = path.owner(model.table());
  const auto at = owner.columnIndex(path.column);
  ReferenceNames& names = model.desk().names();
  const Reference* reference = at ? names.reference(owner, *at) : nullptr;
  const Table* target = reference == nullptr ? nullptr : model.desk().catalogue().find(reference->target);
  const bool named = target != nullptr && names.shownBy(*target).size() == 1;
  const Lens* lens = model.desk().lenses().of(owner.name, path.column);
  std::vector<OfferedValue> out;
  QHash<QString, int> called;
  std::vector<Value> keys;
  for (const auto& [value, records] : values) {
    const QString name = named ? names.name(owner, *at, value) : QString();
    const bool nothing = value.isNull() || (value.isString() && value.asString().empty());
    out.push_back({name.isEmpty() ? shownValue(owner.columns[at.value_or(0)], value, lens) : name, operandFor(value),
                   filterFor(value), records, nothing});
    if (value.kind() == Value::Kind::Bytes) out.back().operand.clear();
    if (!name.isEmpty()) ++called[name];
    keys.push_back(value);
  }
  if (reference != nullptr) names.want(owner, *at, keys);
  for (OfferedValue& offer : out) {
    // Digits are a key.
    if (!all || called.value(offer.shown) != 1 || typedValue(owner.columns[*at], offer.shown.toStdString())) continue;
    offer.operand = operandFor(Value::text(offer.shown.toStdString()));
    offer.filter = QStringLiteral("= ") + offer.operand;
  }
  return out;
}

std::shared_ptr<Progress> readColumnValues(QObject* receiver, SheetModel& model, const ColumnPath& column,
                                           const Condition& where, std::uint64_t most,
                                           std::function<void(Result<CountedValues>&&)> done) {
  Query query;
  query.table = &model.table();
  query.where = where;
  return model.desk().behind().post(
      receiver,
      [query, path = column, most](Session& session, Progress& progress) -> Result<CountedValues> {
        CountedValues values;
        ITERANDUM_TRY(session.distinctValues(
            query, path, most,
            [&](Value&& value, std::uint64_t records) {
              values.emplace_back(std::move(value), records);
              return true;
            },
            progress));
        return values;
      },
      [done = std::move(done)](Result<CountedValues>&& values) { done(std::move(values)); });
}

}  // namespace iterandum
