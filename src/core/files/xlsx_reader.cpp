#include "core/files/xlsx_reader.h"

#include <algorithm>
#include <charconv>
#include <map>
#include <optional>

#include "core/files/waiting_rows.h"

namespace iterandum {
namespace {

using Shared = std::vector<std::string>;

struct Workbook {
  std::unique_ptr<Package> package;
  std::vector<std::string> names;
  std::vector<std::string> parts;  // of each sheet
  Shared texts;
  std::vector<ShownAs> styles;  // by the number of a cell's style
  bool since1904 = false;
};

std::uint64_t numberOf(std::string_view text) {
  std::uint64_t out = 0;
  std::from_chars(text.data(), text.data() + text.size(), out);
  return out;
}

// _x000D_ stands for the character with that number, in a text of a workbook.
std::string unescaped(const std::string& text) {
  std::size_t at = text.find("_x");
  if (at == std::string::npos) return text;
  std::string out;
  std::size_t from = 0;
  for (; at != std::string::npos; at = text.find("_x", from)) {
    unsigned code = 0;
    const char* digits = text.data() + at + 2;
    const bool fits =
        at + 7 <= text.size() && text[at + 6] == '_' && std::from_chars(digits, digits + 4, code, 16).ptr == digits + 4;
    out += text.substr(from, at - from);
    from = at + (fits ? 7 : 2);
    if (!fits) {
      out += "_x";
    } else if (code < 0x80) {
      out += static_cast<char>(code);
    } else if (code < 0x800) {
      out += {static_cast<char>(0xC0U | code >> 6U), static_cast<char>(0x80U | (code & 0x3FU))};
    } else {
      out += {static_cast<char>(0xE0U | code >> 12U), static_cast<char>(0x80U | (code >> 6U & 0x3FU)),
              static_cast<char>(0x80U | (code & 0x3FU))};
    }
  }
  return out + text.substr(from);
}

// "B7": the column, from 0. Nothing: it is no place.
std::optional<std::uint64_t> columnOf(std::string_view place) {
  std::uint64_t out = 0;
  std::size_t letters = 0;
  for (; letters < place.size() && place[letters] >= 'A' && place[letters] <= 'Z' && letters < 4; ++letters) {
    out = out * 26 + static_cast<std::uint64_t>(place[letters] - 'A' + 1);
  }
  return letters > 0 && out <= kMostColumns ? std::optional(out - 1) : std::nullopt;
}

// The formats that have a number only (ECMA-376, part 1, 18.8.30).
ShownAs builtInFormat(std::uint64_t id) {
  if ((id >= 14 && id <= 17) || (id >= 27 && id <= 31) || id == 36 || (id >= 50 && id <= 54) || (id >= 57 && id <= 58))
    return ShownAs::Day;
  if ((id >= 18 && id <= 21) || (id >= 32 && id <= 35) || (id >= 45 && id <= 47) || (id >= 55 && id <= 56))
    return ShownAs::Time;
  return id == 22 ? ShownAs::Moment : ShownAs::Number;
}

class XlsxRows final : public WaitingRows {
 public:
  static Result<std::unique_ptr<TableSource>> open(Workbook& book, const std::string& part) {
    auto out = std::make_unique<XlsxRows>();
    out->book_ = &book;
    XlsxRows* self = out.get();
    PackagePart::Handler handler;
    handler.begin = [self](std::string_view name, const char** a) { self->begin(name, a); };
    handler.end = [self](std::string_view name) { self->end(name); };
    handler.text = [self](std::string_view text) {
      if (self->reads_) self->text_ += text;
      if (self->readsFormula_) self->formula_ += text;
    };
    ITERANDUM_ASSIGN(std::unique_ptr<PackagePart> read, PackagePart::open(*book.package, part, std::move(handler)));
    out->readFrom(std::move(read));
    return std::unique_ptr<TableSource>(std::move(out));
  }

 private:
  void begin(std::string_view name, const char** attributes) {
    if (name == "row") {
      const char* number = attributeOf(attributes, "r");
      row_ = number != nullptr ? numberOf(number) : row_ + 1;
      column_ = 0;
      cells_.clear();
    } else if (name == "c") {
      const char* place = attributeOf(attributes, "r");
      const auto column = place != nullptr ? columnOf(place) : std::optional(column_);
      if (!column || *column >= kMostColumns)
        return refuse("row " + std::to_string(row_) + " has more columns than a sheet can have");
      column_ = *column;
      const char* type = attributeOf(attributes, "t");
      type_ = type != nullptr ? type : "n";
      const char* style = attributeOf(attributes, "s");
      style_ = style != nullptr ? numberOf(style) : 0;
      text_.clear();
      hasText_ = false;
      isFormula_ = false;
      formula_.clear();
    } else if (name == "f") {
      isFormula_ = true;
      readsFormula_ = true;
    } else if (name == "v" || name == "t") {
      reads_ = !phonetic_;
      hasText_ = true;
    } else if (name == "rPh") {
      phonetic_ = true;
    }
  }

  void end(std::string_view name) {
    if (name == "v" || name == "t") {
      reads_ = false;
    } else if (name == "f") {
      readsFormula_ = false;
    } else if (name == "rPh") {
      phonetic_ = false;
    } else if (name == "c") {
      putCell();
    } else if (name == "row") {
      addRow(row_, std::move(cells_));
      cells_ = {};
    }
  }

  void putCell() {
    while (cells_.size() < column_) cells_.emplace_back().kind = FileCell::Kind::None;
    FileCell cell;
    cell.kind = FileCell::Kind::None;
    if (hasText_) readCell(cell);
    if (isFormula_ && cell.kind == FileCell::Kind::None) withoutResult(cell, formula_);
    if (cells_.size() == column_) {
      cells_.push_back(std::move(cell));
    } else {
      cells_[column_] = std::move(cell);
    }
    ++column_;
  }

  void readCell(FileCell& cell) {
    cell.text = std::move(text_);
    if (type_ == "s") {
      const std::uint64_t at = numberOf(cell.text);
      if (at >= book_->texts.size())
        return refuse("row " + std::to_string(row_) + " speaks of a text that is not there");
      cell.kind = FileCell::Kind::Text;
      cell.text = book_->texts[at];
    } else if (type_ == "str" || type_ == "inlineStr") {
      cell.kind = FileCell::Kind::Text;
      cell.text = unescaped(cell.text);
    } else if (type_ == "b") {
      cell.kind = FileCell::Kind::Boolean;
    } else if (type_ == "e") {
      cell.kind = FileCell::Kind::Error;
    } else if (type_ == "d") {
      cell.kind = FileCell::Kind::Moment;
      std::replace(cell.text.begin(), cell.text.end(), 'T', ' ');
    } else if (!cell.text.empty()) {
      readNumber(cell);
    }
  }

  void readNumber(FileCell& cell) {
    cell.kind = FileCell::Kind::Number;
    const ShownAs shown = style_ < book_->styles.size() ? book_->styles[style_] : ShownAs::Number;
    cell.text = plainNumber(cell.text);
    double serial = 0;
    const auto read = std::from_chars(cell.text.data(), cell.text.data() + cell.text.size(), serial);
    // From the year 1 to 9999: beyond it, it is a number that looks like a day.
    if (shown == ShownAs::Number || read.ec != std::errc() || serial < -693593 || serial > 2958465.99) return;
    cell.kind = FileCell::Kind::Moment;
    cell.text = momentOfSerial(serial, shown, book_->since1904);
  }

  const Workbook* book_ = nullptr;
  std::uint64_t row_ = 0;
  std::uint64_t column_ = 0;
  std::uint64_t style_ = 0;
  std::string type_;
  std::string text_;
  bool hasText_ = false;
  bool isFormula_ = false;
  bool readsFormula_ = false;
  std::string formula_;
  bool reads_ = false;
  bool phonetic_ = false;
  std::vector<FileCell> cells_;
};

class Xlsx final : public Spreadsheet {
 public:
  explicit Xlsx(Workbook book) : book_(std::move(book)) {}
  [[nodiscard]] const std::vector<std::string>& sheets() const override { return book_.names; }
  [[nodiscard]] Result<std::unique_ptr<TableSource>> sheet(std::size_t index) override {
    return XlsxRows::open(book_, book_.parts.at(index));
  }

 private:
  Workbook book_;
};

// Where the parts lie that others speak of by a name: target by name, and by type the first of it.
struct Relations {
  std::map<std::string, std::string> byName;
  std::map<std::string, std::string> byType;
};

Result<Relations> readRelations(Package& package, const std::string& folder, const std::string& part) {
  Relations out;
  const std::string list = folder + "_rels/" + part + ".rels";
  if (!package.has(list)) return out;
  PackagePart::Handler handler;
  handler.begin = [&](std::string_view name, const char** attributes) {
    const char* target = attributeOf(attributes, "Target");
    const char* id = attributeOf(attributes, "Id");
    const char* type = attributeOf(attributes, "Type");
    if (name != "Relationship" || target == nullptr || id == nullptr || type == nullptr) return;
    std::string path = target[0] == '/' ? std::string(target + 1) : folder + target;
    for (std::size_t up = path.find("/../"); up != std::string::npos; up = path.find("/../")) {
      const std::size_t from = up == 0 ? 0 : path.rfind('/', up - 1) + 1;
      path.erase(from, up + 4 - from);
    }
    const std::string whole = type;
    out.byName[id] = path;
    out.byType.try_emplace(whole.substr(whole.rfind('/') + 1), path);
  };
  ITERANDUM_ASSIGN(const auto read, PackagePart::open(package, list, std::move(handler)));
  ITERANDUM_TRY(read->readAll());
  return out;
}

Status readTexts(Workbook& book, const std::string& part) {
  bool reads = false;
  bool phonetic = false;
  std::string text;
  PackagePart::Handler handler;
  handler.begin = [&](std::string_view name, const char**) {
    if (name == "si") text.clear();
    if (name == "rPh") phonetic = true;
    if (name == "t") reads = !phonetic;
  };
  handler.end = [&](std::string_view name) {
    if (name == "t") reads = false;
    if (name == "rPh") phonetic = false;
    if (name == "si") book.texts.push_back(unescaped(text));
  };
  handler.text = [&](std::string_view piece) {
    if (reads) text += piece;
  };
  ITERANDUM_ASSIGN(const auto read, PackagePart::open(*book.package, part, std::move(handler)));
  return read->readAll();
}

Status readStyles(Workbook& book, const std::string& part) {
  std::map<std::uint64_t, ShownAs> own;
  bool ofCells = false;
  PackagePart::Handler handler;
  handler.begin = [&](std::string_view name, const char** attributes) {
    const char* id = attributeOf(attributes, "numFmtId");
    if (name == "cellXfs") ofCells = true;
    if (name == "numFmt" && id != nullptr) {
      const char* code = attributeOf(attributes, "formatCode");
      own[numberOf(id)] = shownAs(code != nullptr ? code : "");
    }
    if (name != "xf" || !ofCells) return;
    const std::uint64_t format = id != nullptr ? numberOf(id) : 0;
    const auto known = own.find(format);
    book.styles.push_back(known != own.end() ? known->second : builtInFormat(format));
  };
  handler.end = [&](std::string_view name) {
    if (name == "cellXfs") ofCells = false;
  };
  ITERANDUM_ASSIGN(const auto read, PackagePart::open(*book.package, part, std::move(handler)));
  return read->readAll();
}

Status readWorkbook(Workbook& book, const std::string& folder, const std::string& part) {
  ITERANDUM_ASSIGN(const Relations relations, readRelations(*book.package, folder, part));
  PackagePart::Handler handler;
  handler.begin = [&](std::string_view name, const char** attributes) {
    if (name == "workbookPr") {
      const char* since = attributeOf(attributes, "date1904");
      book.since1904 = since != nullptr && (std::string_view(since) == "1" || std::string_view(since) == "true");
    }
    const char* title = attributeOf(attributes, "name");
    const char* id = attributeOf(attributes, "id");
    const auto target = name == "sheet" && id != nullptr ? relations.byName.find(id) : relations.byName.end();
    if (target == relations.byName.end() || title == nullptr) return;
    book.names.emplace_back(title);
    book.parts.push_back(target->second);
  };
  ITERANDUM_ASSIGN(const auto read, PackagePart::open(*book.package, folder + part, std::move(handler)));
  ITERANDUM_TRY(read->readAll());
  const auto texts = relations.byType.find("sharedStrings");
  if (texts != relations.byType.end()) ITERANDUM_TRY(readTexts(book, texts->second));
  const auto styles = relations.byType.find("styles");
  if (styles != relations.byType.end()) ITERANDUM_TRY(readStyles(book, styles->second));
  return {};
}

}  // namespace

Result<std::unique_ptr<Spreadsheet>> openXlsx(std::unique_ptr<Package> package) {
  Workbook book;
  book.package = std::move(package);
  ITERANDUM_ASSIGN(const Relations top, readRelations(*book.package, "", ""));
  const auto main = top.byType.find("officeDocument");
  if (main == top.byType.end()) {
    return fail(ErrorKind::InvalidFile, "this archive is no spreadsheet: neither XLSX nor ODS");
  }
  const std::size_t slash = main->second.rfind('/') + 1;
  ITERANDUM_TRY(readWorkbook(book, main->second.substr(0, slash), main->second.substr(slash)));
  return std::unique_ptr<Spreadsheet>(std::make_unique<Xlsx>(std::move(book)));
}

}  // namespace iterandum
