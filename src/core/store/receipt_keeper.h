// Keeps the receipt of one apply in the store.
#pragma once

#include "core/apply/apply.h"
#include "core/store/store.h"

namespace iterandum {

class StoreReceiptKeeper : public ReceiptKeeper {
 public:
  // The store outlives it.
  // `staged`: what is applied, if that lies in a log.
  explicit StoreReceiptKeeper(Store& store, std::optional<StagedForReceipt> staged = std::nullopt)
      : store_(store), staged_(std::move(staged)) {}
  [[nodiscard]] Status keep(const Receipt& receipt, ReceiptStage) override {
    ITERANDUM_ASSIGN(const std::int64_t id, store_.keepReceipt(receipt, staged_ ? &*staged_ : nullptr));
    drop();
    id_ = id;
    return {};
  }
  [[nodiscard]] Status confirm() override { return store_.confirmReceipt(id_); }
  void drop() override {
    if (id_ != 0) (void)store_.dropReceipt(id_);
    id_ = 0;
  }

 private:
  Store& store_;
  std::optional<StagedForReceipt> staged_;
  std::int64_t id_ = 0;
};

}  // namespace iterandum
