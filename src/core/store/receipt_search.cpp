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

bool standsInOneRecord(const Receipt& receipt, const Words& words, const Progress& progress) {
  for (const ReceiptBlock& block : receipt.blocks) {
    std::string names = displayName(block.table);
    for (const std::string& column : block.columns) names += "\n" + column;
    const Words left = notIn(smallLetters(names), words);
    if (left.empty()) return block.rows() > 0;
    for (std::size_t row = 0; row < block.rows(); ++row) {
      if (progress.cancelled()) return false;
      if (notIn(textOf(block, row), left).empty()) return true;
    }
  }
  return false;
}

}  // namespace

Result<std::vector<std::int64_t>> receiptsWith(Store& store, const std::string& address, std::string_view words,
                                               Progress& progress) {
  ITERANDUM_ASSIGN(const std::vector<KeptReceipt> all, store.receipts(address));
  const Words wanted = wordsOf(words);
  std::vector<std::int64_t> out;
  for (const KeptReceipt& kept : all) {
    const Words left = notIn(smallLetters(kept.title + "\n" + kept.appliedAt + "\n" + kept.appliedBy), wanted);
    bool found = left.empty();
    if (!found) {
      const auto receipt = store.receipt(kept.id);
      found = receipt && standsInOneRecord(*receipt, left, progress);
    }
    if (progress.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
    if (found) out.push_back(kept.id);
  }
  return out;
}

}  // namespace iterandum
