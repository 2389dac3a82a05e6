// What a database asks of the change sets that are applied to it, as the store keeps it.
#pragma once

#include <string>

#include "core/signing/judged_signature.h"
#include "core/store/store.h"

namespace iterandum {

// Errors: NotSigned where it is kept in a word that is not known here; the store's.
[[nodiscard]] Result<SigningRule> keptSigningRule(Store& store, const std::string& address);

}  // namespace iterandum
