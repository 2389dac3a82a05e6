// A relay between a client and a server on this computer that drops the line at a chosen message, and can slow it down.
#pragma once

#include <atomic>
#include <cstdint>
#include <thread>
#include <vector>

namespace iterandum::test {

class Proxy {
 public:
  // Relays to 127.0.0.1:`target`. The first connection is cut instead of passing on its `cutAt`-th message (counted in
  // both directions, from 1); 0 cuts nothing. Connections after the first are never cut.
  Proxy(unsigned target, std::uint64_t cutAt);
  Proxy(const Proxy&) = delete;
  Proxy& operator=(const Proxy&) = delete;
  ~Proxy();

  [[nodiscard]] unsigned port() const { return port_; }
  [[nodiscard]] bool hasCut() const { return cut_; }

 private:
  void accept();
  void relay(int client, bool first);

  unsigned target_;
  std::uint64_t cutAt_;
  int listener_ = -1;
  unsigned port_ = 0;
  std::atomic<bool> stop_{false};
  std::atomic<bool> cut_{false};
  std::thread acceptor_;
  std::vector<std::thread> relays_;
};

}  // namespace iterandum::test
