#include "core/files/outcome_report.h"

#include "core/value/text_forms.h"

namespace iterandum {
namespace {

// What a line holds, as wide as the header.
ValueTuple lineValues(const FileLine& line, std::size_t width) {
  ValueTuple out;
  for (std::size_t i = 0; i < width; ++i) {
    const bool none = i >= line.cells.size() || line.cells[i].kind == FileCell::Kind::None ||
                      line.cells[i].kind == FileCell::Kind::Absent;
    if (none) {
      out.emplace_back();
    } else {
      const FileCell& cell = line.cells[i];
      out.push_back(cell.kind == FileCell::Kind::Exact ? cell.value : Value::text(cell.text));
    }
  }
  return out;
}

}  // namespace

std::string outcomeInWords(const LineOutcome& outcome, const AppliedLine* applied, const char* lineWord,
                           const MomentWords& moment) {
  using Kind = LineOutcome::Kind;
  if (applied == nullptr) return inWords(outcome, lineWord);
  if (applied->wasSo) return "was so already " + moment(applied->at);
  std::string done = "applied " + moment(applied->at);
  switch (outcome.kind) {
    case Kind::AlreadySo:
      return done;
    case Kind::Changes:
      return done + "; differs again: " + outcome.words.text();
    case Kind::New:
    case Kind::NoRecord:
      return done + "; no record is named by it now";
    default:
      return done + "; now it " + (outcome.kind == Kind::Refused ? "is refused: " : "fails: ") +
             inWords(outcome, lineWord);
  }
}

Status writeOutcomes(const OutcomeReport& report, TableSource& source, const std::string& format,
                     const RecordWriter::Sink& sink) {
  RecordForm form;
  for (const std::string& name : report.header.names) form.columns.emplace_back().name = name;
  form.columns.emplace_back().name = "outcome";
  const auto writer = makeRecordWriter(format, std::move(form), sink);
  ITERANDUM_TRY(writer->begin());
  FileLine line;
  while (true) {
    ITERANDUM_ASSIGN(const bool more, source.next(line));
    if (!more) break;
    if (line.isBlank()) continue;
    ValueTuple record = lineValues(line, report.header.names.size());
    const LineOutcome outcome = report.corrections.lines.of(line.number);
    const auto applied = report.applied.find(outcome.line);
    record.push_back(Value::text(outcomeInWords(outcome, applied == report.applied.end() ? nullptr : &applied->second,
                                                source.lineWord(), report.moment)));
    ITERANDUM_TRY(writer->record(record));
  }
  return writer->end();
}

std::string reportFormat(std::string_view path) {
  return path.ends_with(".xlsx") || path.ends_with(".XLSX") ? "xlsx" : "csv";
}

}  // namespace iterandum
