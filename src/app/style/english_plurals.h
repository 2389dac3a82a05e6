// EnglishPlurals: makes "3 records" and "1 record" of tr("%n record(s)"), as a translation file would for other
// tongues.
#pragma once

#include <QTranslator>

namespace iterandum {

class EnglishPlurals : public QTranslator {
 public:
  using QTranslator::QTranslator;
  [[nodiscard]] bool isEmpty() const override { return false; }
  [[nodiscard]] QString translate(const char*, const char* text, const char*, int n) const override {
    if (n < 0 || text == nullptr) return {};
    QString out = QString::fromUtf8(text);
    // A verb has its s when the noun has none.
    out.replace(QLatin1String("need(s)"), QLatin1String(n == 1 ? "needs" : "need"));
    out.replace(QLatin1String("(s)"), QLatin1String(n == 1 ? "" : "s"));
    out.replace(QLatin1String("(are)"), QLatin1String(n == 1 ? "is" : "are"));
    out.replace(QLatin1String("(were)"), QLatin1String(n == 1 ? "was" : "were"));
    out.replace(QLatin1String("(hold)"), QLatin1String(n == 1 ? "holds" : "hold"));
    out.replace(QLatin1String("(do)"), QLatin1String(n == 1 ? "does" : "do"));
    return out;
  }
};

}  // namespace iterandum
