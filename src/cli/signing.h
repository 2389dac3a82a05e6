// Change files with those who signed them, on the command line.
#pragma once

#include <string>

#include "core/changes/change_file.h"

namespace iterandum::cli {

// "-" is standard input. Errors: InvalidFile with the file's name and the place in it.
[[nodiscard]] Result<ChangeDocument> readSignedChanges(const std::string& path);

// Each of them, and what it is worth, on standard error.
void tellSignatures(const ChangeDocument& document);
// What was said, on standard error.
void tellComments(const ChangeDocument& document);

}  // namespace iterandum::cli
