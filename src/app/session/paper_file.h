// Papers (core/paper) as files: a PDF where the name says so, else the HTML as it is.
#pragma once

#include <QString>
#include <functional>

#include "app/session/desk.h"
#include "core/paper/paper.h"

namespace iterandum {

// Written whole or not at all; on any thread. Errors: InvalidFile with the system's words.
[[nodiscard]] Status writePaper(const QString& path, const std::string& html);

// Reads the names that a paper wants, writes it and the file behind the scenes. `want` asks for names, `write` makes
// the paper; both run there and own what they speak of. `done` is told on the interface thread while `whose` is there.
void savePaper(Desk& desk, QObject* whose, const QString& path, std::function<void(RecordNames&)> want,
               std::function<std::string(const RecordNames&)> write, std::function<void(Status&&)> done);

}  // namespace iterandum
