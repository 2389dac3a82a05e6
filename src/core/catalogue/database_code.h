// Code that lies in a database: triggers, views, routines. What it does cannot be known without running it; whom it
// speaks of can be read from its text.
#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace iterandum {

// Whether the text has the name as a word of its own, in any case. A name in a comment counts too: where this is asked,
// once too often is safe.
[[nodiscard]] bool mentionsName(std::string_view text, std::string_view name);

// The routines that code may call, and those that they call in turn.
class Routines {
 public:
  // An empty text stands for one that cannot be read.
  void add(std::string name, std::string text) { routines_.emplace_back(std::move(name), std::move(text)); }
  // The text with that of every routine it may call; empty when one of them cannot be read.
  [[nodiscard]] std::string withCalled(const std::string& text) const;

 private:
  std::vector<std::pair<std::string, std::string>> routines_;
};

}  // namespace iterandum
