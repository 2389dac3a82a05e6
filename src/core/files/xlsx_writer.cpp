#include "core/files/record_writer.h"
#include "core/files/xlsx_book.h"

namespace iterandum {
namespace {

class XlsxWriter final : public RecordWriter {
 public:
  XlsxWriter(RecordForm form, Sink sink) : form_(std::move(form)), sink_(std::move(sink)) {}

  Status begin() override {
    ITERANDUM_ASSIGN(book_, XlsxBook::begin(form_.title));
    ITERANDUM_ASSIGN(sheet_, book_->addSheet(form_.table != nullptr ? form_.table->name.name : "Records"));
    sheet_->freeze(1, 0);
    std::uint16_t at = 0;
    for (const Column& column : form_.columns) {
      ITERANDUM_TRY(sheet_->text(0, at++, column.name, XlsxLook{.bold = true}));
    }
    return {};
  }

  Status record(const ValueTuple& values) override {
    if (++row_ >= XlsxSheet::kMostRows) {
      return fail(ErrorKind::InvalidFile, "a sheet has 1 048 576 rows and no more; take fewer records, or CSV");
    }
    for (std::size_t i = 0; i < values.size(); ++i) {
      Status put = sheet_->value(row_, static_cast<std::uint16_t>(i), form_.columns[i], values[i]);
      if (put) continue;
      put.error().place = "record " + std::to_string(row_) + ", " + form_.columns[i].name;
      return put;
    }
    return {};
  }

  Status end() override {
    sheet_->fitColumns();
    return book_->finish(sink_);
  }

 private:
  RecordForm form_;
  Sink sink_;
  std::unique_ptr<XlsxBook> book_;
  XlsxSheet* sheet_ = nullptr;  // the book's
  std::uint32_t row_ = 0;
};

}  // namespace

std::unique_ptr<RecordWriter> makeXlsxWriter(RecordForm form, RecordWriter::Sink sink) {
  return std::make_unique<XlsxWriter>(std::move(form), std::move(sink));
}

}  // namespace iterandum
