// Documents that people export and import: scopes, recipes. Files are chosen by a dialog; a new one appears whole or
// not at all.
#pragma once

#include <QString>
#include <optional>
#include <string>

#include "core/base/result.h"

class QWidget;

namespace iterandum {

// What the dialogs say.
struct DocumentWords {
  QString title;
  QString kind;  // "Scopes (*.json)"
};

// The path it was written to; nothing: nobody chose one. Errors: InvalidFile with the system's words.
[[nodiscard]] Result<std::optional<QString>> exportDocument(QWidget* parent, const DocumentWords& words,
                                                            const QString& name, const std::string& text);

struct ReadDocument {
  QString path;
  std::string text;
};
// Nothing: nobody chose a file. Errors: InvalidFile, with the path as its place; larger than `mostBytes` it is none.
[[nodiscard]] Result<std::optional<ReadDocument>> importDocument(QWidget* parent, const DocumentWords& words,
                                                                 std::int64_t mostBytes);

}  // namespace iterandum
