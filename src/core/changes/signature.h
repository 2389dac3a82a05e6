// Signature: what somebody says of a change set that they reviewed, and over exactly which changes they say it.
//
// It travels in the change file and stays on the receipt. It holds for one digest: any change of the change set gives
// another one. Whether the name is true is another question, which signing/judged_signature.h answers.
#pragma once

#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/changes/change_list.h"

namespace iterandum {

struct JsonNode;
class JsonWriter;

struct Signature {
  std::string by;
  std::string at;        // RFC 3339, UTC
  std::string words;     // what they say; may be empty
  std::string database;  // where they reviewed it; never with a password
  std::string digest;    // changesDigest() of what they reviewed
  std::string proof;     // OpenPGP, armoured, over signedText(); empty: a plain name
  friend bool operator==(const Signature&, const Signature&) = default;
};

// SHA-256, in hexadecimal, of all that the changes do and expect. The same for the same changes in whatever order they
// are written down, and whatever their additions are labelled; their title is not in it. Takes the time of writing a
// change file.
[[nodiscard]] std::string changesDigest(const ChangeList& changes);

// The bytes that a key signs.
[[nodiscard]] std::string signedText(const Signature& signature);

// Somebody's new signature takes the place of the one they gave before.
void putIn(Signature signature, std::vector<Signature>& signatures);

// As the member "signatures" of a document; nothing where there are none.
void writeSignatures(JsonWriter& out, const std::vector<Signature>& signatures);
// Errors: InvalidFile with the place.
[[nodiscard]] Result<std::vector<Signature>> readSignatures(const JsonNode& node, const std::string& place);

// The same as a text of their own, to be kept.
[[nodiscard]] std::string packSignatures(const std::vector<Signature>& signatures);
[[nodiscard]] Result<std::vector<Signature>> unpackSignatures(std::string_view text);

}  // namespace iterandum
