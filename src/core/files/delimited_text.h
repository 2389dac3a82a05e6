// Texts whose fields are separated by a sign: CSV as RFC 4180 has it, and its relatives.
//
// A reader of our own: what it must tell apart, an empty field and a quoted empty one, the libraries at hand do not.
#pragma once

#include <functional>
#include <optional>
#include <string_view>

#include "core/files/table_source.h"

namespace iterandum {

struct DelimitedForm {
  char delimiter = ',';
  std::string noValue = {};  // unquoted, what stands for no value besides an empty field
};

// How the letters of a file are written.
struct TextForm {
  std::string encoding;  // as ICU calls it; empty before reading: it is found
  std::string note;      // what is to be said about it
};

// The text as UTF-8. Where `form` names no encoding, a byte order mark tells it, else what is no UTF-8 is read as
// Windows-1252; afterwards it says which it was. Errors: InvalidFile, bytes that are no text, or none in this encoding,
// or lines of which some are UTF-8 and some are not; InvalidInput: nobody knows the encoding.
[[nodiscard]] Result<std::string> textOfFile(std::string content, TextForm& form);

class DelimitedText final : public TableSource {
 public:
  // `text` outlives this.
  DelimitedText(std::string_view text, DelimitedForm form) : rest_(text), form_(std::move(form)) {}
  [[nodiscard]] Result<bool> next(FileLine& line) override;
  [[nodiscard]] const char* lineWord() const override { return "line"; }

 private:
  [[nodiscard]] bool isEnd(char c) const { return c == form_.delimiter || c == '\r' || c == '\n'; }
  [[nodiscard]] Status readField(FileCell& cell);
  [[nodiscard]] Status readQuoted(FileCell& cell);
  void endLine();

  std::string_view rest_;
  DelimitedForm form_;
  std::uint64_t line_ = 1;
};

// The sign, among comma, semicolon, tab and bar, by which a line among the first names the most columns; where none
// does, the one that parts the first lines into the most fields. `isColumn`: whether a text names one.
[[nodiscard]] char delimiterOf(std::string_view text, const std::function<bool(const std::string&)>& isColumn);

}  // namespace iterandum
