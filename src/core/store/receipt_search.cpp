#include "core/store/receipt_search.h"

#include <algorithm>
#include <cctype>
#include <string>

#include "core/value/small_letters.h"

namespace iterandum {
namespace {

using Words = std::vector<std::string>;

Words wordsOf(std::string_view text) {
  Words out;
  std::string word;
  for (const char c : smallLetters(text) + " ") {
    if (std::isspace(static_cast<unsigned char>(c)) == 0) {
      word += c;
    } else if (!word.empty()) {
      out.push_back(std::move(word));
      word.clear();
    }
  }
  return out;
}

// Those that do not stand in the text, which is in small letters.
Words notIn(const std::string& text, const Words& words) {
  Words out;
  std::copy_if(words.begin(), words.end(), std::back_inserter(out),
               [&](const std::string& word) { return text.find(word) == std::string::npos; });
  return out;
}

std::string textOf(const ReceiptBlock& block, std::size_t row) {
  std::string out;
  for (const std::vector<ValueColumn>* values : {&block.keys, &block.before, &block.after}) {
    for (const ValueColumn& column : *values) {
      const Value value = column.at(row);
      if (value.isNull() || value.kind() == Value::Kind::Bytes) continue;
      out += canonicalText(value);
      out += '\n';
    }
  }
  return smallLetters(out);
}

// `each` is given the records in which the words stand together; false from it stops.
template <typename Each>
void eachRecordWith(const Receipt& receipt, const Words& words, const Progress& progress, const Each& each) {
  for (std::uint32_t b = 0; b < receipt.blocks.size(); ++b) {
    const ReceiptBlock& block = receipt.blocks[b];
    std::string names = displayName(block.table);
    for (const std::string& column : block.columns) names += "\n" + column;
    const Words left = notIn(smallLetters(names), words);
    for (std::uint32_t row = 0; row < block.rows(); ++row) {
      if (progress.cancelled()) return;
      if ((left.empty() || notIn(textOf(block, row), left).empty()) && !each(ReceiptRow{b, row})) return;
    }
  }
}

std::string headOf(std::string_view title, std::string_view at, std::string_view by) {
  return smallLetters(std::string(title) + "\n" + std::string(at) + "\n" + std::string(by));
}

}  // namespace

Result<std::vector<std::int64_t>> receiptsWith(Store& store, const std::string& address, std::string_view words,
                                               Progress& progress) {
  ITERANDUM_ASSIGN(const std::vector<KeptReceipt> all, store.receipts(address));
  const Words wanted = wordsOf(words);
  std::vector<std::int64_t> out;
  for (const KeptReceipt& kept : all) {
    const Words left = notIn(headOf(kept.title, kept.appliedAt, kept.appliedBy), wanted);
    bool found = left.empty();
    if (!found) {
      const auto receipt = store.receipt(kept.id);
      if (receipt) eachRecordWith(*receipt, left, progress, [&found](ReceiptRow) { return !(found = true); });
    }
    if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
    if (found) out.push_back(kept.id);
  }
  return out;
}

Result<std::vector<ReceiptRow>> recordsWith(const Receipt& receipt, std::string_view words, const Progress& progress) {
  const Words left = notIn(headOf(receipt.title, receipt.appliedAt, receipt.appliedBy), wordsOf(words));
  std::vector<ReceiptRow> out;
  const auto take = [&out](ReceiptRow row) {
    out.push_back(row);
    return true;
  };
  eachRecordWith(receipt, left, progress, take);
  if (out.empty() && !left.empty()) eachRecordWith(receipt, {}, progress, take);
  if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
  return out;
}

}  // namespace iterandum
