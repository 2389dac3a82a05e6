#include "core/store/kept_signing.h"

namespace iterandum {

Result<SigningRule> keptSigningRule(Store& store, const std::string& address) {
  ITERANDUM_ASSIGN(const auto choices, store.choices(address));
  const auto kept = choices.find(kSigningRuleChoice);
  const std::string word = kept == choices.end() ? std::string() : kept->second;
  const std::optional<SigningRule> rule = signingRuleNamed(word);
  if (rule) return *rule;
  return fail(ErrorKind::NotSigned,
              "who may apply to this database is said in a word that this version does not know: '" + word +
                  "'; say it anew with 'sign --rule'");
}

}  // namespace iterandum
