#include "core/files/ods_reader.h"

#include <algorithm>
#include <charconv>

#include "core/files/waiting_rows.h"

namespace iterandum {
namespace {

constexpr const char* kContent = "content.xml";
// A row that is said to be there so often and holds something is none that somebody wrote.
constexpr std::uint64_t kMostRepeats = 1U << 20U;
constexpr std::uint64_t kMostRepeatedCells = 20U << 20U;

std::uint64_t repeats(const char** attributes, std::string_view name) {
  const char* text = attributeOf(attributes, name);
  std::uint64_t out = 1;
  if (text != nullptr) std::from_chars(text, text + std::char_traits<char>::length(text), out);
  return std::max<std::uint64_t>(out, 1);
}

// PT03H04M05S as 03:04:05; what is no time of day stays as it is.
std::string timeOfDay(std::string_view text) {
  unsigned hours = 0;
  unsigned minutes = 0;
  double seconds = 0;
  std::string whole(text);
  if (std::sscanf(whole.c_str(), "PT%uH%uM%lfS", &hours, &minutes, &seconds) != 3 || hours > 23) return whole;
  std::string out(16, '\0');
  const int size =
      std::snprintf(out.data(), out.size(), "%02u:%02u:%02u", hours, minutes, static_cast<unsigned>(seconds));
  out.resize(static_cast<std::size_t>(size));
  return out;
}

class OdsRows final : public WaitingRows {
 public:
  static Result<std::unique_ptr<TableSource>> open(Package& package, std::size_t wanted) {
    auto out = std::make_unique<OdsRows>();
    out->wanted_ = wanted;
    OdsRows* self = out.get();
    PackagePart::Handler handler;
    handler.begin = [self](std::string_view name, const char** a) { self->begin(name, a); };
    handler.end = [self](std::string_view name) { self->end(name); };
    handler.text = [self](std::string_view text) {
      if (self->inParagraph_ > 0 && self->inNote_ == 0) self->text_ += text;
    };
    ITERANDUM_ASSIGN(std::unique_ptr<PackagePart> read, PackagePart::open(package, kContent, std::move(handler)));
    out->readFrom(std::move(read));
    return std::unique_ptr<TableSource>(std::move(out));
  }

 private:
  [[nodiscard]] bool isHere() const { return depth_ == 1 && table_ == wanted_ + 1; }

  void begin(std::string_view name, const char** attributes) {
    if (name == "table" && ++depth_ == 1) ++table_;
    if (!isHere()) return;
    if (name == "table-row") {
      rowRepeats_ = repeats(attributes, "number-rows-repeated");
      cells_.clear();
    } else if (name == "table-cell" || name == "covered-table-cell") {
      beginCell(attributes);
    } else if (name == "annotation") {
      ++inNote_;
    } else if (inNote_ > 0) {
      return;
    } else if (name == "p") {
      if (++inParagraph_ == 1 && paragraphs_++ > 0) text_ += '\n';
    } else if (inParagraph_ > 0 && name == "s") {
      text_.append(std::min<std::uint64_t>(repeats(attributes, "c"), 1U << 16U), ' ');
    } else if (inParagraph_ > 0 && name == "tab") {
      text_ += '\t';
    } else if (inParagraph_ > 0 && name == "line-break") {
      text_ += '\n';
    }
  }

  void beginCell(const char** attributes) {
    cellRepeats_ = repeats(attributes, "number-columns-repeated");
    cell_ = {};
    cell_.kind = FileCell::Kind::None;
    text_.clear();
    paragraphs_ = 0;
    takesText_ = false;
    if (const char* formula = attributeOf(attributes, "formula")) withoutResult(cell_, formula);
    // A spreadsheet that knows of errors says so beside the value's own type.
    std::string_view type;
    for (const char** a = attributes; *a != nullptr; a += 2) {
      const std::string_view attribute = *a;
      if (attribute.ends_with(":value-type") && (type.empty() || std::string_view(a[1]) == "error")) type = a[1];
    }
    const auto take = [&](FileCell::Kind kind, const char* name) {
      const char* value = attributeOf(attributes, name);
      cell_.kind = kind;
      if (value != nullptr) cell_.text = value;
      return value != nullptr;
    };
    if (type == "float" || type == "currency" || type == "percentage") {
      if (take(FileCell::Kind::Number, "value")) cell_.text = plainNumber(cell_.text);
    } else if (type == "date") {
      take(FileCell::Kind::Moment, "date-value");
      std::replace(cell_.text.begin(), cell_.text.end(), 'T', ' ');
    } else if (type == "time") {
      take(FileCell::Kind::Moment, "time-value");
      cell_.text = timeOfDay(cell_.text);
    } else if (type == "boolean") {
      take(FileCell::Kind::Boolean, "boolean-value");
      cell_.text = cell_.text == "true" ? "1" : "0";
    } else if (type == "error") {
      cell_.kind = FileCell::Kind::Error;
      takesText_ = true;
    } else if (type == "string") {
      takesText_ = !take(FileCell::Kind::Text, "string-value");
    }
  }

  void end(std::string_view name) {
    if (isHere()) endHere(name);
    if (name == "table") --depth_;
  }

  void endHere(std::string_view name) {
    if (name == "annotation") {
      --inNote_;
    } else if (name == "p" && inNote_ == 0 && inParagraph_ > 0) {
      --inParagraph_;
    } else if (name == "table-cell" || name == "covered-table-cell") {
      if (takesText_) cell_.text = text_;
      if (cell_.kind == FileCell::Kind::None) {
        waitingNone_ += cellRepeats_;
        return;
      }
      if (cells_.size() + waitingNone_ + cellRepeats_ > kMostColumns) {
        return refuse("row " + std::to_string(row_ + 1) + " has more columns than a sheet can have");
      }
      FileCell none;
      none.kind = FileCell::Kind::None;
      cells_.insert(cells_.end(), waitingNone_, none);
      waitingNone_ = 0;
      cells_.insert(cells_.end(), cellRepeats_, cell_);
    } else if (name == "table-row") {
      endRow();
    }
  }

  void endRow() {
    waitingNone_ = 0;  // to the sheet's far edge, as a rule
    if (cells_.empty()) {
      row_ += rowRepeats_;
      return;
    }
    repeated_ += rowRepeats_ > 1 ? rowRepeats_ * cells_.size() : 0;
    if (rowRepeats_ > kMostRepeats || repeated_ > kMostRepeatedCells) {
      return refuse("row " + std::to_string(row_ + 1) + " is repeated more often than a list is long");
    }
    for (std::uint64_t i = 0; i < rowRepeats_; ++i) addRow(++row_, std::vector<FileCell>(cells_));
  }

  std::size_t wanted_ = 0;
  std::size_t table_ = 0;
  int depth_ = 0;
  int inNote_ = 0;
  int inParagraph_ = 0;
  int paragraphs_ = 0;
  bool takesText_ = false;
  std::uint64_t row_ = 0;
  std::uint64_t rowRepeats_ = 1;
  std::uint64_t cellRepeats_ = 1;
  std::uint64_t waitingNone_ = 0;
  std::uint64_t repeated_ = 0;
  FileCell cell_;
  std::string text_;
  std::vector<FileCell> cells_;
};

class Ods final : public Spreadsheet {
 public:
  Ods(std::unique_ptr<Package> package, std::vector<std::string> names)
      : package_(std::move(package)), names_(std::move(names)) {}
  [[nodiscard]] const std::vector<std::string>& sheets() const override { return names_; }
  [[nodiscard]] Result<std::unique_ptr<TableSource>> sheet(std::size_t index) override {
    return OdsRows::open(*package_, index);
  }

 private:
  std::unique_ptr<Package> package_;
  std::vector<std::string> names_;
};

}  // namespace

Result<std::unique_ptr<Spreadsheet>> openOds(std::unique_ptr<Package> package) {
  std::vector<std::string> names;
  int depth = 0;
  PackagePart::Handler handler;
  handler.begin = [&](std::string_view name, const char** attributes) {
    if (name != "table" || ++depth != 1) return;
    const char* title = attributeOf(attributes, "name");
    names.emplace_back(title != nullptr ? title : "");
  };
  handler.end = [&](std::string_view name) {
    if (name == "table") --depth;
  };
  ITERANDUM_ASSIGN(const auto read, PackagePart::open(*package, kContent, std::move(handler)));
  ITERANDUM_TRY(read->readAll());
  return std::unique_ptr<Spreadsheet>(std::make_unique<Ods>(std::move(package), std::move(names)));
}

}  // namespace iterandum
