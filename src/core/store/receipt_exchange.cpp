#include "core/store/receipt_exchange.h"

#include <algorithm>

#include "core/apply/apply.h"
#include "core/base/digest.h"
#include "core/value/json.h"

namespace iterandum {
namespace {

constexpr std::string_view kFormat = "iterandum-history";
constexpr std::string_view kBefore = "{\"digest\":\"";
constexpr std::string_view kBetween = "\",\"receipt\":";
constexpr std::size_t kDigits = 64;

std::string nextDigest(const std::string& before, std::string_view receipt) {
  return sha256Hex(before + "\n" + std::string(receipt));
}

tl::unexpected<Error> badLine(std::uint64_t number, const std::string& why) {
  return fail(ErrorKind::InvalidFile, why + "; nothing was taken in", "line " + std::to_string(number));
}

// Reads one after the other, and holds each against the digest it came with.
class Reader {
 public:
  explicit Reader(std::istream& in) : in_(in) {}

  Status readHead() {
    std::string line;
    if (!nextLine(line)) return badLine(1, "this is empty, and no history");
    const auto root = parseJson(line);
    const JsonNode* format = root ? root->find("format") : nullptr;
    if (format == nullptr || format->text != kFormat) return badLine(1, "this is not a history of receipts");
    const JsonNode* version = root->find("version");
    if (version == nullptr || version->text != "1") return badLine(1, "this program reads histories of version 1");
    const JsonNode* database = root->find("database");
    const JsonNode* count = root->find("receipts");
    if (database == nullptr || count == nullptr || count->type != JsonNode::Type::Number)
      return badLine(1, "it is not said which database it is about, or how many receipts there are");
    database_ = database->text;
    announced_ = std::strtoull(count->text.c_str(), nullptr, 10);
    before_ = sha256Hex(line);
    return {};
  }

  // The text of the next one; empty: there are no more.
  Result<std::string> next() {
    std::string line;
    if (!nextLine(line)) {
      if (read_ == announced_) return std::string();
      return badLine(number_, std::to_string(announced_ - read_) + " of " + std::to_string(announced_) +
                                  " receipts are missing at the end");
    }
    if (read_ == announced_) return badLine(number_, "more receipts follow than there were");
    const std::size_t start = kBefore.size() + kDigits + kBetween.size();
    if (line.size() <= start || line.back() != '}' || line.compare(0, kBefore.size(), kBefore) != 0 ||
        line.compare(kBefore.size() + kDigits, kBetween.size(), kBetween) != 0) {
      return badLine(number_, "this is no receipt with its digest");
    }
    std::string receipt = line.substr(start, line.size() - start - 1);
    before_ = nextDigest(before_, receipt);
    if (line.compare(kBefore.size(), kDigits, before_) != 0) {
      return badLine(number_, "this receipt was altered after it was written, or one before it is missing");
    }
    ++read_;
    return receipt;
  }

  [[nodiscard]] const std::string& database() const { return database_; }
  [[nodiscard]] std::uint64_t announced() const { return announced_; }
  [[nodiscard]] std::uint64_t line() const { return number_; }

 private:
  bool nextLine(std::string& line) {
    ++number_;
    return static_cast<bool>(std::getline(in_, line));
  }

  std::istream& in_;
  std::string database_;
  std::string before_;
  std::uint64_t announced_ = 0;
  std::uint64_t read_ = 0;
  std::uint64_t number_ = 0;
};

Result<std::optional<Receipt>> nextReceipt(Reader& reader) {
  ITERANDUM_ASSIGN(const std::string text, reader.next());
  if (text.empty()) return std::optional<Receipt>();
  auto receipt = readReceiptJson(text);
  if (!receipt) return badLine(reader.line(), receipt.error().text());
  return std::optional(std::move(*receipt));
}

}  // namespace

Result<std::uint64_t> exportReceipts(Store& store, const std::string& address, const ReceiptSink& sink,
                                     Progress& progress) {
  ITERANDUM_ASSIGN(std::vector<KeptReceipt> kept, store.receipts(address));
  std::erase_if(kept, [](const KeptReceipt& one) { return one.pending; });
  JsonWriter head;
  head.beginObject().name("format").string(kFormat).name("version").number(1).name("database").string(address);
  head.name("written_at").string(nowUtc()).name("receipts").number(static_cast<std::int64_t>(kept.size())).endObject();
  const std::string line = head.take();
  ITERANDUM_TRY(sink(line + "\n"));
  std::string before = sha256Hex(line);
  std::uint64_t done = 0;
  // The oldest first.
  for (auto one = kept.rbegin(); one != kept.rend(); ++one) {
    if (!progress.step("receipts", done, kept.size())) return fail(ErrorKind::Cancelled, "it was stopped");
    ITERANDUM_ASSIGN(const Receipt receipt, store.receipt(one->id));
    const std::string text = receiptJson(receipt, true);
    before = nextDigest(before, text);
    ITERANDUM_TRY(sink(std::string(kBefore) + before + std::string(kBetween) + text + "}\n"));
    ++done;
  }
  return done;
}

Result<ImportedReceipts> importReceipts(Store& store, const std::string& address,
                                        const std::function<Result<std::unique_ptr<std::istream>>()>& open,
                                        Progress& progress) {
  ImportedReceipts out;
  {
    ITERANDUM_ASSIGN(const std::unique_ptr<std::istream> in, open());
    Reader reader(*in);
    ITERANDUM_TRY(reader.readHead());
    while (true) {
      if (!progress.step("receipts", out.all, reader.announced())) return fail(ErrorKind::Cancelled, "it was stopped");
      ITERANDUM_ASSIGN(const std::optional<Receipt> receipt, nextReceipt(reader));
      if (!receipt) break;
      ++out.all;
    }
    out.database = reader.database();
  }
  ITERANDUM_ASSIGN(const std::unique_ptr<std::istream> in, open());
  Reader reader(*in);
  ITERANDUM_TRY(reader.readHead());
  ITERANDUM_ASSIGN(out.taken, store.takeInReceipts(address, [&]() -> Result<std::optional<Receipt>> {
    if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped; nothing was taken in");
    return nextReceipt(reader);
  }));
  return out;
}

}  // namespace iterandum
