#include "app/records/column_values.h"

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
