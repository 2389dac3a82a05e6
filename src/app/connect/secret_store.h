// SecretStore: where passwords of databases are kept, if anywhere. Ours is the desktop's secret service; nothing of it
// is ever in a file, a log or a title of this program. Lives on the interface thread; answers come later.
#pragma once

#include <QString>
#include <functional>
#include <memory>
#include <optional>

namespace iterandum {

class SecretStore {
 public:
  SecretStore() = default;
  SecretStore(const SecretStore&) = delete;
  SecretStore& operator=(const SecretStore&) = delete;
  virtual ~SecretStore() = default;

  // `address` has no password in it. Nothing when none is kept, or there is no secret service.
  virtual void read(const QString& address, std::function<void(std::optional<QString>)> done) = 0;
  // Gives why it could not be kept; empty: it was.
  virtual void keep(const QString& address, const QString& password, std::function<void(QString)> done) = 0;
};

// The desktop's secret service.
[[nodiscard]] std::unique_ptr<SecretStore> desktopSecrets();

}  // namespace iterandum
