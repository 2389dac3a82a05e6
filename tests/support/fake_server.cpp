#include "support/fake_server.h"

#include <arpa/inet.h>
#include <netinet/in.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <array>
#include <stdexcept>

namespace iterandum::test {
namespace {

// A number in `bytes` bytes, the highest first.
std::string bigEndian(std::size_t number, int bytes) {
  std::string out;
  for (int shift = (bytes - 1) * 8; shift >= 0; shift -= 8) out += static_cast<char>(number >> shift & 0xFFU);
  return out;
}

// A message of PostgreSQL's protocol.
std::string message(char kind, const std::string& body) { return kind + bigEndian(body.size() + 4, 4) + body; }

// A packet of MariaDB's protocol.
std::string packet(char number, const std::string& body) {
  const std::size_t n = body.size();
  return std::string{static_cast<char>(n & 0xFFU), static_cast<char>(n >> 8 & 0xFFU),
                     static_cast<char>(n >> 16 & 0xFFU), number} +
         body;
}

}  // namespace

FakeServer::FakeServer(std::string greeting, std::string answer)
    : greeting_(std::move(greeting)), answer_(std::move(answer)) {
  listener_ = socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  socklen_t length = sizeof address;
  if (bind(listener_, reinterpret_cast<sockaddr*>(&address), length) != 0 || listen(listener_, 8) != 0 ||
      getsockname(listener_, reinterpret_cast<sockaddr*>(&address), &length) != 0 || pipe(stop_) != 0) {
    throw std::runtime_error("the server cannot listen");
  }
  port_ = ntohs(address.sin_port);
  thread_ = std::thread([this] { serve(); });
}

FakeServer::~FakeServer() {
  close(stop_[1]);
  thread_.join();
  close(stop_[0]);
  close(listener_);
}

void FakeServer::serve() const {
  std::array<pollfd, 2> watched{{{stop_[0], POLLIN, 0}, {listener_, POLLIN, 0}}};
  int client = -1;
  bool answered = false;
  while (poll(watched.data(), watched.size(), -1) > 0 && watched[0].revents == 0) {
    if (client < 0) {
      client = accept4(listener_, nullptr, nullptr, SOCK_CLOEXEC);
      watched[1].fd = client;
      (void)!send(client, greeting_.data(), greeting_.size(), MSG_NOSIGNAL);
      continue;
    }
    std::array<char, 4096> said{};
    if (recv(client, said.data(), said.size(), 0) <= 0) watched[1].fd = -1;
    if (!answered) (void)!send(client, answer_.data(), answer_.size(), MSG_NOSIGNAL);
    answered = true;
  }
  if (client >= 0) close(client);
}

// AuthenticationOk, one parameter, ReadyForQuery.
std::string postgreSqlGreeting(const std::string& version) {
  using namespace std::string_literals;
  return message('R', "\0\0\0\0"s) + message('S', "server_version\0"s + version + "\0"s) + message('Z', "I");
}

// The initial handshake packet, protocol 10: capabilities of a server that knows passwords by scramble.
std::string mariaDbGreeting(const std::string& version) {
  using namespace std::string_literals;
  return packet(0, "\x0a"s + version + "\0"s + "\x07\0\0\0"s + "scramble" + "\0"s + "\xff\xf7"s + "\x2d" + "\x02\0"s +
                       "\x0f\x80"s + "\x15" + std::string(10, '\0') + "scrambled..." + "\0"s +
                       "mysql_native_password\0"s);
}

std::string mariaDbWelcome() {
  using namespace std::string_literals;
  return packet(2, "\0\0\0\x02\0\0\0"s);
}

}  // namespace iterandum::test
