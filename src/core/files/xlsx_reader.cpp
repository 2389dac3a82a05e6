#include "core/files/xlsx_reader.h"

#include <algorithm>
#include <charconv>
#include <map>
#include <optional>

#include "core/files/waiting_rows.h"

namespace iterandum {
namespace {

struct Workbook {
  std::unique_ptr<Package> package;
  std::vector<std::string> names;
  std::vector<std::string> parts;  // of each sheet
  std::vector<std::string> texts;
  std::vector<ShownAs> styles;  // by the number of a cell's style
  bool since1904 = false;
};

std::uint64_t numberOf(std::string_view text) {
  std::uint64_t out = 0;
  std::from_chars(text.data(), text.data() + text.size(), out);
  return out;
}

// _x000D_ stands for the character with that number, in a text of a workbook.
void unescape(std::string& text) {
  std::size_t at = text.find("_x");
  if (at == std::string::npos) return;
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
  text = out + text.substr(from);
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

// What a row is made of.
enum class Element : std::uint8_t { Row, Cell, Content, Formula, Phonetic, Other };
Element elementOf(std::string_view name) {
  if (name == "c") return Element::Cell;
  if (name == "v" || name == "t") return Element::Content;
  if (name == "row") return Element::Row;
  if (name == "f") return Element::Formula;
  return name == "rPh" ? Element::Phonetic : Element::Other;
}

// What stands in a cell. Shared: the number of a text that lies elsewhere.
enum class Type : std::uint8_t { Number, Shared, Text, Boolean, Error, Day };
Type typeOf(std::string_view word) {
  if (word == "s") return Type::Shared;
  if (word == "str" || word == "inlineStr") return Type::Text;
  if (word == "b") return Type::Boolean;
  if (word == "e") return Type::Error;
  return word == "d" ? Type::Day : Type::Number;
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
    switch (elementOf(name)) {
      case Element::Row: {
        const char* number = attributeOf(attributes, "r");
        row_ = number != nullptr ? numberOf(number) : row_ + 1;
        column_ = 0;
        filled_ = 0;
        break;
      }
      case Element::Cell:
        beginCell(attributes);
        break;
      case Element::Formula:
        isFormula_ = true;
        readsFormula_ = true;
        break;
      case Element::Content:
        reads_ = !phonetic_;
        hasText_ = true;
        break;
      case Element::Phonetic:
        phonetic_ = true;
        break;
      case Element::Other:
        break;
    }
  }

  // There are millions of them: each attribute is looked at once.
  void beginCell(const char** attributes) {
    std::optional<std::uint64_t> column = column_;
    type_ = Type::Number;
    style_ = 0;
    for (; *attributes != nullptr; attributes += 2) {
      const std::string_view name = localName(attributes[0]);
      if (name == "r") column = columnOf(attributes[1]);
      if (name == "s") style_ = numberOf(attributes[1]);
      if (name == "t") type_ = typeOf(attributes[1]);
    }
    if (!column || *column >= kMostColumns)
      return refuse("row " + std::to_string(row_) + " has more columns than a sheet can have");
    column_ = *column;
    text_.clear();
    hasText_ = false;
    isFormula_ = false;
    formula_.clear();
  }

  void end(std::string_view name) {
    switch (elementOf(name)) {
      case Element::Content:
        reads_ = false;
        break;
      case Element::Formula:
        readsFormula_ = false;
        break;
      case Element::Phonetic:
        phonetic_ = false;
        break;
      case Element::Cell:
        putCell();
        break;
      case Element::Row:
        cells_.resize(filled_);
        addRow(row_, std::move(cells_));
        cells_ = room();
        filled_ = 0;
        break;
      case Element::Other:
        break;
    }
  }

  // The cell after those that the row has so far, without a value; its room may have been another one's.
  FileCell& nextCell() {
    if (cells_.size() == filled_) cells_.emplace_back();
    FileCell& cell = cells_[filled_++];
    cell.kind = FileCell::Kind::None;
    cell.text.clear();
    return cell;
  }

  void putCell() {
    while (filled_ < column_) nextCell();
    if (filled_ == column_) nextCell();
    FileCell& cell = cells_[column_];
    cell.kind = FileCell::Kind::None;
    cell.text.clear();
    if (hasText_) readCell(cell);
    if (isFormula_ && cell.kind == FileCell::Kind::None) withoutResult(cell, formula_);
    ++column_;
  }

  void readCell(FileCell& cell) {
    cell.text.swap(text_);
    if (type_ == Type::Shared) {
      const std::uint64_t at = numberOf(cell.text);
      if (at >= book_->texts.size())
        return refuse("row " + std::to_string(row_) + " speaks of a text that is not there");
      cell.kind = FileCell::Kind::Text;
      cell.text = book_->texts[at];
    } else if (type_ == Type::Text) {
      cell.kind = FileCell::Kind::Text;
      unescape(cell.text);
    } else if (type_ == Type::Boolean) {
      cell.kind = FileCell::Kind::Boolean;
    } else if (type_ == Type::Error) {
      cell.kind = FileCell::Kind::Error;
    } else if (type_ == Type::Day) {
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
    if (shown == ShownAs::Number) return;
    double serial = 0;
    const auto read = std::from_chars(cell.text.data(), cell.text.data() + cell.text.size(), serial);
    // From the year 1 to 9999: beyond it, it is a number that looks like a day.
    if (read.ec != std::errc() || serial < -693593 || serial > 2958465.99) return;
    cell.kind = FileCell::Kind::Moment;
    cell.text = momentOfSerial(serial, shown, book_->since1904);
  }

  const Workbook* book_ = nullptr;
  std::uint64_t row_ = 0;
  std::uint64_t column_ = 0;
  std::uint64_t style_ = 0;
  Type type_ = Type::Number;
  std::string text_;
  bool hasText_ = false;
  bool isFormula_ = false;
  bool readsFormula_ = false;
  std::string formula_;
  bool reads_ = false;
  bool phonetic_ = false;
  std::vector<FileCell> cells_;  // of the row; those from filled_ on are room
  std::size_t filled_ = 0;
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
    if (name != "si") return;
    unescape(text);
    book.texts.push_back(text);
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
