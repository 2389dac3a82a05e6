// doubles: records that are alike, and the changes that leave one of each.
#include "cli/changes_output.h"
#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/scope_call.h"
#include "core/acts/doubles.h"
#include "core/catalogue/record_words.h"
#include "core/scope/column_path.h"
#include "core/value/json.h"

namespace iterandum::cli {
namespace {

Result<DoublesQuestion> readQuestion(const Arguments& a, const ReadScope& scope) {
  DoublesQuestion question;
  question.which.table = scope.table;
  question.which.where = scope.where();
  question.which.order = scope.order;
  ITERANDUM_ASSIGN(const std::vector<std::string> names, splitColumns(a.alike, "--alike"));
  for (const std::string& name : names) {
    const Column* column = columnCalled(*scope.table, name);
    if (column == nullptr) {
      return fail(ErrorKind::NotFound, "'" + name + "' is no column of " + displayName(scope.table->name), "--alike");
    }
    question.columns.push_back(column->name);
  }
  using Compared = DoublesQuestion::Compared;
  question.compared = a.compare == "nearly"    ? Compared::Nearly
                      : a.compare == "loosely" ? Compared::Loosely
                                               : Compared::Exactly;
  return question;
}

DoublesDecision decide(const Arguments& a, const FoundDoubles& found) {
  const Keep keep = a.keep == "last" ? Keep::Last : (a.keep == "fullest" ? Keep::Fullest : Keep::First);
  DoublesDecision out;
  for (const DoubleGroup& group : found.groups) out.emplace_back(keptOf(group, keep));
  return out;
}

// One group an element, the key of the one that would stay first.
std::string asJson(const Table& table, const FoundDoubles& found, const DoublesDecision& stays) {
  const std::vector<std::string> columns = table.writeKeyColumns();
  JsonWriter out(true);
  const auto key = [&](const DoubleRecord& record) {
    out.beginObject();
    for (std::size_t k = 0; k < record.key.size(); ++k) out.name(columns[k]).value(record.key[k], true);
    out.endObject();
  };
  out.beginArray();
  for (std::size_t g = 0; g < found.groups.size(); ++g) {
    out.compactNext().beginObject().name("keep");
    key(found.groups[g][*stays[g]]);
    out.name("others").beginArray();
    for (std::size_t r = 0; r < found.groups[g].size(); ++r) {
      if (r != *stays[g]) key(found.groups[g][r]);
    }
    out.endArray().endObject();
  }
  out.endArray();
  return out.take() + "\n";
}

std::string asText(const Table& table, const FoundDoubles& found, const DoublesDecision& stays) {
  std::string out;
  for (std::size_t g = 0; g < found.groups.size(); ++g) {
    for (std::size_t r = 0; r < found.groups[g].size(); ++r) {
      const DoubleRecord& record = found.groups[g][r];
      out += (r == *stays[g] ? "  stays  " : "  goes   ") + recordInWords(table.name, record.key) + ": ";
      for (std::size_t c = 0; c < record.values.size(); ++c)
        out += (c > 0 ? ", " : "") + valueInWords(record.values[c]);
      out += "\n";
    }
    if (!found.differ[g].empty()) {
      out += "  they differ in ";
      for (std::size_t c = 0; c < found.differ[g].size(); ++c) out += (c > 0 ? ", " : "") + found.differ[g][c];
      out += "\n";
    }
    out += "\n";
  }
  return out;
}

void sayFound(const FoundDoubles& found) {
  const std::uint64_t records = found.records();
  say(std::to_string(found.looked) + " records were compared: " + std::to_string(found.groups.size()) +
      (found.groups.size() == 1 ? " group" : " groups") + " of doubles, " + std::to_string(records) + " records, " +
      std::to_string(records - found.groups.size()) + " of them besides the one that stays");
  if (found.silent > 0) say(std::to_string(found.silent) + " have nothing in these columns and are doubles of none");
  if (found.unnamed > 0) {
    say(std::to_string(found.unnamed) +
        " cannot be told from another in any column: no change can name one of them, they are left out");
  }
}

Result<Exit> doubles(const Arguments& a) {
  ITERANDUM_TRY(wantTable(a));
  ITERANDUM_TRY(refuseTargets({a.output}, {a.scopeFile}, a.database));
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const Catalogue catalogue, catalogueWithStated(*session, progress));
  ITERANDUM_ASSIGN(const ReadScope scope, readCalledScope(a, session->info().address, catalogue));
  if (!a.output.empty()) ITERANDUM_TRY(tableToChange(catalogue, displayName(scope.table->name)));
  if (scope.table->writeKeyColumns().empty()) {
    return fail(ErrorKind::InvalidInput, "records of " + displayName(scope.table->name) + " cannot be told apart");
  }
  ITERANDUM_ASSIGN(const DoublesQuestion question, readQuestion(a, scope));
  ITERANDUM_ASSIGN(const FoundDoubles found, findDoubles(*session, question, progress));
  const DoublesDecision stays = decide(a, found);
  sayFound(found);
  if (a.output.empty()) {
    ITERANDUM_TRY(
        writeOut(a.format == "json" ? asJson(*scope.table, found, stays) : asText(*scope.table, found, stays)));
    return Exit::Done;
  }
  ChangeList changes;
  if (a.merge) {
    ITERANDUM_ASSIGN(MergePlan plan,
                     mergedDoubles(*session, catalogue, question, found, stays, a.dropDoubles, progress));
    if (!sayMerge(plan, a.dropDoubles)) return Exit::Blocked;
    changes = std::move(plan.changes);
  } else {
    ITERANDUM_ASSIGN(changes, withoutDoubles(*session, question, found, stays, progress));
  }
  changes.title = "Doubles in " + displayName(scope.table->name) + " alike in " + a.alike;
  ITERANDUM_TRY(writeChanges(a, changes));
  return Exit::Done;
}

}  // namespace

Exit runDoubles(const Arguments& arguments) {
  const auto result = doubles(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
