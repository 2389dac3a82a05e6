// comment: what is said of a change file, written into it and read from it.
#include <algorithm>
#include <cstdio>

#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/signing.h"
#include "core/apply/apply.h"
#include "core/changes/change_file.h"
#include "core/review/placed_comments.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

std::string lineOf(const Comment& comment) {
  const std::string of = inWords(comment.about);
  return visibleText(comment.by + ", " + comment.at + (of.empty() ? "" : ", of " + of) + ": " + comment.words);
}

// A label that no addition of the file has.
std::string freeLabel(const ChangeList& changes, std::uint32_t change) {
  std::string out = "new-" + std::to_string(change);
  const auto taken = [&] {
    return std::any_of(changes.blocks().begin(), changes.blocks().end(), [&](const ChangeBlock& block) {
      return std::find(block.labels.begin(), block.labels.end(), out) != block.labels.end();
    });
  };
  while (taken()) out += "-";
  return out;
}

Result<CommentPlace> placeOfChange(ChangeList& changes, std::uint64_t wanted) {
  for (ChangeBlock& block : changes.blocks()) {
    const auto at = std::find(block.changeIndex.begin(), block.changeIndex.end(), wanted);
    if (at == block.changeIndex.end()) continue;
    const auto row = static_cast<std::size_t>(at - block.changeIndex.begin());
    if (block.action == Action::Add && block.labels[row].empty()) block.labels[row] = freeLabel(changes, *at);
    return placeOf(block.change(row));
  }
  return fail(ErrorKind::NotFound, "there is no change " + std::to_string(wanted) + " in it", "--change");
}

// The changes of a table, or of one of its columns.
Result<CommentPlace> placeOfTable(const ChangeList& changes, const Arguments& a) {
  ITERANDUM_ASSIGN(const TableName table, parseTableName(a.table));
  for (const ChangeBlock& block : changes.blocks()) {
    if (block.table != table || (!a.column.empty() && block.action != Action::Edit)) continue;
    const bool isOfColumn = std::any_of(block.cells.begin(), block.cells.end(),
                                        [&](const ChangeBlock::Cells& cells) { return cells.column == a.column; });
    if (!a.column.empty() && !isOfColumn) continue;
    CommentPlace out;
    out.kind = CommentPlace::Kind::Group;
    out.table = table;
    out.action = block.action;
    out.column = a.column;
    return out;
  }
  return fail(ErrorKind::NotFound,
              "nothing in it changes " + (a.column.empty() ? a.table : a.column + " in " + a.table),
              a.column.empty() ? "--table" : "--column");
}

Result<Exit> comment(const Arguments& a) {
  ITERANDUM_ASSIGN(ChangeDocument document, readSignedChanges(a.file));
  if (a.words.empty()) {
    std::string out;
    for (const Comment& one : document.comments) out += lineOf(one) + "\n";
    ITERANDUM_TRY(writeOut(out));
    return Exit::Done;
  }
  if (a.output.empty()) return fail(ErrorKind::InvalidInput, "say where the change file with the comment goes", "-o");
  ITERANDUM_TRY(refuseTargets({a.output}, {a.file}, {}));
  if (a.words.size() > kLongestComment)
    return fail(ErrorKind::InvalidInput, "this is longer than a comment is", "--words");
  if (document.comments.size() >= kMostComments) return fail(ErrorKind::InvalidInput, "it has 10 000 comments already");
  Comment said;
  said.by = a.signAs.empty() ? systemUserName() : a.signAs;
  said.at = nowUtc();
  said.words = a.words;
  if (a.changeNumber) {
    ITERANDUM_ASSIGN(said.about, placeOfChange(document.changes, *a.changeNumber));
  } else if (!a.table.empty()) {
    ITERANDUM_ASSIGN(said.about, placeOfTable(document.changes, a));
  }
  putIn({said}, document.comments);
  ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.output));
  ITERANDUM_TRY(file->write(writeChangeFile(document)));
  ITERANDUM_TRY(file->putInPlace());
  return Exit::Done;
}

}  // namespace

void tellComments(const ChangeDocument& document) {
  for (const Comment& one : document.comments) say("note: " + lineOf(one));
}

Exit runComment(const Arguments& arguments) {
  const auto result = comment(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
