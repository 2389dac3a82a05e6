#include "app/connect/secret_store.h"

#include <qt6keychain/keychain.h>

namespace iterandum {
namespace {

class DesktopSecrets : public SecretStore {
 public:
  void read(const QString& address, std::function<void(std::optional<QString>)> done) override {
    auto* job = new QKeychain::ReadPasswordJob(service());
    job->setInsecureFallback(false);
    job->setKey(address);
    QObject::connect(job, &QKeychain::Job::finished, job, [job, done = std::move(done)](QKeychain::Job*) {
      done(job->error() == QKeychain::NoError ? std::optional(job->textData()) : std::nullopt);
    });
    job->start();
  }
  void keep(const QString& address, const QString& password, std::function<void(QString)> done) override {
    auto* job = new QKeychain::WritePasswordJob(service());
    job->setInsecureFallback(false);
    job->setKey(address);
    job->setTextData(password);
    QObject::connect(job, &QKeychain::Job::finished, job, [job, done = std::move(done)](QKeychain::Job*) {
      done(job->error() == QKeychain::NoError ? QString() : job->errorString());
    });
    job->start();
  }

 private:
  static QString service() { return QStringLiteral("Iterandum"); }
};

}  // namespace

std::unique_ptr<SecretStore> desktopSecrets() { return std::make_unique<DesktopSecrets>(); }

}  // namespace iterandum
