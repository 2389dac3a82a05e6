#include "support/proxy.h"

#include <arpa/inet.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <stdexcept>
#include <string_view>

namespace iterandum::test {
namespace {

constexpr int kWatchMs = 20;

sockaddr_in loopback(unsigned port) {
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  address.sin_port = htons(static_cast<std::uint16_t>(port));
  return address;
}

void cutNow(int socket) {
  // Without a farewell: the other side sees a reset, as when a line drops.
  const linger none{1, 0};
  setsockopt(socket, SOL_SOCKET, SO_LINGER, &none, sizeof none);
  close(socket);
}

}  // namespace

Proxy::Proxy(unsigned target, std::uint64_t cutAt, std::chrono::milliseconds delay)
    : target_(target), cutAt_(cutAt), delay_(delay) {
  listener_ = socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  sockaddr_in address = loopback(0);
  socklen_t length = sizeof address;
  if (bind(listener_, reinterpret_cast<sockaddr*>(&address), length) != 0 || listen(listener_, 8) != 0 ||
      getsockname(listener_, reinterpret_cast<sockaddr*>(&address), &length) != 0) {
    throw std::runtime_error("the relay cannot listen");
  }
  port_ = ntohs(address.sin_port);
  acceptor_ = std::thread([this] { accept(); });
}

Proxy::~Proxy() {
  stop_ = true;
  acceptor_.join();
  for (std::thread& relay : relays_) relay.join();
  close(listener_);
}

std::vector<std::string> Proxy::spoken() const {
  const std::lock_guard lock(mutex_);
  return spoken_;
}

void Proxy::accept() {
  bool first = true;
  while (!stop_) {
    pollfd watched{listener_, POLLIN, 0};
    if (poll(&watched, 1, kWatchMs) <= 0) continue;
    const int client = accept4(listener_, nullptr, nullptr, SOCK_CLOEXEC);
    if (client < 0) continue;
    if (cut_ && refuse_) {
      cutNow(client);
      continue;
    }
    relays_.emplace_back([this, client, first] { relay(client, first); });
    first = false;
  }
}

void Proxy::relay(int client, bool first) {
  const int server = socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  const sockaddr_in address = loopback(target_);
  if (connect(server, reinterpret_cast<const sockaddr*>(&address), sizeof address) != 0) {
    cutNow(client);
    close(server);
    return;
  }
  std::size_t number = 0;
  {
    const std::lock_guard lock(mutex_);
    number = spoken_.size();
    spoken_.emplace_back();
  }
  std::uint64_t messages = 0;
  bool clientSpoke = false;
  bool wordPassed = false;
  const int noDelay = 1;
  setsockopt(client, IPPROTO_TCP, TCP_NODELAY, &noDelay, sizeof noDelay);
  setsockopt(server, IPPROTO_TCP, TCP_NODELAY, &noDelay, sizeof noDelay);
  std::vector<char> buffer(1U << 20U);
  while (!stop_) {
    pollfd both[2] = {{client, POLLIN, 0}, {server, POLLIN, 0}};
    if (poll(both, 2, kWatchMs) <= 0) continue;
    if (silent_) {
      std::this_thread::sleep_for(std::chrono::milliseconds(kWatchMs));
      continue;
    }
    for (int i = 0; i < 2; ++i) {
      if (both[i].revents == 0) continue;
      const ssize_t count = recv(both[i].fd, buffer.data(), buffer.size(), 0);
      std::string_view message(buffer.data(), static_cast<std::size_t>(std::max<ssize_t>(0, count)));
      while (message.ends_with('\0')) message.remove_suffix(1);
      const bool holdsWord = first && i == 0 && !word_.empty() && message.ends_with(word_);
      const bool cut = (first && cutAt_ != 0 && ++messages == cutAt_) ||
                       (holdsWord && moment_ == Moment::BeforeItIsDone) || (wordPassed && i == 1);
      wordPassed = wordPassed || holdsWord;
      if (count <= 0 || cut) {
        if (cut && !cut_ && happens_) happens_();
        cut_ = cut_ || cut;
        cutNow(client);
        cutNow(server);
        return;
      }
      const bool fromClient = i == 0;
      if (fromClient) {
        const std::lock_guard lock(mutex_);
        spoken_[number].append(buffer.data(), static_cast<std::size_t>(count));
      }
      if (fromClient && !clientSpoke) {
        ++roundTrips_;
        std::this_thread::sleep_for(delay_);
      }
      clientSpoke = fromClient;
      for (ssize_t sent = 0; sent < count;) {
        const ssize_t n =
            send(both[1 - i].fd, buffer.data() + sent, static_cast<std::size_t>(count - sent), MSG_NOSIGNAL);
        if (n <= 0) break;
        sent += n;
      }
    }
  }
  cutNow(client);
  cutNow(server);
}

}  // namespace iterandum::test
