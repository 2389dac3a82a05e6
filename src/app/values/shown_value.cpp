#include "app/values/shown_value.h"

#include <QObject>

#include "core/value/visible_text.h"

namespace iterandum {
namespace {

// A line of text has its end where it ends; everything else that acts is shown as messages show it.
QString onOneLine(std::string_view text) {
  QString out;
  std::size_t begin = 0;
  for (std::size_t end = text.find('\n'); end != std::string_view::npos; end = text.find('\n', begin)) {
    const bool carriage = end > begin && text[end - 1] == '\r';
    out += toQ(visibleText(text.substr(begin, end - begin - (carriage ? 1 : 0)))) + QStringLiteral("\u21b5");
    begin = end + 1;
  }
  return out + toQ(visibleText(text.substr(begin)));
}

// The start of the text, ending between two characters.
std::string_view startOf(std::string_view text, std::size_t most) {
  while (most > 0 && (static_cast<unsigned char>(text[most]) & 0xC0U) == 0x80U) --most;
  return text.substr(0, most);
}

}  // namespace

QString shownValue(const Column& column, const Value& value, const Lens* lens) {
  if (value.isNull()) return QObject::tr("no value");
  if (lens != nullptr && value.kind() != Value::Kind::PendingKey) {
    const auto shown = shownThrough(*lens, column, value);
    return shown ? onOneLine(*shown) : QObject::tr("stored %1").arg(shownValue(column, value));
  }
  if (value.kind() == Value::Kind::PendingKey) return QObject::tr("new record");
  if (value.kind() == Value::Kind::Bytes)
    return QObject::tr("%n byte(s)", "", static_cast<int>(value.asString().size()));
  if (value.isString() && value.asString().empty()) return QObject::tr("empty text");
  if (column.type == TypeClass::Boolean && value.isNumber() && value.kind() != Value::Kind::Real) {
    return value.asInteger() != 0 ? QObject::tr("yes") : QObject::tr("no");
  }
  if (value.kind() == Value::Kind::Real) {
    QString text = toQ(canonicalText(value));
    if (column.type == TypeClass::Decimal && text.endsWith(QLatin1String(".0"))) text.chop(2);
    return text;
  }
  if (!value.isString()) return toQ(canonicalText(value));
  // The first kilobyte is more than a cell shows; the rest is there when the cell is opened.
  constexpr std::size_t kMost = 1024;
  const std::string_view text = value.asString();
  return text.size() > kMost ? onOneLine(startOf(text, kMost)) + QStringLiteral("…") : onOneLine(text);
}

QString editText(const Column& column, const Value& value, const Lens* lens) {
  if (value.isNull()) return {};
  QString stored = toQ(canonicalText(value));
  // To edit what is masked is to ask for it.
  if (lens == nullptr || lens->kind == LensKind::Masked) return stored;
  const auto shown = shownThrough(*lens, column, value);
  return shown ? toQ(*shown) : QStringLiteral("stored ") + stored;
}

}  // namespace iterandum
