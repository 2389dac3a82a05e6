// probe: whether a database that nobody tried before holds what Iterandum counts on.
#include <unistd.h>

#include <random>

#include "cli/command_line.h"
#include "cli/files.h"
#include "core/engines/probe.h"
#include "core/value/json.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

std::string asText(const std::vector<Probed>& probed) {
  std::string out;
  for (const Probed& one : probed) {
    out += std::string(one.answer == Probed::Answer::Holds ? "  " : "! ") + one.what + ": " +
           answerInWords(one.answer) + (one.detail.empty() ? "" : " (" + visibleText(one.detail) + ")") + "\n";
    if (!one.then.empty()) out += "    " + one.then + "\n";
  }
  return out;
}

std::string asJson(const std::vector<Probed>& probed) {
  JsonWriter out(true);
  out.beginArray();
  for (const Probed& one : probed) {
    out.compactNext().beginObject().name("what").string(one.what).name("answer").string(answerInWords(one.answer));
    if (!one.detail.empty()) out.name("detail").string(one.detail);
    if (!one.then.empty()) out.name("then").string(one.then);
    out.endObject();
  }
  out.endArray();
  return out.take() + "\n";
}

Result<Exit> probe(const Arguments& a) {
  ProbeOptions options;
  options.byReadingAlone = a.readOnly;
  std::random_device random;
  options.table = "iterandum_probe_" + std::to_string(getpid()) + "_" + std::to_string(random() % 100000);
  Progress progress(terminalProgress());
  options.open = openOptions(a, false);
  ITERANDUM_ASSIGN(const std::vector<Probed> probed, probeDatabase(a.database, options, progress));
  ITERANDUM_TRY(writeOut(a.format == "json" ? asJson(probed) : asText(probed)));
  for (const Probed& one : probed) {
    if (one.answer == Probed::Answer::DoesNot) return Exit::Blocked;
  }
  return Exit::Done;
}

}  // namespace

Exit runProbe(const Arguments& arguments) {
  const auto result = probe(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
