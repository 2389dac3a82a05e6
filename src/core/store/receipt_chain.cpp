// Store: the chain of receipts, and what finds those that speak of a record.
#include "core/store/receipt_chain.h"

#include <openssl/evp.h>

#include <algorithm>
#include <cstdlib>
#include <map>
#include <memory>

#include "core/base/digest.h"
#include "core/base/names.h"
#include "core/store/key_filter.h"
#include "core/store/record_history.h"
#include "core/store/store.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

constexpr std::string_view kChain = "chain";

struct FreeContext {
  void operator()(EVP_MD_CTX* c) const { EVP_MD_CTX_free(c); }
};

// What is kept of the newest one, apart from it.
std::string headText(std::int64_t seq, std::string_view digest) {
  return std::to_string(seq) + ":" + hexDigits(digest);
}

std::string columnsText(const std::vector<std::string>& columns) {
  JsonWriter out;
  out.beginArray();
  for (const std::string& column : columns) out.string(column);
  return out.endArray().take();
}

}  // namespace

std::string digestOf(const std::vector<std::string_view>& parts) {
  const std::unique_ptr<EVP_MD_CTX, FreeContext> context(EVP_MD_CTX_new());
  std::string out(EVP_MAX_MD_SIZE, '\0');
  unsigned length = 0;
  if (context == nullptr || EVP_DigestInit_ex(context.get(), EVP_sha256(), nullptr) != 1) return {};
  for (const std::string_view part : parts) {
    const std::string size = std::to_string(part.size()) + ":";
    EVP_DigestUpdate(context.get(), size.data(), size.size());
    EVP_DigestUpdate(context.get(), part.data(), part.size());
  }
  EVP_DigestFinal_ex(context.get(), reinterpret_cast<unsigned char*>(out.data()), &length);
  out.resize(length);
  return out;
}

std::string inWords(const ChainCheck& check) {
  if (check.receipts == 0 && check.broken.empty()) return "no receipts are kept";
  const std::string count = several(check.receipts, "receipt", "receipts");
  if (!check.broken.empty()) return count + ", and " + several(check.broken.size(), "thing", "things") + " amiss";
  return count + ", each as it was kept, since " + check.since;
}

// --- the chain -------------------------------------------------------------------------------------------------------

Status Store::hangOn(std::int64_t id) {
  std::int64_t seq = 0;
  std::string before;
  ITERANDUM_ASSIGN(SqliteStatement last,
                   handle_->prepare("SELECT seq, digest FROM receipt WHERE seq IS NOT NULL ORDER BY seq DESC LIMIT 1"));
  ITERANDUM_TRY(eachRow(last, "cannot read the last receipt", [&](const SqliteStatement& row) {
    seq = row.integer(0);
    before = row.text(1);
  }));
  ITERANDUM_ASSIGN(const std::string own, ownDigest(id));
  const std::string digest = digestOf({before, own});
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("UPDATE receipt SET seq = ?2, digest = ?3 WHERE id = ?1"));
  s.bind(1, id);
  s.bind(2, seq + 1);
  s.bindBlob(3, digest);
  ITERANDUM_TRY(execute(s, "cannot hang the receipt on"));
  return keepText({}, kChain, {}, headText(seq + 1, digest));
}

Result<std::string> Store::ownDigest(std::int64_t id) {
  ITERANDUM_ASSIGN(
      SqliteStatement s,
      handle_->prepare("SELECT address, applied_at, applied_by, title, changes, packed FROM receipt WHERE id = ?1"));
  s.bind(1, id);
  std::string out;
  ITERANDUM_TRY(eachRow(s, "cannot read the receipt", [&](const SqliteStatement& row) {
    const std::string head[] = {row.text(0), row.text(1), row.text(2), row.text(3), row.text(4)};
    const std::string packed = row.text(5);
    out = digestOf({head[0], head[1], head[2], head[3], head[4], packed});
  }));
  if (out.empty()) return fail(ErrorKind::NotFound, "there is no such receipt");
  return out;
}

// Those of a store that knew no chain yet, in the order in which they were kept.
Status Store::hangAllOn() {
  std::vector<std::int64_t> ids;
  ITERANDUM_ASSIGN(SqliteStatement s,
                   handle_->prepare("SELECT id FROM receipt WHERE pending = 0 AND seq IS NULL ORDER BY id"));
  ITERANDUM_TRY(
      eachRow(s, "cannot read the receipts", [&](const SqliteStatement& row) { ids.push_back(row.integer(0)); }));
  for (const std::int64_t id : ids) ITERANDUM_TRY(hangOn(id));
  return {};
}

Result<ChainCheck> Store::checkChain(Progress& progress) {
  struct Link {
    std::int64_t id = 0;
    std::int64_t seq = 0;
    std::string digest;
    std::string what;
    std::string at;
  };
  std::vector<Link> links;
  ITERANDUM_ASSIGN(SqliteStatement s,
                   handle_->prepare("SELECT id, seq, digest, applied_at, title, address FROM receipt WHERE seq IS NOT "
                                    "NULL ORDER BY seq"));
  ITERANDUM_TRY(eachRow(s, "cannot read the receipts", [&](const SqliteStatement& row) {
    const std::string what = "receipt " + std::to_string(row.integer(0)) + " of " + row.text(3) + " for " + row.text(5);
    links.push_back({row.integer(0), row.integer(1), row.text(2), what, row.text(3)});
  }));
  ChainCheck out;
  std::string before;
  std::int64_t next = 1;
  for (const Link& link : links) {
    if (!progress.step("receipts", out.receipts, links.size())) return fail(ErrorKind::Cancelled, "it was stopped");
    if (link.seq > next) {
      out.broken.push_back(std::to_string(link.seq - next) + (link.seq - next == 1 ? " receipt is" : " receipts are") +
                           " missing before " + link.what);
    } else {
      ITERANDUM_ASSIGN(const std::string own, ownDigest(link.id));
      if (digestOf({before, own}) != link.digest) out.broken.push_back(link.what + " was altered after it was kept");
    }
    if (out.since.empty()) out.since = link.at;
    ++out.receipts;
    // What follows hangs on what is written there, be it right or not: each is blamed for itself alone.
    before = link.digest;
    next = link.seq + 1;
  }
  ITERANDUM_ASSIGN(const auto kept, texts({}, kChain));
  const std::string head = kept.empty() ? std::string() : kept.front().second;
  const std::int64_t last = head.empty() ? 0 : std::strtoll(head.c_str(), nullptr, 10);
  if (last >= next) {
    out.broken.push_back(std::to_string(last - next + 1) + (last == next ? " receipt is" : " receipts are") +
                         " missing at the end");
  } else if (!links.empty() && head != headText(next - 1, before)) {
    out.broken.push_back("the end of the chain is not the one that was kept");
  }
  return out;
}

// --- which receipts speak of a record --------------------------------------------------------------------------------

Status Store::noteTouched(std::int64_t id, const Receipt& receipt) {
  // Of each table, and each way in which its records are named.
  std::map<std::pair<std::string, std::string>, std::vector<std::uint64_t>> touched;
  for (const ReceiptBlock& block : receipt.blocks) {
    std::vector<std::uint64_t>& hashes = touched[{block.table.name, columnsText(block.keyColumns)}];
    for (std::size_t row = 0; row < block.rows(); ++row) {
      for (const ValueTuple& key : keysOf(block, block.keyColumns, row)) hashes.push_back(keyHash(key));
    }
  }
  ITERANDUM_ASSIGN(SqliteStatement s, handle_->prepare("INSERT INTO touched VALUES (?1, ?2, ?3, ?4)"));
  for (auto& [where, hashes] : touched) {
    // Most records have the same key before and after.
    std::sort(hashes.begin(), hashes.end());
    hashes.erase(std::unique(hashes.begin(), hashes.end()), hashes.end());
    const std::string filter = makeKeyFilter(hashes);
    s.bind(1, id);
    s.bind(2, std::string_view(where.first));
    s.bind(3, std::string_view(where.second));
    s.bindBlob(4, filter);
    ITERANDUM_TRY(execute(s, "cannot note what the receipt touches"));
    s.reset();
  }
  ITERANDUM_ASSIGN(SqliteStatement done, handle_->prepare("UPDATE receipt SET noted = 1 WHERE id = ?1"));
  done.bind(1, id);
  return execute(done, "cannot note what the receipt touches");
}

Status Store::noteTouchedLater(std::int64_t id, const Receipt& receipt) {
  return inTransaction([&]() -> Result<bool> {
           ITERANDUM_TRY(noteTouched(id, receipt));
           return true;
         })
      .map([](bool) {});
}

Result<TouchedReceipts> Store::touchedBy(const std::string& address, const std::string& table,
                                         const std::vector<std::string>& keyColumns) {
  TouchedReceipts out;
  out.keyColumns = columnsText(keyColumns);
  ITERANDUM_ASSIGN(SqliteStatement all, handle_->prepare("SELECT id FROM receipt WHERE address = ?1 AND noted = 1"));
  all.bind(1, std::string_view(address));
  ITERANDUM_TRY(
      eachRow(all, "cannot read the receipts", [&](const SqliteStatement& row) { out.noted.insert(row.integer(0)); }));
  ITERANDUM_ASSIGN(SqliteStatement s,
                   handle_->prepare("SELECT receipt, key_columns, filter FROM touched WHERE table_name = ?1"));
  s.bind(1, std::string_view(table));
  ITERANDUM_TRY(eachRow(s, "cannot read what the receipts touch", [&](const SqliteStatement& row) {
    if (!out.noted.contains(row.integer(0))) return;  // of another database
    out.byReceipt[row.integer(0)].push_back({row.text(1), row.text(2)});
  }));
  return out;
}

bool TouchedReceipts::maySpeakOf(std::int64_t receipt, const std::vector<std::uint64_t>& keys) const {
  if (!noted.contains(receipt)) return true;
  const auto touched = byReceipt.find(receipt);
  if (touched == byReceipt.end()) return false;
  return std::any_of(touched->second.begin(), touched->second.end(), [&](const Filter& filter) {
    return filter.keyColumns != keyColumns ||
           std::any_of(keys.begin(), keys.end(), [&](std::uint64_t key) { return mayHold(filter.bytes, key); });
  });
}

}  // namespace iterandum
