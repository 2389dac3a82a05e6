#include "core/engines/connection_trial.h"

#include <algorithm>

#include "core/engines/common/address.h"

namespace iterandum {
namespace {

std::string rightsInWords(const Catalogue& catalogue, const SessionInfo& info) {
  std::size_t readable = 0;
  std::size_t writable = 0;
  for (const Table& table : catalogue.tables()) {
    if (!table.unusable.empty()) continue;
    ++readable;
    if (table.notEditable.empty()) ++writable;
  }
  if (!info.readOnly.empty()) return std::to_string(readable) + " tables can be read, none written: " + info.readOnly;
  return std::to_string(readable) + " tables can be read, " + std::to_string(writable) + " of them edited";
}

// All steps before `name` are good, it failed, and those after it were not reached.
void failAt(std::vector<TrialStep>& steps, const std::string& name, const std::string& words) {
  auto at = std::find_if(steps.begin(), steps.end(), [&](const TrialStep& s) { return s.name == name; });
  if (at == steps.end()) at = steps.begin();
  for (auto s = steps.begin(); s != at; ++s) s->state = TrialStep::State::Good;
  at->state = TrialStep::State::Failed;
  at->words = words;
}

}  // namespace

bool isServerAddress(const std::string& address) {
  for (const char* scheme : {"postgresql://", "postgres://", "mariadb://", "mysql://"}) {
    if (address.rfind(scheme, 0) == 0) return true;
  }
  return false;
}

std::vector<TrialStep> tryConnection(const std::string& address, const OpenOptions& options, Progress& progress) {
  const bool server = isServerAddress(address);
  std::vector<TrialStep> steps;
  for (const char* name : {"name", "port", "tls", "password"}) {
    if (server) steps.push_back({name, {}, {}});
  }
  if (!server) steps.push_back({"file", {}, {}});
  steps.push_back({"database", {}, {}});
  steps.push_back({"rights", {}, {}});
  auto session = openSession(address, options, progress);
  if (!session) {
    std::string words = withoutSecrets(session.error().message, address);
    // The address stands right above.
    const std::string prefix = withoutPassword(address) + ": ";
    if (words.rfind(prefix, 0) == 0) words.erase(0, prefix.size());
    failAt(steps, session.error().step, words);
    return steps;
  }
  auto catalogue = (*session)->readCatalogue(progress);
  if (!catalogue) {
    failAt(steps, "rights", catalogue.error().message);
    return steps;
  }
  const SessionInfo& info = (*session)->info();
  for (TrialStep& step : steps) {
    step.state = TrialStep::State::Good;
    if (step.name == "tls") step.words = info.encryption.empty() ? "the line is not encrypted" : info.encryption;
    if (step.name == "database") step.words = info.title;
    if (step.name == "rights") step.words = rightsInWords(*catalogue, info);
  }
  return steps;
}

}  // namespace iterandum
