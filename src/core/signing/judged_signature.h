// What a signature is worth: whether it is over these changes, whose it is, and whether that is enough to apply them.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/changes/signature.h"
#include "core/signing/openpgp.h"

namespace iterandum {

enum class Vouching {
  PlainName,   // nobody vouches for it
  Key,         // a key that is trusted here, and has this name
  NotTrusted,  // a key that nobody here vouches for
  NotKnown,    // a key that is not here
  NotChecked,  // a key; GnuPG is not there to check it
  False        // the key did not sign this, or has another name
};

struct JudgedSignature {
  Signature signature;
  bool fits = false;  // the changes are just those that were signed
  Vouching vouching = Vouching::PlainName;
  bool own = false;  // by whoever asks
};

// `digest`: changesDigest() of the changes now. `user`: the name under which whoever asks applies.
[[nodiscard]] std::vector<JudgedSignature> judgeSignatures(const std::vector<Signature>& signatures,
                                                           const std::string& digest, const std::string& user);
// A sentence without its full stop. `at`: the moment as the reader writes moments.
[[nodiscard]] std::string inWords(const JudgedSignature& judged, const std::string& at);

// Who may apply a change set to a database.
enum class SigningRule {
  Anyone,
  Signed,  // only what somebody else signed, be it with a plain name
  ByKey    // only what somebody else signed with a key that is trusted here
};
[[nodiscard]] const char* signingRuleName(SigningRule rule);
// Nothing where there is no rule of this name; empty is Anyone.
[[nodiscard]] std::optional<SigningRule> signingRuleNamed(std::string_view name);
// Under which the store keeps the rule of a database, among its choices.
inline constexpr const char* kSigningRuleChoice = "applies what";
// The same of the signatures that what is staged has.
inline constexpr const char* kSignaturesChoice = "signatures";

// Why a change set with these signatures may not be applied; empty where it may.
[[nodiscard]] std::string whyNotApplied(SigningRule rule, const std::vector<JudgedSignature>& signatures);

// The signature of somebody over the changes, with a key where one is given: then the key's name is theirs. `by` is
// else taken as it is. Errors: InvalidInput without a name; signWithKey()'s.
[[nodiscard]] Result<Signature> makeSignature(Signature signature, const SigningKey* key);

}  // namespace iterandum
