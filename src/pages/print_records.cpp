#include "pages/print_records.h"

#include <algorithm>

#include "core/files/shown_records.h"
#include "core/scope/column_path.h"
#include "pages/page_writer.h"

namespace iterandum {
namespace {

// Counts what reaches the pages.
class CountingWriter final : public RecordWriter {
 public:
  explicit CountingWriter(PageWriter& pages) : pages_(pages) {}
  Status begin() override { return pages_.begin(); }
  Status record(const ValueTuple& values) override {
    ++count;
    return pages_.record(values);
  }
  Status end() override { return pages_.end(); }
  std::uint64_t count = 0;

 private:
  PageWriter& pages_;
};

// Where the group's column lies; groups come in its order.
Result<std::optional<std::size_t>> groupIn(ReadScope& scope, const PrintForm& form, const Catalogue* catalogue) {
  if (form.groupBy.empty() || form.kind == PrintForm::Kind::Labels) return std::optional<std::size_t>();
  ITERANDUM_ASSIGN(const ColumnPath path, readColumnPath(*scope.table, form.groupBy, catalogue));
  if (const std::string why = cannotBorrow(path); !why.empty())
    return fail(ErrorKind::InvalidInput, "records cannot be grouped by " + form.groupBy + ": " + why);
  const bool isFirst =
      !scope.order.empty() && scope.order.front().column == path.column && scope.order.front().steps == path.steps;
  if (!isFirst) scope.order.insert(scope.order.begin(), SortKey{path.column, false, path.steps});
  const auto found = std::find(scope.columns.begin(), scope.columns.end(), path);
  const auto at = static_cast<std::size_t>(found - scope.columns.begin());
  if (found == scope.columns.end()) scope.columns.push_back(path);
  return std::optional(at);
}

}  // namespace

Result<PrintedCount> printRecords(Session& session, PrintedRecords printed, const PrintForm& form, PageTarget& target,
                                  Progress& progress) {
  const std::size_t shownColumns = printed.scope.columns.size();
  ITERANDUM_ASSIGN(const std::optional<std::size_t> group, groupIn(printed.scope, form, printed.catalogue));
  ITERANDUM_ASSIGN(ShownRecords shown, shownRecords(printed.scope, session, "pdf"));
  shown.query.limit = printed.limit;
  if (!form.asStored) {
    ITERANDUM_ASSIGN(ShownValues values, ShownValues::read(printed.scope, *printed.catalogue, printed.calledBy,
                                                           printed.lenses, session, progress));
    shown.showAs(std::move(values));
  }
  RecordForm records = shown.form;
  records.columns.resize(shownColumns);
  PageWriter pages(std::move(records), form, target, group);
  CountingWriter writer(pages);
  auto written = writeRecords(session, shown, writer, progress);
  const bool enough = !written && pages.full();
  if (!written && !(enough && target.end())) return fail(std::move(written.error()));
  return PrintedCount{writer.count, pages.cut()};
}

}  // namespace iterandum
