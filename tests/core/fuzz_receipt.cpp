// Any bytes as a receipt, as JSON and as the store keeps it: read and taken back, or refused.
#include <cstdint>
#include <string_view>

#include "core/apply/receipt.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string_view bytes(reinterpret_cast<const char*>(data), size);
  if (const auto receipt = iterandum::readReceiptJson(bytes)) {
    (void)iterandum::revertReceipt(*receipt);
    (void)iterandum::unpackReceipt(iterandum::packReceipt(*receipt));
  }
  if (const auto receipt = iterandum::unpackReceipt(bytes)) {
    (void)iterandum::revertReceipt(*receipt);
    (void)iterandum::receiptJson(*receipt);
  }
  return 0;
}
