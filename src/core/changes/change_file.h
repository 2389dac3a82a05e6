// Reading and writing change files, "iterandum-changes" version 1.
//
// The reader checks the form only (names, types, labels); whether tables and columns exist is the review's part. It
// never changes anything and never crashes on any input; errors carry the JSON Pointer of the place.
#pragma once

#include <string>
#include <string_view>

#include "core/changes/change_list.h"
#include "core/changes/comment.h"
#include "core/changes/signature.h"

namespace iterandum {

// A change file with those who signed it, and what was said of it.
struct ChangeDocument {
  ChangeList changes;
  std::vector<Signature> signatures;
  std::vector<Comment> comments;
};

[[nodiscard]] Result<ChangeDocument> readChangeDocument(std::string_view document);
// The changes alone.
[[nodiscard]] Result<ChangeList> readChangeFile(std::string_view document);
[[nodiscard]] std::string writeChangeFile(const ChangeList& changes, const std::vector<Signature>& signatures = {},
                                          const std::vector<Comment>& comments = {});
[[nodiscard]] std::string writeChangeFile(const ChangeDocument& document);

}  // namespace iterandum
