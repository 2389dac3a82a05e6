#include "cli/password.h"

#include <fcntl.h>
#include <termios.h>
#include <unistd.h>

namespace iterandum::cli {
namespace {

// The terminal without echo, for as long as this lives.
class SilentTerminal {
 public:
  SilentTerminal() : terminal_(open("/dev/tty", O_RDWR | O_CLOEXEC)) {
    if (terminal_ < 0 || tcgetattr(terminal_, &before_) != 0) return;
    termios silent = before_;
    silent.c_lflag &= ~static_cast<tcflag_t>(ECHO);
    changed_ = tcsetattr(terminal_, TCSAFLUSH, &silent) == 0;
  }
  SilentTerminal(const SilentTerminal&) = delete;
  SilentTerminal& operator=(const SilentTerminal&) = delete;
  ~SilentTerminal() {
    if (changed_) tcsetattr(terminal_, TCSAFLUSH, &before_);
    if (terminal_ >= 0) close(terminal_);
  }
  [[nodiscard]] bool usable() const { return changed_; }
  void say(const std::string& words) const { (void)!write(terminal_, words.data(), words.size()); }
  [[nodiscard]] std::optional<std::string> readLine() const {
    std::string line;
    char c = 0;
    while (read(terminal_, &c, 1) == 1) {
      if (c == '\n') return line;
      line += c;
    }
    return std::nullopt;
  }

 private:
  int terminal_;
  termios before_{};
  bool changed_ = false;
};

}  // namespace

std::optional<std::string> askPasswordOnTerminal(const std::string& forWhom) {
  const SilentTerminal terminal;
  if (!terminal.usable()) return std::nullopt;
  terminal.say("Password for " + forWhom + ": ");
  auto line = terminal.readLine();
  terminal.say("\n");
  return line;
}

}  // namespace iterandum::cli
