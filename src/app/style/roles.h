// The colours, faces and measures of the proof-reader's desk, by role. Widgets ask for a role, never for a colour.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>

namespace iterandum {

enum class Scheme { Light, Dark };

struct Roles {
  QColor paper;  // pages, sheets
  QColor desk;   // behind the pages
  QColor side;   // lists beside a page, statements
  QColor rule;   // hairlines
  QColor strongRule;
  QColor marginRule;  // double, between margin and page
  QColor ink;         // text
  QColor soft;        // labels
  QColor faint;       // asides
  QColor blue;        // a changed cell, what can be clicked
  QColor blueWash;
  QColor leaf;  // a new record
  QColor leafWash;
  QColor query;  // needs a look
  QColor queryWash;
  QColor current;  // the current record
  QColor strip;    // the rail's ground
  QColor onStrip;  // text on it
  QColor onStripSoft;
  QColor onStripQuery;
};

[[nodiscard]] const Roles& roles();
[[nodiscard]] Scheme scheme();
// Changes the colours of the whole application.
void applyScheme(Scheme scheme);
// What the desktop asks for.
[[nodiscard]] Scheme desktopScheme();

// For what is said: sentences, titles, headings.
[[nodiscard]] QFont serif(qreal scale = 1.0);
// For what is stored: data and controls, with figures of equal width.
[[nodiscard]] QFont plain(qreal scale = 1.0);
// For statements.
[[nodiscard]] QFont mono();

// How a colour is written in rich text and style sheets.
[[nodiscard]] QString css(const QColor& color);

}  // namespace iterandum
