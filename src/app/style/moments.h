// Moments as the desktop writes them, in its time zone.
#pragma once

#include <QDateTime>
#include <QLocale>
#include <QString>
#include <string>

namespace iterandum {

// `utc`: RFC 3339. What cannot be read is shown as it is.
[[nodiscard]] inline QString momentInWords(const std::string& utc) {
  const QString text = QString::fromStdString(utc);
  const QDateTime moment = QDateTime::fromString(text, Qt::ISODate);
  return moment.isValid() ? QLocale().toString(moment.toLocalTime(), QLocale::ShortFormat) : text;
}

}  // namespace iterandum
