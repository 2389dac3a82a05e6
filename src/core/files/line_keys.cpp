#include "core/files/line_keys.h"

#include <algorithm>

namespace iterandum {
namespace {

void appendStep(std::string& to, std::uint64_t step) {
  for (; step >= 0x80; step >>= 7) to += static_cast<char>(step | 0x80);
  to += static_cast<char>(step);
}

std::uint64_t nextStep(const std::string& from, std::size_t& at) {
  std::uint64_t step = 0;
  for (unsigned shift = 0;; shift += 7) {
    const auto byte = static_cast<unsigned char>(from[at++]);
    step |= static_cast<std::uint64_t>(byte & 0x7FU) << shift;
    if (byte < 0x80) return step;
  }
}

}  // namespace

std::optional<std::uint32_t> LineKeys::put(const ValueTuple& key, std::uint32_t line) {
  if (inRun_) {
    if (followsOn(key, line)) return std::nullopt;
    leaveRun();
  }
  return putInTable(key, line);
}

bool LineKeys::followsOn(const ValueTuple& key, std::uint32_t line) {
  if (key.size() != 1 || key[0].kind() != Value::Kind::Integer) return false;
  const std::int64_t now = key[0].asInteger();
  if (!run_.empty() && now <= lastKey_) return false;
  // The first one is a step from nought, which may be one backwards: as unsigned numbers both come out.
  appendStep(run_, static_cast<std::uint64_t>(now) - static_cast<std::uint64_t>(lastKey_));
  appendStep(run_, line - lastLine_);
  lastKey_ = now;
  lastLine_ = line;
  return true;
}

void LineKeys::leaveRun() {
  inRun_ = false;
  std::uint64_t key = 0;
  std::uint64_t line = 0;
  for (std::size_t at = 0; at < run_.size();) {
    key += nextStep(run_, at);
    line += nextStep(run_, at);
    (void)putInTable({Value::integer(static_cast<std::int64_t>(key))}, static_cast<std::uint32_t>(line));
  }
  run_ = std::string();
}

std::optional<std::uint32_t> LineKeys::putInTable(const ValueTuple& key, std::uint32_t line) {
  if ((lines_.size() + 1) * 4 > slots_.size() * 3) grow();
  keys_.resize(key.size());
  const std::size_t mask = slots_.size() - 1;
  std::size_t slot = TupleHash{}(key)&mask;
  while (slots_[slot] != 0) {
    const std::uint32_t at = slots_[slot] - 1;
    bool same = true;
    for (std::size_t k = 0; k < keys_.size() && same; ++k) same = sameValue(keys_[k].at(at), key[k]);
    if (same) return lines_[at];
    slot = (slot + 1) & mask;
  }
  for (std::size_t k = 0; k < keys_.size(); ++k) keys_[k].push(key[k]);
  lines_.push_back(line);
  slots_[slot] = static_cast<std::uint32_t>(lines_.size());
  return std::nullopt;
}

void LineKeys::grow() {
  slots_.assign(std::max<std::size_t>(slots_.size() * 2, 1024), 0);
  for (std::uint32_t at = 0; at < lines_.size(); ++at) {
    std::size_t slot = hashRow(keys_, at) & (slots_.size() - 1);
    while (slots_[slot] != 0) slot = (slot + 1) & (slots_.size() - 1);
    slots_[slot] = at + 1;
  }
}

}  // namespace iterandum
