// Reading by hand: what a careful programmer would write with each client library to show records. The yardstick of
// bench_scope.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

namespace bench {

class HandReader {
 public:
  HandReader() = default;
  HandReader(const HandReader&) = delete;
  HandReader& operator=(const HandReader&) = delete;
  virtual ~HandReader() = default;

  virtual void run(const std::string& sql) = 0;
  // All rows, each field copied as the client gives it. Gives how many rows there were.
  virtual std::size_t rows(const std::string& sql) = 0;
  // The first column of all rows, as whole numbers.
  virtual std::vector<std::int64_t> numbers(const std::string& sql) = 0;
};

// A path, postgresql://… or mariadb://user@host:port/database.
[[nodiscard]] std::unique_ptr<HandReader> handReader(const std::string& address);

}  // namespace bench
