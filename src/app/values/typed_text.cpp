#include "app/values/typed_text.h"

#include <QDate>
#include <QLocale>
#include <QRegularExpression>
#include <chrono>

#include "core/catalogue/column_rules.h"
#include "core/scope/period.h"

namespace iterandum {
namespace {

// One day, said in words. Stretches of several are none.
QDate dayInWords(const QString& text, const QDate& today) {
  using std::chrono::sys_days;
  const sys_days now(std::chrono::year_month_day(std::chrono::year(today.year()),
                                                 std::chrono::month(static_cast<unsigned>(today.month())),
                                                 std::chrono::day(static_cast<unsigned>(today.day()))));
  const auto period = periodOf(text.toStdString(), now);
  if (!period || period->to - period->from != std::chrono::days(1)) return {};
  return today.addDays((period->from - now).count());
}

// 3.4.25, 3.4.2025, 3.4.: the day first, as everybody writes it who writes points. Two digits are of the hundred years
// from eighty years ago on.
QDate dayInPoints(const QString& text, const QDate& today) {
  static const QRegularExpression kPoints(QStringLiteral("^(\\d{1,2})\\.\\s?(\\d{1,2})\\.\\s?(\\d{2}|\\d{4})?$"));
  const QRegularExpressionMatch match = kPoints.match(text);
  if (!match.hasMatch()) return {};
  constexpr int kBack = 80;
  int year = match.captured(3).isEmpty() ? today.year() : match.captured(3).toInt();
  if (match.captured(3).size() == 2) {
    year += (today.year() - kBack) / 100 * 100;
    if (year < today.year() - kBack) year += 100;
  }
  return {year, match.captured(2).toInt(), match.captured(1).toInt()};
}

QDate dayOf(const QString& text) {
  const QDate today = QDate::currentDate();
  if (const QDate day = dayInWords(text, today); day.isValid()) return day;
  if (const QDate day = dayInPoints(text, today); day.isValid()) return day;
  const QLocale locale;
  // The short form with all of the year: "3/4/25" could be of any hundred years, and day or month first.
  QString form = locale.dateFormat(QLocale::ShortFormat);
  if (!form.contains(QLatin1String("yyyy"))) form.replace(QLatin1String("yy"), QLatin1String("yyyy"));
  return locale.toDate(text, form);
}

}  // namespace

Result<Value> typedInCell(const Column& column, const QString& text, const Lens* lens) {
  const auto read = [&](const QString& said) {
    return lens == nullptr ? typedValue(column, said.toStdString()) : typedThrough(*lens, column, said.toStdString());
  };
  auto value = read(text);
  const bool ofDays = lens == nullptr ? column.type == TypeClass::Date || column.type == TypeClass::Timestamp
                                      : lens->kind == LensKind::Moment;
  if (value || !ofDays) return value;
  const QDate day = dayOf(text.trimmed());
  return day.isValid() ? read(day.toString(Qt::ISODate)) : std::move(value);
}

}  // namespace iterandum
