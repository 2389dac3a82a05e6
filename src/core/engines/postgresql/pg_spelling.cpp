// Values in PostgreSQL's own spelling: the server reads them as values of the column's type and writes them again.
#include <algorithm>
#include <map>

#include "core/engines/postgresql/pg_session.h"
#include "core/engines/postgresql/pg_types.h"

namespace iterandum {
namespace {

// A list of values that the server cannot read at all is not worth a question for each: writing says the same.
constexpr int kMostTrials = 100;

// hh:mm:ss with a fraction that ends in no nought: so the server writes it itself.
bool isPlainTime(std::string_view text) {
  if (text.size() > 8) {
    const std::string_view fraction = text.substr(8);
    if (fraction.size() < 2 || fraction.size() > 7 || fraction[0] != '.' || fraction.back() == '0') return false;
    if (fraction.find_first_not_of("0123456789", 1) != std::string_view::npos) return false;
    text = text.substr(0, 8);
  }
  return isPgLike(text, "00:00:00") && text.substr(0, 2) < "24" && text.substr(6) < "60";
}

// Whether the text is surely in the server's spelling already, or none of a value, so that it need not be asked.
bool isPlain(const Column& column, std::string_view text) {
  const bool calendar =
      column.type == TypeClass::Date || column.type == TypeClass::Time || column.type == TypeClass::Timestamp;
  // The server also takes words for a time that are another one tomorrow ("today"): those are no spelling of a value.
  if (calendar && text.find_first_of("0123456789") == std::string_view::npos) return true;
  if (column.type == TypeClass::Date) return isPgLike(text, kPgDay);
  if (column.engineType == "time without time zone") return isPlainTime(text);
  if (column.engineType == "uuid") return isPgLike(text, kPgUuid);
  if (column.type != TypeClass::Timestamp || text.size() < 19 || text[10] != ' ') return false;
  const bool zoned = column.engineType == "timestamp with time zone";
  if (zoned && !text.ends_with("+00")) return false;
  return isPgLike(text.substr(0, 10), kPgDay) && isPlainTime(text.substr(11, text.size() - 11 - (zoned ? 3 : 0)));
}

}  // namespace

Status PgSession::respell(const Column& column, std::span<ValueColumn* const> columns, Progress& progress) {
  const auto isAsked = [&](const Value& v) { return v.kind() == Value::Kind::Text && !isPlain(column, v.asString()); };
  // Each spelling is asked for once, however many records have it.
  std::map<std::string, std::size_t, std::less<>> positions;
  std::vector<std::string> texts;
  for (const ValueColumn* values : columns) {
    for (std::size_t r = 0; r < values->size(); ++r) {
      const Value value = values->at(r);
      if (!isAsked(value)) continue;
      if (positions.try_emplace(std::string(value.asString()), texts.size()).second)
        texts.emplace_back(value.asString());
    }
  }
  int trials = kMostTrials;
  for (std::size_t at = 0; at < texts.size();) {
    std::size_t size = 0;
    std::size_t bytes = 0;
    while (at + size < texts.size() && size < kPgMostRows && bytes < kPgMostBytes) bytes += texts[at + size++].size();
    ITERANDUM_TRY(respellPart(column, std::span(texts).subspan(at, size), trials, progress));
    at += size;
  }
  for (ValueColumn* values : columns) {
    for (std::size_t r = 0; r < values->size() && !texts.empty(); ++r) {
      const Value value = values->at(r);
      if (!isAsked(value)) continue;
      const std::string& spelled = texts[positions.find(value.asString())->second];
      if (spelled != value.asString()) values->set(r, Value::text(spelled));
    }
  }
  return {};
}

Status PgSession::respellPart(const Column& column, std::span<std::string> texts, int& trials, Progress& progress) {
  if (texts.empty() || trials <= 0) return {};
  PgArray array;
  for (const std::string& text : texts) array.add(text);
  // Not cast to text again: of an address with its mask that would be another spelling.
  const PgHandle::Command question{pgHardened("SELECT v::" + column.engineType +
                                              " FROM unnest($1::text[]) WITH ORDINALITY AS u(v, ord) ORDER BY ord"),
                                   {array.take()}};
  std::vector<PgHandle::Command> commands{question};
  const bool inside = inTransaction();
  if (inside) commands = {{"SAVEPOINT iterandum_spelling", {}}, question, {"RELEASE iterandum_spelling", {}}};
  auto results = handle_->pipeline(commands, progress);
  if (results) {
    const PgResult& spelled = (*results)[inside ? 1 : 0];
    for (int r = 0; r < spelled.rows() && static_cast<std::size_t>(r) < texts.size(); ++r) {
      if (!spelled.isNull(r, 0)) texts[static_cast<std::size_t>(r)] = spelled.string(r, 0);
    }
    return {};
  }
  const ErrorKind kind = results.error().kind;
  if (kind != ErrorKind::Constraint && kind != ErrorKind::Refused) return fail(std::move(results.error()));
  --trials;
  if (inside) {
    ITERANDUM_TRY(handle_->run("ROLLBACK TO iterandum_spelling; RELEASE iterandum_spelling", progress));
  }
  if (texts.size() == 1) return {};
  const std::size_t half = texts.size() / 2;
  ITERANDUM_TRY(respellPart(column, texts.first(half), trials, progress));
  return respellPart(column, texts.subspan(half), trials, progress);
}

}  // namespace iterandum
