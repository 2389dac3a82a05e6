// The colours that a database can be marked with. The mark always says its name too: colour is never alone.
#pragma once

#include <QString>
#include <array>

namespace iterandum {

struct MarkColour {
  const char* name;    // as the store keeps it
  const char* ground;  // chosen for 4.5:1 and better against the letters
  const char* letters;
};
constexpr std::array<MarkColour, 6> kMarkColours = {{{"red", "#a32020", "#ffffff"},
                                                     {"amber", "#e0a526", "#1d1a10"},
                                                     {"green", "#23683b", "#ffffff"},
                                                     {"blue", "#2459a5", "#ffffff"},
                                                     {"violet", "#69419a", "#ffffff"},
                                                     {"grey", "#d8d3c6", "#1d1a10"}}};

// The style of a label that shows a mark.
[[nodiscard]] inline QString markStyle(const QString& colour) {
  const MarkColour* found = &kMarkColours.back();
  for (const MarkColour& c : kMarkColours) {
    if (colour == QLatin1String(c.name)) found = &c;
  }
  return QStringLiteral("background: %1; color: %2; border-radius: 3px; padding: 3px 10px; font-weight: 600;")
      .arg(QLatin1String(found->ground), QLatin1String(found->letters));
}

}  // namespace iterandum
