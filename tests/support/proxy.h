// A relay between a client and a server on this computer that drops the line at a chosen message, and can slow it down.
#pragma once

#include <atomic>
#include <chrono>
#include <cstdint>
#include <functional>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

namespace iterandum::test {

class Proxy {
 public:
  // Relays to 127.0.0.1:`target`. The first connection is cut instead of passing on its `cutAt`-th message (counted in
  // both directions, from 1); 0 cuts nothing. Connections after the first are never cut. Each round trip takes `delay`
  // longer than it would.
  Proxy(unsigned target, std::uint64_t cutAt, std::chrono::milliseconds delay = std::chrono::milliseconds(0));
  Proxy(const Proxy&) = delete;
  Proxy& operator=(const Proxy&) = delete;
  ~Proxy();

  // The first connection is cut at the client's message that ends with this word: before it is passed on, or after the
  // server did it and before its answer is passed on. To be called before anybody connects.
  enum class Moment { BeforeItIsDone, AfterItIsDone };
  void cutAt(std::string word, Moment moment) {
    word_ = std::move(word);
    moment_ = moment;
  }

  // What is done at the moment of the cut, before the client can know of it. To be called before anybody connects.
  void onCut(std::function<void()> happens) { happens_ = std::move(happens); }
  // Nobody is let through any more after the cut.
  void refuseAfterCut() { refuse_ = true; }

  // From now on nothing is passed on any more, and nobody is told: the other side has stopped answering.
  void fallSilent() { silent_ = true; }

  [[nodiscard]] unsigned port() const { return port_; }
  [[nodiscard]] bool hasCut() const { return cut_; }
  // How often the client spoke after the server had: round trips, of all connections.
  [[nodiscard]] std::uint64_t roundTrips() const { return roundTrips_; }
  // All that clients said so far, connection by connection, as it went over the line.
  [[nodiscard]] std::vector<std::string> spoken() const;

 private:
  void accept();
  void relay(int client, bool first);

  unsigned target_;
  std::uint64_t cutAt_;
  std::chrono::milliseconds delay_;
  std::string word_;
  Moment moment_ = Moment::BeforeItIsDone;
  std::function<void()> happens_;
  std::atomic<bool> refuse_{false};
  std::atomic<std::uint64_t> roundTrips_{0};
  int listener_ = -1;
  unsigned port_ = 0;
  std::atomic<bool> stop_{false};
  std::atomic<bool> silent_{false};
  std::atomic<bool> cut_{false};
  mutable std::mutex mutex_;
  std::vector<std::string> spoken_;  // under mutex_
  std::thread acceptor_;
  std::vector<std::thread> relays_;
};

}  // namespace iterandum::test
