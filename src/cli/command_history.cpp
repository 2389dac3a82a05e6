// history: what was applied to a database, or to one of its records, from the receipts that are kept.
#include <cstdio>
#include <fstream>

#include "cli/called_key.h"
#include "cli/command_line.h"
#include "cli/files.h"
#include "cli/interrupt.h"
#include "core/base/names.h"
#include "core/store/receipt_exchange.h"
#include "core/store/record_history.h"
#include "core/value/json.h"
#include "core/value/visible_text.h"

namespace iterandum::cli {
namespace {

void recordJson(JsonWriter& out, const ReceiptBlock& block, const std::vector<ValueColumn>& values) {
  if (values.empty()) {
    out.null();
    return;
  }
  out.beginObject();
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    out.name(block.columns[c]).value(values[c].at(0), contains(block.anyTypeColumns, block.columns[c]));
  }
  out.endObject();
}

std::string asJson(const RecordChange& change) {
  const ReceiptBlock& block = change.block;
  JsonWriter out;
  out.beginObject().name("at").string(change.at).name("by").string(change.by).name("title").string(change.title);
  out.name("action").string(actionName(block.action)).name("table").string(displayName(block.table));
  out.name("key").beginObject();
  for (std::size_t k = 0; k < block.keys.size(); ++k) out.name(block.keyColumns[k]).value(block.keys[k].at(0), true);
  out.endObject().name("before");
  recordJson(out, block, block.before);
  out.name("after");
  recordJson(out, block, block.after);
  out.name("receipt").number(change.receipt).endObject();
  return out.take();
}

std::string asText(const RecordChange& change) {
  const ReceiptBlock& block = change.block;
  ValueTuple key;
  for (const ValueColumn& column : block.keys) key.push_back(column.at(0));
  std::string cells;
  for (std::size_t c = 0; c < block.columns.size(); ++c) {
    const bool edited = !block.before.empty() && !block.after.empty();
    if (edited && sameValue(block.before[c].at(0), block.after[c].at(0))) continue;
    const std::string value = edited ? valueInWords(block.before[c].at(0)) + " to " + valueInWords(block.after[c].at(0))
                                     : valueInWords((block.before.empty() ? block.after : block.before)[c].at(0));
    cells += (cells.empty() ? "" : ", ") + visibleText(block.columns[c]) + " " + value;
  }
  const char* done = block.action == Action::Add ? "added" : block.action == Action::Remove ? "removed" : "changed";
  std::string out = change.at + "  " + visibleText(change.by) + "  receipt " + std::to_string(change.receipt);
  if (!change.title.empty()) out += "  " + visibleText(change.title);
  return out + "\n    " + done + (block.cascaded ? " by a cascade: " : " ") + recordInWords(block.table, key) + ": " +
         cells + "\n";
}

// Whether the receipts are all there and as they were kept.
Result<Exit> verify() {
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  Progress progress(terminalProgress());
  ITERANDUM_ASSIGN(const ChainCheck check, store->checkChain(progress));
  for (const std::string& broken : check.broken) ITERANDUM_TRY(writeOut(visibleText(broken) + "\n"));
  ITERANDUM_TRY(writeOut(inWords(check) + "\n"));
  return check.broken.empty() ? Exit::Done : Exit::Blocked;
}

// All receipts of the database into a file, or out of one.
Result<Exit> exchange(const Arguments& a) {
  ITERANDUM_TRY(refuseTargets({a.exportTo}, {}, a.database));
  if (a.importFrom == "-") return fail(ErrorKind::InvalidInput, "it is read twice; name a file", "--import");
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  Progress progress(terminalProgress());
  const StopsOnInterrupt interrupt(progress);
  if (!a.exportTo.empty()) {
    ITERANDUM_ASSIGN(const auto file, PendingFile::open(a.exportTo));
    ITERANDUM_ASSIGN(
        const std::uint64_t written,
        exportReceipts(
            *store, session->info().address, [&](std::string_view piece) { return file->append(piece); }, progress));
    ITERANDUM_TRY(file->finish());
    ITERANDUM_TRY(file->putInPlace());
    say(std::to_string(written) + (written == 1 ? " receipt" : " receipts") + " written");
    return Exit::Done;
  }
  const auto open = [&]() -> Result<std::unique_ptr<std::istream>> {
    auto in = std::make_unique<std::ifstream>(a.importFrom, std::ios::binary);
    if (!in->is_open()) return fail(ErrorKind::InvalidFile, "the file cannot be read", a.importFrom);
    return in;
  };
  auto done = importReceipts(*store, session->info().address, open, progress);
  if (!done) {
    if (done.error().place.starts_with("line ")) done.error().place = a.importFrom + ": " + done.error().place;
    return fail(std::move(done.error()));
  }
  if (done->database != session->info().address) say("note: they were kept for " + done->database);
  const std::string receipts = done->taken == 1 ? " receipt is" : " receipts are";
  say(std::to_string(done->taken) + receipts + " taken in" +
      (done->taken < done->all ? "; the others of " + std::to_string(done->all) + " were here already" : ""));
  return Exit::Done;
}

Result<Exit> history(const Arguments& a) {
  if (a.verify) return verify();
  if (!a.exportTo.empty() || !a.importFrom.empty()) return exchange(a);
  ITERANDUM_ASSIGN(const auto session, openDatabase(a, true));
  Progress progress(terminalProgress());
  std::optional<NamedRecord> record;
  if (!a.table.empty()) {
    ITERANDUM_ASSIGN(const Catalogue catalogue, session->readCatalogue(progress));
    ITERANDUM_ASSIGN(const TableName name, parseTableName(a.table));
    const Table* known = catalogue.find(name);
    record = NamedRecord{known != nullptr ? known->name : name, {}, {}};
    if (!a.key.empty()) {
      ITERANDUM_ASSIGN(CalledKey key, readCalledKey(known, a.key, "KEY"));
      record->columns = std::move(key.columns);
      record->key = std::move(key.values);
    }
  }
  ITERANDUM_ASSIGN(const std::string path, Store::defaultPath());
  ITERANDUM_ASSIGN(const std::unique_ptr<Store> store, Store::open(path));
  const bool json = a.format == "json";
  Status written = json ? writeOut("[") : Status();
  bool first = true;
  ITERANDUM_TRY(eachRecordChange(
      *store, session->info().address, record ? &*record : nullptr,
      [&](RecordChange&& change) {
        if (written) written = writeOut(json ? (first ? "\n" : ",\n") + asJson(change) : asText(change));
        first = false;
        return written.has_value();
      },
      [](const KeptReceipt& receipt, const std::string& why) {
        std::fprintf(stderr, "note: receipt %lld of %s is left out: %s\n", static_cast<long long>(receipt.id),
                     receipt.appliedAt.c_str(), visibleText(why).c_str());
      }));
  if (written && json) written = writeOut(first ? "]\n" : "\n]\n");
  if (written && !json && first) written = writeOut("nothing was applied from here\n");
  ITERANDUM_TRY(std::move(written));
  return Exit::Done;
}

}  // namespace

Exit runHistory(const Arguments& arguments) {
  const auto result = history(arguments);
  return result ? *result : report(result.error());
}

}  // namespace iterandum::cli
