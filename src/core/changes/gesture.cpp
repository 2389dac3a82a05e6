#include "core/changes/gesture.h"

#include <algorithm>

#include "core/value/codec.h"

namespace iterandum {
namespace {

constexpr std::uint64_t kPackedVersion = 2;  // 1 knew nothing of files; what comes from none is still written so

void writeNames(ByteWriter& out, const std::vector<std::string>& names) {
  out.number(names.size());
  for (const std::string& n : names) out.string(n);
}

void writeColumns(ByteWriter& out, const std::vector<ValueColumn>& columns) {
  out.number(columns.size());
  for (const ValueColumn& c : columns) out.column(c);
}

void readNames(ByteReader& in, std::vector<std::string>& names) {
  const std::size_t count = in.count();
  for (std::size_t i = 0; i < count && in.ok(); ++i) names.emplace_back(in.string());
}

void readColumns(ByteReader& in, std::vector<ValueColumn>& columns) {
  const std::size_t count = in.count();
  for (std::size_t i = 0; i < count && in.ok(); ++i) columns.push_back(in.column());
}

bool fits(const GesturePart& part) {
  using Kind = GesturePart::Kind;
  const std::size_t rows = part.rows();
  const auto allFit = [&](const std::vector<ValueColumn>& columns) {
    return std::all_of(columns.begin(), columns.end(), [&](const ValueColumn& c) { return c.size() == rows; });
  };
  const bool added = part.kind == Kind::Add || part.kind == Kind::EditAdded || part.kind == Kind::DropAdded;
  if (!added && (part.keys.empty() || part.keys.size() != part.keyColumns.size() || !allFit(part.keys))) return false;
  if (!part.origins.empty() && part.origins.size() != rows) return false;
  if ((part.kind == Kind::Edit || part.kind == Kind::KeepMine) && part.from.size() != rows) return false;
  if ((part.kind == Kind::Edit || part.kind == Kind::EditAdded) && part.to.size() != rows) return false;
  return part.kind != Kind::Remove || (part.records.size() == part.recordColumns.size() && allFit(part.records));
}

}  // namespace

std::string packGesture(const Gesture& gesture) {
  ByteWriter out;
  const bool ofFiles = !gesture.files.empty();
  out.number(ofFiles ? kPackedVersion : 1);
  out.string(gesture.title);
  if (ofFiles) writeFiles(out, gesture.files);
  out.number(gesture.parts.size());
  for (const GesturePart& part : gesture.parts) {
    out.number(static_cast<std::uint64_t>(part.kind));
    out.string(part.table.schema);
    out.string(part.table.name);
    writeNames(out, part.keyColumns);
    writeColumns(out, part.keys);
    out.string(part.column);
    out.column(part.from);
    out.column(part.to);
    writeNames(out, part.recordColumns);
    writeColumns(out, part.records);
    out.number(part.addedIds.size());
    for (const std::uint64_t id : part.addedIds) out.number(id);
    if (ofFiles) writeOrigins(out, part.origins);
  }
  return out.take();
}

Result<Gesture> unpackGesture(std::string_view bytes) {
  ByteReader in(bytes);
  Gesture gesture;
  const std::uint64_t version = in.number();
  if (version < 1 || version > kPackedVersion)
    return fail(ErrorKind::InvalidFile, "staged work was written by another version of this program");
  gesture.title = in.string();
  if (version >= 2) gesture.files = readFiles(in);
  const std::size_t parts = in.count();
  for (std::size_t i = 0; i < parts && in.ok(); ++i) {
    GesturePart part;
    part.kind = static_cast<GesturePart::Kind>(std::min<std::uint64_t>(in.number(), 7));
    part.table.schema = in.string();
    part.table.name = in.string();
    readNames(in, part.keyColumns);
    readColumns(in, part.keys);
    part.column = in.string();
    part.from = in.column();
    part.to = in.column();
    readNames(in, part.recordColumns);
    readColumns(in, part.records);
    const std::size_t ids = in.count();
    for (std::size_t k = 0; k < ids && in.ok(); ++k) part.addedIds.push_back(in.number());
    if (version >= 2) {
      auto origins = readOrigins(in, gesture.files.size());
      if (!origins) break;
      part.origins = std::move(*origins);
    }
    if (!in.ok() || !fits(part)) break;
    gesture.parts.push_back(std::move(part));
  }
  if (!in.ok() || gesture.parts.size() != parts)
    return fail(ErrorKind::InvalidFile, "a piece of staged work is damaged");
  return gesture;
}

}  // namespace iterandum
