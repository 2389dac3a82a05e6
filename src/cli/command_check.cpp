// check: which records break house rules as they are now.
#include <cstdio>

#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/rule_file.h"
#include "core/review/finding.h"
#include "core/rules/rule_check.h"
#include "core/value/json.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

struct Broken {
  const ReadRule* rule = nullptr;
  BrokenRule found;
};

std::string asJson(const std::vector<Broken>& all) {
  JsonWriter out(true);
  out.beginArray();
  for (const Broken& broken : all) {
    const ReadRule& rule = *broken.rule;
    const std::vector<std::string> columns = rule.table->writeKeyColumns();
    out.compactNext().beginObject().name("rule").string(rule.name).name("table").string(displayName(rule.table->name));
    out.name("level").string(rule.stops ? "blocks" : "note");
    out.name("rows").number(static_cast<std::int64_t>(broken.found.rows)).name("keys").beginArray();
    for (const ValueTuple& key : broken.found.keys) {
      out.beginObject();
      for (std::size_t k = 0; k < key.size(); ++k) out.name(columns[k]).value(key[k], true);
      out.endObject();
    }
    out.endArray().endObject();
  }
  out.endArray();
  return out.take() + "\n";
}

std::string asText(const std::vector<Broken>& all, std::size_t rules) {
  std::string out;
  for (const Broken& broken : all) {
    const ReadRule& rule = *broken.rule;
    const std::uint64_t rows = broken.found.rows;
    out += (rule.stops ? "! " : "- ") + visibleText(rule.name) + ": " + std::to_string(rows) +
           (rows == 1 ? " record" : " records") + " of " + visibleText(displayName(rule.table->name)) +
           (rows == 1 ? " breaks it" : " break it") + " (" + visibleText(rule.message) + ")\n";
    for (const ValueTuple& key : broken.found.keys) out += "    " + recordInWords(rule.table->name, key) + "\n";
    const std::uint64_t more = rows - broken.found.keys.size();
    if (more > 0) out += "    and " + std::to_string(more) + " more\n";
  }
  if (all.empty()) {
    out = rules == 1 ? "the house rule holds for all records\n"
                     : "all " + std::to_string(rules) + " house rules hold for all records\n";
  }
  return out;
}

Result<Exit> check(const Arguments& a) {
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
  ITERANDUM_ASSIGN(const std::vector<ReadRule> rules, readRuleFile(a, catalogue));
  std::vector<Broken> broken;
  bool stops = false;
  for (const ReadRule& rule : rules) {
    ITERANDUM_ASSIGN(BrokenRule found, recordsBreaking(*session, rule, a.limit.value_or(100), progress));
    if (found.rows == 0) continue;
    stops = stops || rule.stops;
    broken.push_back({&rule, std::move(found)});
  }
  ITERANDUM_TRY(writeOut(a.format == "json" ? asJson(broken) : asText(broken, rules.size())));
  return stops ? Exit::Blocked : Exit::Done;
}

}  // namespace

Result<std::vector<ReadRule>> readRuleFile(const Arguments& a, const Catalogue& catalogue) {
  if (a.rulesFile.empty()) return std::vector<ReadRule>();
  if (a.rulesFile == "-" && a.file == "-") {
    return fail(ErrorKind::InvalidInput, "only one of the change file and the rules can be standard input");
  }
  const std::string named = a.rulesFile == "-" ? "standard input" : a.rulesFile;
  const auto placed = [&](Error error) {
    error.place = named + (error.place.empty() ? "" : ": " + error.place);
    return fail(std::move(error));
  };
  ITERANDUM_ASSIGN(const std::string document, readWhole(a.rulesFile));
  auto rules = rulesFromJson(document);
  if (!rules) return placed(std::move(rules.error()));
  auto read = readRules(*rules, contextNow(catalogue));
  if (!read) return placed(std::move(read.error()));
  return read;
}

Exit runCheck(const Arguments& arguments) {
  const auto result = check(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
