// Values on their way out as people read them: references by how the record there is called, through the lens of their
// column; what has neither stays as it is.
#pragma once

#include <functional>
#include <unordered_map>
#include <vector>

#include "core/files/called_records.h"
#include "core/lenses/lens.h"
#include "core/scope/scope.h"

namespace iterandum {

class ShownValues {
 public:
  // Reads the names of what is pointed at, of at most NamedKeys::kMost records a table; beyond that the keys stay.
  // Lenses are copied. Errors: the session's.
  [[nodiscard]] static Result<ShownValues> read(const ReadScope& scope, const Catalogue& catalogue,
                                                const CalledBy& calledBy, const std::vector<Lens>& lenses,
                                                Session& session, Progress& progress);
  // Whether values of a column of the scope are shown otherwise than they are stored.
  [[nodiscard]] bool changes(std::size_t column) const {
    return !columns_[column].names.empty() || columns_[column].lens.has_value();
  }
  [[nodiscard]] Value shown(std::size_t column, const Value& value) const;

 private:
  struct Shown {
    Column column;
    std::optional<Lens> lens;
    std::unordered_map<std::string, std::string> names;  // by the key as text
  };
  std::vector<Shown> columns_;
};

}  // namespace iterandum
