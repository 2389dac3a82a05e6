#include "core/changes/file_origin.h"

namespace iterandum {

void FileOrigins::note(std::uint32_t change, const LineOrigin& origin) {
  if (origin.file == 0) return;
  if (change >= origins_.size()) origins_.resize(change + std::size_t{1});
  origins_[change] = origin;
}

std::string FileOrigins::inWords(std::uint32_t change) const {
  const LineOrigin origin = of(change);
  return origin.file == 0 ? std::string() : iterandum::inWords(files[origin.file - 1], origin);
}

std::string inWords(const SourceFile& file, const LineOrigin& origin) {
  return file.lineWord + " " + std::to_string(origin.line) + " of " + file.name +
         (origin.alsoByHand ? ", and by hand" : "");
}

void writeFiles(ByteWriter& out, const std::vector<SourceFile>& files) {
  out.number(files.size());
  for (const SourceFile& file : files) {
    out.string(file.name);
    out.string(file.digest);
    out.string(file.lineWord);
  }
}

std::vector<SourceFile> readFiles(ByteReader& in) {
  std::vector<SourceFile> out;
  const std::size_t count = in.count();
  for (std::size_t i = 0; i < count && in.ok(); ++i) {
    SourceFile& file = out.emplace_back();
    file.name = in.string();
    file.digest = in.string();
    file.lineWord = in.string();
  }
  return out;
}

// The lines of a file mostly follow one another: each is kept as its distance from the one before.
void writeOrigins(ByteWriter& out, const std::vector<LineOrigin>& origins) {
  out.number(origins.size());
  std::int64_t before = 0;
  for (const LineOrigin& origin : origins) {
    out.number(std::uint64_t{origin.file} * 2 + (origin.alsoByHand ? 1 : 0));
    if (origin.file == 0) continue;
    out.signedNumber(std::int64_t{origin.line} - before);
    before = origin.line;
  }
}

std::optional<std::vector<LineOrigin>> readOrigins(ByteReader& in, std::size_t files) {
  std::vector<LineOrigin> out(in.count());
  std::int64_t before = 0;
  for (LineOrigin& origin : out) {
    const std::uint64_t which = in.number();
    if (which / 2 > files) return std::nullopt;
    origin.file = static_cast<std::uint32_t>(which / 2);
    origin.alsoByHand = which % 2 == 1;
    if (origin.file == 0) continue;
    // As in the writer, but what is damaged may not overflow.
    before =
        static_cast<std::int64_t>(static_cast<std::uint64_t>(before) + static_cast<std::uint64_t>(in.signedNumber()));
    if (before < 0 || before > UINT32_MAX) return std::nullopt;
    origin.line = static_cast<std::uint32_t>(before);
  }
  if (!in.ok()) return std::nullopt;
  return out;
}

}  // namespace iterandum
