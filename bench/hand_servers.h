// What a careful programmer would write by hand with the servers' client libraries for the same work: the yardsticks.
// The ways are the quickest that were found: arrays joined by unnest with hash joins switched off (PostgreSQL), JSON
// documents joined by JSON_TABLE in batches of 10 000 (MariaDB), COPY and rows in one INSERT for the barest additions.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "hand_written.h"

namespace bench {

class HandServer {
 public:
  HandServer() = default;
  HandServer(const HandServer&) = delete;
  HandServer& operator=(const HandServer&) = delete;
  virtual ~HandServer() = default;

  virtual void run(const std::string& sql) = 0;
  // One transaction: lock and read all records whole, compare, write, read all whole again. Gives how many were
  // written.
  virtual std::size_t editVerified(const std::vector<Edit>& edits) = 0;
  // Reads the value of each record by key and compares. Gives how many are as expected.
  virtual std::size_t readAndCompare(const std::vector<Edit>& edits) = 0;
  virtual std::size_t editBare(const std::vector<Edit>& edits) = 0;
  // Looks whether the ids are taken and whether the place they point at is there, adds the records and reads them back
  // whole; the barest way only adds.
  virtual std::size_t addVerified(const std::vector<std::int64_t>& ids) = 0;
  virtual std::size_t addBare(const std::vector<std::int64_t>& ids) = 0;
  // Locks and reads the records whole, removes them; the barest way only removes.
  virtual std::size_t removeVerified(const std::vector<std::int64_t>& ids) = 0;
  virtual std::size_t removeBare(const std::vector<std::int64_t>& ids) = 0;
};

// `address`: scheme://user@host:port/database, without a password.
[[nodiscard]] std::unique_ptr<HandServer> handPostgreSql(const std::string& address);
[[nodiscard]] std::unique_ptr<HandServer> handMariaDb(const std::string& host, unsigned port, const std::string& user,
                                                      const std::string& database);

}  // namespace bench
