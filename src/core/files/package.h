// Package: the ZIP archive that a spreadsheet is, read through libzip, its parts through Expat.
//
// What unpacks to far more than it is (a part that grows more than a few hundred times beyond 64 MiB) is refused while
// it is read, before it fills the memory.
#pragma once

#include <expat.h>
#include <zip.h>

#include <functional>
#include <memory>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace iterandum {

class Package {
 public:
  // `content` outlives the package. Errors: InvalidFile: no archive, damaged, protected by a password.
  [[nodiscard]] static Result<std::unique_ptr<Package>> open(std::string_view content);
  [[nodiscard]] bool has(const std::string& part) const;

 private:
  friend class PackagePart;
  struct CloseZip {
    void operator()(zip_t* zip) const { zip_discard(zip); }
  };
  std::unique_ptr<zip_t, CloseZip> zip_;
};

// An XML part, read piece by piece. The package outlives it.
class PackagePart {
 public:
  struct Handler {
    // Names are without their namespace. Attributes as Expat gives them: name and value in turn, up to a null.
    std::function<void(std::string_view name, const char** attributes)> begin = [](std::string_view, const char**) {};
    std::function<void(std::string_view name)> end = [](std::string_view) {};
    std::function<void(std::string_view text)> text = [](std::string_view) {};
  };
  // Errors: InvalidFile, naming the part.
  [[nodiscard]] static Result<std::unique_ptr<PackagePart>> open(Package& package, const std::string& part,
                                                                 Handler handler);
  // Reads on; false at the end.
  [[nodiscard]] Result<bool> readOn();
  [[nodiscard]] Status readAll();

 private:
  struct CloseFile {
    void operator()(zip_file_t* file) const { zip_fclose(file); }
  };
  struct FreeParser {
    void operator()(XML_Parser parser) const { XML_ParserFree(parser); }
  };
  static void XMLCALL onBegin(void* self, const char* name, const char** attributes);
  static void XMLCALL onEnd(void* self, const char* name);
  static void XMLCALL onText(void* self, const char* text, int size);

  std::string name_;
  Handler handler_;
  std::unique_ptr<zip_file_t, CloseFile> file_;
  std::unique_ptr<std::remove_pointer_t<XML_Parser>, FreeParser> parser_;
  std::uint64_t packed_ = 0;
  std::uint64_t unpacked_ = 0;
};

// A name without what stands before its colon: which vocabulary it is of is of no concern here, and Expat's looking it
// up for each name takes its time. Empty for what is no attribute but says which names are whose (xmlns:r).
[[nodiscard]] std::string_view localName(const char* name);
// The value of an attribute, whatever its namespace; null: it is not there.
[[nodiscard]] const char* attributeOf(const char** attributes, std::string_view name);

}  // namespace iterandum
