#include "core/signing/judged_signature.h"

#include "core/base/names.h"

namespace iterandum {
namespace {

Vouching vouchingOf(const Signature& signature, const CheckedProof& proof) {
  switch (proof.state) {
    case ProofState::Good:
      return contains(proof.names, signature.by) ? Vouching::Key : Vouching::False;
    case ProofState::NotTrusted:
      return contains(proof.names, signature.by) ? Vouching::NotTrusted : Vouching::False;
    case ProofState::NotKnown:
      return Vouching::NotKnown;
    case ProofState::NotChecked:
      return Vouching::NotChecked;
    case ProofState::Bad:
      break;
  }
  return Vouching::False;
}

const char* vouchingInWords(Vouching vouching) {
  switch (vouching) {
    case Vouching::PlainName:
      return "a plain name, which nobody vouches for";
    case Vouching::Key:
      return "with a key that is trusted here";
    case Vouching::NotTrusted:
      return "with a key that nobody here vouches for";
    case Vouching::NotKnown:
      return "with a key that is not known here";
    case Vouching::NotChecked:
      return "with a key; GnuPG is not here to check it";
    case Vouching::False:
      break;
  }
  return "not true: the key did not sign this under this name";
}

}  // namespace

std::vector<JudgedSignature> judgeSignatures(const std::vector<Signature>& signatures, const std::string& digest,
                                             const std::string& user) {
  std::vector<JudgedSignature> out;
  for (const Signature& signature : signatures) {
    JudgedSignature judged{signature, !digest.empty() && signature.digest == digest, Vouching::PlainName, false};
    if (signature.proof.empty()) {
      judged.own = signature.by == user;
    } else {
      const CheckedProof proof = checkProof(signedText(signature), signature.proof);
      judged.vouching = vouchingOf(signature, proof);
      judged.own = proof.own;
    }
    out.push_back(std::move(judged));
  }
  return out;
}

std::string inWords(const JudgedSignature& judged, const std::string& at) {
  const Signature& s = judged.signature;
  std::string out = "signed by " + s.by + ", " + at;
  if (!s.words.empty()) out += ", “" + s.words + "”";
  out += " (" + std::string(vouchingInWords(judged.vouching)) + ")";
  if (!judged.fits) out += ": it holds no longer, for the changes are others now";
  return out;
}

const char* signingRuleName(SigningRule rule) {
  switch (rule) {
    case SigningRule::Anyone:
      return "anyone";
    case SigningRule::Signed:
      return "signed";
    case SigningRule::ByKey:
      break;
  }
  return "by-key";
}

std::optional<SigningRule> signingRuleNamed(std::string_view name) {
  if (name.empty()) return SigningRule::Anyone;
  for (const SigningRule rule : {SigningRule::Anyone, SigningRule::Signed, SigningRule::ByKey}) {
    if (name == signingRuleName(rule)) return rule;
  }
  return std::nullopt;
}

std::string whyNotApplied(SigningRule rule, const std::vector<JudgedSignature>& signatures) {
  if (rule == SigningRule::Anyone) return {};
  bool older = false;
  bool own = false;
  bool plain = false;
  for (const JudgedSignature& s : signatures) {
    const bool vouched = s.vouching == Vouching::Key || (rule == SigningRule::Signed && s.vouching != Vouching::False);
    if (s.fits && !s.own && vouched) return {};
    older = older || !s.fits;
    own = own || (s.fits && s.own);
    plain = plain || (s.fits && !s.own);
  }
  std::string out = rule == SigningRule::ByKey
                        ? "only what somebody else signed with a trusted key is applied to this database"
                        : "only what somebody else signed is applied to this database";
  if (plain) return out + "; the signature there is not vouched for";
  if (own) return out + "; you signed it yourself";
  if (older) return out + "; what was signed was changed since";
  return out + "; nobody has signed this";
}

Result<Signature> makeSignature(Signature signature, const SigningKey* key) {
  if (key != nullptr) signature.by = key->name;
  if (signature.by.empty()) return fail(ErrorKind::InvalidInput, "say who signs");
  if (signature.digest.empty()) return fail(ErrorKind::Internal, "the digest of the changes could not be made");
  if (key != nullptr) {
    ITERANDUM_ASSIGN(signature.proof, signWithKey(signedText(signature), *key));
  }
  return signature;
}

}  // namespace iterandum
