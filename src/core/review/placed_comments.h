// Where comments belong in what is reviewed: to all of it, to a group, to a record.
#pragma once

#include <map>
#include <vector>

#include "core/changes/comment.h"
#include "core/review/groups.h"

namespace iterandum {

// What a comment on a whole group is about. Where two groups change a column and nothing but the gesture tells them
// apart, the place means the first.
[[nodiscard]] CommentPlace placeOf(const ChangeGroup& group);
// What a comment on one change is about. An addition without a label has no place of its own: that of all additions.
[[nodiscard]] CommentPlace placeOf(const Change& change);

// Each list holds indices into the comments, in their order.
struct PlacedComments {
  std::vector<std::size_t> ofAll;                            // also those whose place is not reviewed here
  std::vector<std::vector<std::size_t>> ofGroups;            // one list for each group
  std::map<std::uint32_t, std::vector<std::size_t>> ofEach;  // by the index of the change
};
[[nodiscard]] PlacedComments placeComments(const std::vector<Comment>& comments, const std::vector<ChangeGroup>& groups,
                                           const ChangeList& changes);

// Comments that came with a change list, whose records were found again under the keys that they have here: `from`
// became `to`, each change under the same index. What was left out keeps its place as it was said.
void moveComments(std::vector<Comment>& comments, const ChangeList& from, const ChangeList& to,
                  const Catalogue& catalogue);

// Those that are about nothing but what is not in `changes`: they wait, when a part is applied.
[[nodiscard]] std::vector<Comment> commentsElsewhere(const std::vector<Comment>& comments, const ChangeList& changes);

}  // namespace iterandum
