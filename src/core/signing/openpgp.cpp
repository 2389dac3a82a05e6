#include "core/signing/openpgp.h"

#include <gpgme.h>

#include <memory>
#include <mutex>

#include "core/base/names.h"

namespace iterandum {
namespace {

struct Release {
  void operator()(gpgme_context* context) const { gpgme_release(context); }
  void operator()(gpgme_data* data) const { gpgme_data_release(data); }
  void operator()(_gpgme_key* key) const { gpgme_key_unref(key); }
};
using Context = std::unique_ptr<gpgme_context, Release>;
using Data = std::unique_ptr<gpgme_data, Release>;
using Key = std::unique_ptr<_gpgme_key, Release>;

std::string wordsOf(gpgme_error_t error) {
  char buffer[256] = "";
  gpgme_strerror_r(error, buffer, sizeof buffer);
  return buffer;
}

// Null where GnuPG is not there.
Context newContext() {
  static std::once_flag once;
  static bool there = false;
  std::call_once(once, [] {
    gpgme_check_version(nullptr);
    there = gpgme_engine_check_version(GPGME_PROTOCOL_OpenPGP) == GPG_ERR_NO_ERROR;
  });
  gpgme_ctx_t context = nullptr;
  if (!there || gpgme_new(&context) != GPG_ERR_NO_ERROR) return nullptr;
  gpgme_set_protocol(context, GPGME_PROTOCOL_OpenPGP);
  gpgme_set_armor(context, 1);
  // What is said of a key is what is known here: no servers are asked.
  gpgme_set_offline(context, 1);
  return Context(context);
}

Data dataOf(const std::string& text) {
  gpgme_data_t data = nullptr;
  if (gpgme_data_new_from_mem(&data, text.data(), text.size(), 0) != GPG_ERR_NO_ERROR) return nullptr;
  return Data(data);
}

Key keyCalled(const Context& context, const char* fingerprint, bool secret) {
  gpgme_key_t key = nullptr;
  if (fingerprint == nullptr || gpgme_get_key(context.get(), fingerprint, &key, secret ? 1 : 0) != GPG_ERR_NO_ERROR)
    return nullptr;
  return Key(key);
}

std::vector<std::string> namesOf(const Key& key) {
  std::vector<std::string> out;
  for (const _gpgme_user_id* uid = key->uids; uid != nullptr; uid = uid->next) {
    if (uid->revoked == 0 && uid->uid != nullptr) out.emplace_back(uid->uid);
  }
  return out;
}

ProofState stateOf(const _gpgme_signature& signature) {
  switch (gpgme_err_code(signature.status)) {
    case GPG_ERR_NO_ERROR:
      return signature.validity >= GPGME_VALIDITY_FULL ? ProofState::Good : ProofState::NotTrusted;
    case GPG_ERR_KEY_EXPIRED:
    case GPG_ERR_SIG_EXPIRED:
    case GPG_ERR_CERT_REVOKED:
      return ProofState::NotTrusted;
    case GPG_ERR_NO_PUBKEY:
      return ProofState::NotKnown;
    default:
      return ProofState::Bad;
  }
}

}  // namespace

std::vector<SigningKey> signingKeys() {
  std::vector<SigningKey> out;
  const Context context = newContext();
  if (!context || gpgme_op_keylist_start(context.get(), nullptr, 1) != GPG_ERR_NO_ERROR) return out;
  gpgme_key_t next = nullptr;
  while (gpgme_op_keylist_next(context.get(), &next) == GPG_ERR_NO_ERROR) {
    const Key key(next);
    const bool usable = key->revoked == 0 && key->expired == 0 && key->disabled == 0 && key->can_sign != 0;
    const std::vector<std::string> names = namesOf(key);
    if (usable && !names.empty() && key->fpr != nullptr) out.push_back({key->fpr, names.front()});
  }
  gpgme_op_keylist_end(context.get());
  return out;
}

Result<SigningKey> findSigningKey(const std::string& wanted) {
  const std::vector<SigningKey> keys = signingKeys();
  std::vector<SigningKey> fitting;
  std::string all;
  for (const SigningKey& key : keys) {
    all += (all.empty() ? "" : ", ") + key.name;
    if (key.fingerprint == wanted) return key;
    if (key.name.find(wanted) != std::string::npos || key.fingerprint.find(wanted) != std::string::npos)
      fitting.push_back(key);
  }
  if (!wanted.empty() && fitting.size() == 1) return fitting.front();
  if (keys.empty()) {
    return fail(ErrorKind::NotFound, "there is no key to sign with: GnuPG is not installed, or has none of yours");
  }
  return fail(ErrorKind::NotFound, std::string(fitting.empty() ? "no key of yours is" : "several keys of yours are") +
                                       " called '" + wanted + "'; there are: " + all);
}

Result<std::string> signWithKey(const std::string& text, const SigningKey& key) {
  const Context context = newContext();
  if (!context) return fail(ErrorKind::NotFound, "GnuPG is not installed");
  const Key secret = keyCalled(context, key.fingerprint.c_str(), true);
  if (!secret) return fail(ErrorKind::NotFound, "the key is not there any more", key.name);
  gpgme_signers_clear(context.get());
  const Data plain = dataOf(text);
  gpgme_data_t signature = nullptr;
  if (gpgme_signers_add(context.get(), secret.get()) != GPG_ERR_NO_ERROR || !plain ||
      gpgme_data_new(&signature) != GPG_ERR_NO_ERROR) {
    return fail(ErrorKind::Internal, "no room for a signature");
  }
  Data out(signature);
  const gpgme_error_t done = gpgme_op_sign(context.get(), plain.get(), out.get(), GPGME_SIG_MODE_DETACH);
  if (gpgme_err_code(done) == GPG_ERR_CANCELED) return fail(ErrorKind::Cancelled, "it was stopped; nothing is signed");
  if (done != GPG_ERR_NO_ERROR) return fail(ErrorKind::Refused, "GnuPG does not sign: " + wordsOf(done), key.name);
  std::size_t length = 0;
  char* const bytes = gpgme_data_release_and_get_mem(out.release(), &length);
  std::string armoured(bytes, length);
  gpgme_free(bytes);
  return armoured;
}

CheckedProof checkProof(const std::string& text, const std::string& proof) {
  CheckedProof out;
  const Context context = newContext();
  if (!context) return out;
  out.state = ProofState::Bad;
  const Data plain = dataOf(text);
  const Data signature = dataOf(proof);
  if (!plain || !signature ||
      gpgme_op_verify(context.get(), signature.get(), plain.get(), nullptr) != GPG_ERR_NO_ERROR) {
    return out;
  }
  const _gpgme_op_verify_result* const result = gpgme_op_verify_result(context.get());
  // Just one: else it would be open whose it is.
  if (result == nullptr || result->signatures == nullptr || result->signatures->next != nullptr) return out;
  out.state = stateOf(*result->signatures);
  if (out.state == ProofState::Bad) return out;
  if (const Key key = keyCalled(context, result->signatures->fpr, false)) out.names = namesOf(key);
  out.own = keyCalled(context, result->signatures->fpr, true) != nullptr;
  return out;
}

}  // namespace iterandum
