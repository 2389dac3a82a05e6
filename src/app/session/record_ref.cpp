#include "app/session/record_ref.h"

#include "app/values/shown_value.h"

namespace iterandum {

QString recordText(const RecordRef& ref) {
  QString text = QString::number(ref.addedId);
  for (const Value& v : ref.key) text += QLatin1Char('\n') + toQ(canonicalText(v));
  return text;
}

}  // namespace iterandum
