#include "core/store/applied_lines.h"

namespace iterandum {

Result<AppliedLines> appliedLines(Store& store, const std::string& address, const std::string& digest) {
  AppliedLines out;
  ITERANDUM_ASSIGN(const std::vector<std::int64_t> ids, store.receiptsOfFile(address, digest));
  for (const std::int64_t id : ids) {
    ITERANDUM_ASSIGN(const Receipt receipt, store.receipt(id));
    for (const ReceiptBlock& block : receipt.blocks) {
      for (std::size_t row = 0; row < block.rows() && !block.cascaded; ++row) {
        const LineOrigin origin = receipt.origins.of(block.changeIndex[row]);
        const bool ours = origin.file != 0 && receipt.origins.files[origin.file - 1].digest == digest;
        if (!ours || block.outcomes[row] == Outcome::Skipped) continue;
        const bool wasSo = block.outcomes[row] == Outcome::AlreadySo;
        if (wasSo && out.contains(origin.line)) continue;
        out[origin.line] = {receipt.appliedAt, wasSo};
      }
    }
  }
  return out;
}

}  // namespace iterandum
