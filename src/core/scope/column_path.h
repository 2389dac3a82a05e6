// Columns as they are spoken of: a column of the table itself, or names with dots between, which go by references to a
// record that this one points at: species.genus, tree.species.genus.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/scope/query.h"

namespace iterandum {

// The column that is called so: exactly, else in any case where only one is. Null: none.
[[nodiscard]] const Column* columnCalled(const Table& table, std::string_view name);
// The own column of the one reference that is called so, or points at a table that is. Null: none.
[[nodiscard]] const Column* columnOfReference(const Table& table, std::string_view name);

// Takes the steps and the column apart. Names are taken as columnCalled() does. A reference is named by its own column,
// by the table it points at where only one points there, or by its own name; without a column behind it, it stands for
// its own one. `text` is taken as it is: quotes have gone by then.
// Errors: InvalidInput, with what there is.
[[nodiscard]] Result<ColumnPath> readColumnPath(const Table& table, std::string_view text, const Catalogue* catalogue);

// The same where the names are apart already. REQUIRES: there is one at least.
[[nodiscard]] Result<ColumnPath> readColumnPath(const Table& table, const std::vector<std::string>& names,
                                                const Catalogue* catalogue);

// The step along a reference of one column, spoken of by that column. REQUIRES: `target` is what it points at.
[[nodiscard]] ReferenceStep stepAlong(const Table& table, const Reference& reference, const Table& target);

// The form that readColumnPath() takes back.
[[nodiscard]] std::string columnPathText(const ColumnPath& path);

// Whether the record at the end is one at most, so that its columns can be shown beside this one's. Empty: it is; else
// why not.
[[nodiscard]] std::string cannotBorrow(const ColumnPath& path);

// The references by which columns can be borrowed from here, each as a step named so that readColumnPath() finds it.
[[nodiscard]] std::vector<ReferenceStep> lendingSteps(const Table& table, const Catalogue& catalogue);

// "tag, species_id, …", for messages.
[[nodiscard]] std::string columnNames(const Table& table);

// Asks for these columns besides what the query asks for; where each lies in its rows, which hold the borrowed ones
// last. REQUIRES: the query borrows nothing yet.
[[nodiscard]] std::vector<std::size_t> askForColumns(const std::vector<ColumnPath>& paths, Query& query);

}  // namespace iterandum
