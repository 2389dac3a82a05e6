// Columns as they are spoken of: a column of the table itself, or names with dots between, which go by references to a
// record that this one points at: species.genus, tree.species.genus.
#pragma once

#include <string>
#include <string_view>

#include "core/base/result.h"
#include "core/scope/query.h"

namespace iterandum {

// Takes the steps and the column apart. A reference is named by its own column, by the table it points at where only
// one points there, or by its own name. `text` is taken as it is: quotes have gone by then.
// Errors: InvalidInput, with what there is.
[[nodiscard]] Result<ColumnPath> readColumnPath(const Table& table, std::string_view text, const Catalogue* catalogue);

// The form that readColumnPath() takes back.
[[nodiscard]] std::string columnPathText(const ColumnPath& path);

// Whether the record at the end is one at most, so that its columns can be shown beside this one's. Empty: it is; else
// why not.
[[nodiscard]] std::string cannotBorrow(const ColumnPath& path);

// The references by which columns can be borrowed from here, each as a step named so that readColumnPath() finds it.
[[nodiscard]] std::vector<ReferenceStep> lendingSteps(const Table& table, const Catalogue& catalogue);

// "tag, species_id, …", for messages.
[[nodiscard]] std::string columnNames(const Table& table);

}  // namespace iterandum
