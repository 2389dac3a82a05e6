// A small set of keys that says of a key either that it is not among them or that it may be: so that of thousands of
// receipts only those are unpacked that may speak of a record. After Bloom, "Space/time trade-offs in hash coding with
// allowable errors" (1970), with the two hashes of Kirsch and Mitzenmacher (2006).
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/value/value_column.h"

namespace iterandum {

// Of a key by its values: the same in every build, and for keys that sameTuple() takes for the same.
[[nodiscard]] std::uint64_t keyHash(const ValueTuple& key);

// As bytes to be kept: two for each key; of one in some thousands of others it says wrongly that it may be there.
[[nodiscard]] std::string makeKeyFilter(const std::vector<std::uint64_t>& hashes);
// True too for bytes that are no filter.
[[nodiscard]] bool mayHold(std::string_view filter, std::uint64_t hash);

}  // namespace iterandum
