// A server that says what it is told to say, and then nothing any more.
#pragma once

#include <string>
#include <thread>

namespace iterandum::test {

class FakeServer {
 public:
  // `greeting` is said to whoever connects, `answer` to the first thing they say.
  FakeServer(std::string greeting, std::string answer);
  FakeServer(const FakeServer&) = delete;
  FakeServer& operator=(const FakeServer&) = delete;
  ~FakeServer();
  [[nodiscard]] std::string port() const { return std::to_string(port_); }

 private:
  void serve() const;

  std::string greeting_;
  std::string answer_;
  int listener_ = -1;
  int stop_[2] = {-1, -1};  // a pipe: closed when it is over
  unsigned port_ = 0;
  std::thread thread_;
};

// The first words of a server of PostgreSQL's or MariaDB's kind and of this version.
[[nodiscard]] std::string postgreSqlGreeting(const std::string& version);
[[nodiscard]] std::string mariaDbGreeting(const std::string& version);
[[nodiscard]] std::string mariaDbWelcome();

}  // namespace iterandum::test
