// OpenPGP through GnuPG, where it is installed. Keys, trust and pass phrases are GnuPG's: none of them is kept or seen
// here; where a pass phrase is needed, the desktop's own dialog asks for it. Every call takes a fraction of a second
// and may be made from any thread.
#pragma once

#include <string>
#include <vector>

#include "core/base/result.h"

namespace iterandum {

struct SigningKey {
  std::string fingerprint;
  std::string name;  // as the key has it, with its address
};

// Those with which this user can sign; none where GnuPG is not there.
[[nodiscard]] std::vector<SigningKey> signingKeys();

// Errors: NotFound with the keys there are, where `wanted` (a fingerprint, or a part of a name) is not one of them.
[[nodiscard]] Result<SigningKey> findSigningKey(const std::string& wanted);

// A detached, armoured signature over the text. Errors: Refused with GnuPG's words; Cancelled.
[[nodiscard]] Result<std::string> signWithKey(const std::string& text, const SigningKey& key);

enum class ProofState {
  Good,        // by a key that is trusted here
  NotTrusted,  // by a key that is known here, and that nobody here vouches for, or that is past its time
  NotKnown,    // by a key that is not here
  Bad,         // not over this text, or no signature at all
  NotChecked   // GnuPG is not there
};

struct CheckedProof {
  ProofState state = ProofState::NotChecked;
  std::vector<std::string> names;  // of the key
  bool own = false;                // who asks has the key, and could have signed with it
};
[[nodiscard]] CheckedProof checkProof(const std::string& text, const std::string& proof);

}  // namespace iterandum
