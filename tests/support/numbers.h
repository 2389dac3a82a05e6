// Numbers read by no locale's rules, whatever locale the tests run in.
#pragma once

#include <gtest/gtest.h>

#include <charconv>
#include <string>

namespace iterandum::test {

inline double numberIn(const std::string& text) {
  double out = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
  EXPECT_TRUE(error == std::errc() && end == text.data() + text.size()) << text;
  return out;
}

}  // namespace iterandum::test
