#include "core/files/line_outcomes.h"

#include <algorithm>

namespace iterandum {

void LineOutcomes::add(std::uint32_t line, LineOutcome::Kind kind, std::string words) {
  std::uint32_t at = 0;
  if (!words.empty()) {
    const bool isShared = kind == LineOutcome::Kind::Changes;
    if (isShared) {
      const auto [found, isNew] = columns_.try_emplace(words, static_cast<std::uint32_t>(words_.size() + 1));
      at = found->second;
      if (isNew) words_.emplace_back() = std::move(words);
    } else {
      words_.emplace_back() = std::move(words);
      at = static_cast<std::uint32_t>(words_.size());
    }
  }
  kept_.push_back({line, static_cast<std::uint32_t>(kind), at});
}

void LineOutcomes::sort() {
  std::stable_sort(kept_.begin(), kept_.end(), [](const Kept& a, const Kept& b) { return a.line < b.line; });
}

void LineOutcomes::erase(const std::vector<std::uint32_t>& lines) {
  std::erase_if(kept_, [&](const Kept& kept) { return std::binary_search(lines.begin(), lines.end(), kept.line); });
}

LineOutcome LineOutcomes::outcome(const Kept& kept) const {
  LineOutcome out;
  out.line = kept.line;
  out.kind = static_cast<LineOutcome::Kind>(kept.kind);
  if (kept.words > 0) out.words = words_[kept.words - 1];
  return out;
}

LineOutcome LineOutcomes::of(std::uint64_t line) const {
  const auto at = std::lower_bound(kept_.begin(), kept_.end(), line,
                                   [](const Kept& kept, std::uint64_t n) { return kept.line < n; });
  if (at != kept_.end() && at->line == line) return outcome(*at);
  LineOutcome out;
  out.line = line;
  return out;
}

std::string inWords(const LineOutcome& outcome, const char* lineWord) {
  using Kind = LineOutcome::Kind;
  switch (outcome.kind) {
    case Kind::Changes:
      return "changes " + outcome.words.text();
    case Kind::AlreadySo:
      return "is so already";
    case Kind::New:
      return "is a new record";
    case Kind::NoRecord:
      return "no record is named by it";
    case Kind::Several:
      return "several records are named by it";
    case Kind::Twice:
      return "names the same record as " + std::string(lineWord) + " " + outcome.words.text();
    case Kind::Refused:
      break;
  }
  return outcome.words.text();
}

}  // namespace iterandum
