#include "core/files/package.h"

#include <array>

namespace iterandum {
namespace {

constexpr std::uint64_t kAlwaysFine = 64U << 20U;
constexpr std::uint64_t kMostTimes = 400;

}  // namespace

Result<std::unique_ptr<Package>> Package::open(std::string_view content) {
  // The container in which spreadsheets with a password, and those of the 1990s, lie.
  if (content.starts_with("\xD0\xCF\x11\xE0")) {
    return fail(
        ErrorKind::InvalidFile,
        "this spreadsheet is protected by a password or of an old form (XLS); save it as XLSX or ODS without one");
  }
  zip_error_t error;
  zip_error_init(&error);
  zip_source_t* source = zip_source_buffer_create(content.data(), content.size(), 0, &error);
  zip_t* zip = source != nullptr ? zip_open_from_source(source, ZIP_RDONLY, &error) : nullptr;
  if (zip == nullptr) {
    const std::string why = zip_error_strerror(&error);
    zip_error_fini(&error);
    if (source != nullptr) zip_source_free(source);
    return fail(ErrorKind::InvalidFile, "this is no spreadsheet, or a part of it is missing (" + why + ")");
  }
  zip_error_fini(&error);
  auto out = std::make_unique<Package>();
  out->zip_.reset(zip);
  return out;
}

bool Package::has(const std::string& part) const { return zip_name_locate(zip_.get(), part.c_str(), 0) >= 0; }

Result<std::unique_ptr<PackagePart>> PackagePart::open(Package& package, const std::string& part, Handler handler) {
  auto out = std::make_unique<PackagePart>();
  out->name_ = part;
  out->handler_ = std::move(handler);
  zip_stat_t stat;
  zip_stat_init(&stat);
  if (zip_stat(package.zip_.get(), part.c_str(), 0, &stat) != 0) {
    return fail(ErrorKind::InvalidFile, "this is no such spreadsheet: " + part + " is missing in it");
  }
  if ((stat.valid & ZIP_STAT_ENCRYPTION_METHOD) != 0 && stat.encryption_method != ZIP_EM_NONE) {
    return fail(ErrorKind::InvalidFile, "this spreadsheet is protected by a password; save it without one");
  }
  out->packed_ = (stat.valid & ZIP_STAT_COMP_SIZE) != 0 ? stat.comp_size : 0;
  out->file_.reset(zip_fopen(package.zip_.get(), part.c_str(), 0));
  if (!out->file_) {
    return fail(ErrorKind::InvalidFile, part + " in it cannot be read: " + zip_strerror(package.zip_.get()));
  }
  out->parser_.reset(XML_ParserCreate(nullptr));
  XML_SetUserData(out->parser_.get(), out.get());
  XML_SetElementHandler(out->parser_.get(), &onBegin, &onEnd);
  XML_SetCharacterDataHandler(out->parser_.get(), &onText);
  return out;
}

void PackagePart::onBegin(void* self, const char* name, const char** attributes) {
  static_cast<PackagePart*>(self)->handler_.begin(localName(name), attributes);
}

void PackagePart::onEnd(void* self, const char* name) {
  static_cast<PackagePart*>(self)->handler_.end(localName(name));
}

void PackagePart::onText(void* self, const char* text, int size) {
  static_cast<PackagePart*>(self)->handler_.text({text, static_cast<std::size_t>(size)});
}

Result<bool> PackagePart::readOn() {
  std::array<char, 1U << 16U> buffer{};
  const zip_int64_t got = zip_fread(file_.get(), buffer.data(), buffer.size());
  if (got < 0) return fail(ErrorKind::InvalidFile, name_ + " in it is damaged");
  unpacked_ += static_cast<std::uint64_t>(got);
  if (unpacked_ > kAlwaysFine && unpacked_ / kMostTimes > packed_) {
    return fail(ErrorKind::InvalidFile, name_ + " in it unpacks to more than " + std::to_string(kMostTimes) +
                                            " times what it is; that is no list that somebody wrote");
  }
  const bool last = got == 0;
  if (XML_Parse(parser_.get(), buffer.data(), static_cast<int>(got), last ? 1 : 0) == XML_STATUS_OK) return !last;
  return fail(ErrorKind::InvalidFile,
              name_ + " in it cannot be read: " + XML_ErrorString(XML_GetErrorCode(parser_.get())) + ", line " +
                  std::to_string(XML_GetCurrentLineNumber(parser_.get())) + " there");
}

Status PackagePart::readAll() {
  while (true) {
    ITERANDUM_ASSIGN(const bool more, readOn());
    if (!more) return {};
  }
}

std::string_view localName(const char* name) {
  const char* from = name;
  const char* end = name;
  for (; *end != '\0'; ++end) {
    if (*end == ':') from = end + 1;
  }
  if (from != name && std::string_view(name, from) == "xmlns:") return {};
  return {from, end};
}

const char* attributeOf(const char** attributes, std::string_view name) {
  for (; *attributes != nullptr; attributes += 2) {
    if (localName(attributes[0]) == name) return attributes[1];
  }
  return nullptr;
}

}  // namespace iterandum
