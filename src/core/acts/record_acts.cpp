#include "core/acts/record_acts.h"

#include <algorithm>
#include <numeric>
#include <tuple>
#include <unordered_map>

#include "core/acts/text_replacement.h"
#include "core/catalogue/column_rules.h"
#include "core/scope/column_path.h"
#include "core/scope/period.h"
#include "core/value/calendar_text.h"

namespace iterandum {
namespace {

// What is typed for a value that lies there already: the column's rules do not bind it.
Value oldValue(const Column& column, const TypedOrNone& typed) {
  if (!typed) return {};
  auto value = typedValue(column, *typed);
  return value && !value->isNull() ? std::move(*value) : comparableForm(column, Value::text(*typed));
}

// What is typed; a day may be said in words, as in a cell: today, tomorrow, in 3 days.
Result<Value> typedOrDay(const Column& column, const std::string& text, std::chrono::sys_days today) {
  auto value = typedValue(column, text);
  const bool ofDays = column.type == TypeClass::Date || column.type == TypeClass::Timestamp;
  if (value || !ofDays) return value;
  const auto period = periodOf(text, today);
  const bool oneDay = period && period->to - period->from == std::chrono::days(1);
  return oneDay ? typedValue(column, isoDay(period->from)) : std::move(value);
}

std::string namedAct(const Act& act) {
  switch (act.kind) {
    case Act::Kind::To:
      return "--to " + act.column;
    case Act::Kind::Clear:
      return "--clear " + act.column;
    case Act::Kind::Compute:
      return "--compute " + act.column;
    case Act::Kind::Replace:
      return "--replace " + act.column;
    case Act::Kind::Swap:
      return "--swap " + act.column;
    case Act::Kind::Map:
      break;
  }
  return "--map " + act.column;
}

// A value of one column in another: as it is where both are of one type, else as if it were typed there.
Result<Value> moved(const Value& value, const Column& from, const Column& to) {
  const bool asItIs = value.isNull() || from.type == to.type;
  return asItIs ? storedForm(to, value) : typedValue(to, canonicalText(value));
}

}  // namespace

bool sameInColumn(const Column& column, const Value& a, const Value& b) {
  if (sameValue(a, b)) return true;
  // A server has one spelling of a moment; where anything may lie, another spelling is another value.
  if (column.type != TypeClass::Timestamp || column.storesOffType || !a.isString() || !b.isString()) return false;
  const auto one = calendarText(a.asString());
  const auto other = calendarText(b.asString());
  return one && other && one->form == other->form;
}

struct RecordActs::Bound {
  struct Hash {
    std::size_t operator()(const Value& v) const { return hashValue(v); }
  };
  struct Same {
    bool operator()(const Value& a, const Value& b) const { return sameValue(a, b); }
  };
  Act::Kind kind = Act::Kind::To;
  const Column* column = nullptr;
  std::size_t slot = 0;
  const Column* other = nullptr;  // Swap
  std::size_t otherSlot = 0;
  std::optional<Result<Value>> value;  // To, Clear: the same for all
  std::optional<Expression> expression;
  std::optional<TextReplacement> replacement;
  std::unordered_map<Value, TypedOrNone, Hash, Same> map;

  void on(ActedRecord& record, Computed& scratch) const {
    const auto failed = [&](const Column& at, Error error) {
      record.failure = std::move(error);
      record.failedColumn = at.name;
    };
    auto here = of(record, scratch);
    if (!here) return failed(*column, std::move(here.error()));
    if (kind == Act::Kind::Swap) {
      auto back = moved(record.values[slot], *column, *other);
      if (!back) return failed(*other, std::move(back.error()));
      record.values[otherSlot] = std::move(*back);
    }
    record.values[slot] = std::move(*here);
  }

  // What the record's column is to be.
  [[nodiscard]] Result<Value> of(const ActedRecord& record, Computed& scratch) const {
    const Value& now = record.values[slot];
    switch (kind) {
      case Act::Kind::To:
      case Act::Kind::Clear:
        return *value;
      case Act::Kind::Compute: {
        const KnownRecord known{record.values, record.facts, record.number};
        ITERANDUM_TRY(expression->of(known, scratch));
        return valueFor(*column, scratch);
      }
      case Act::Kind::Replace: {
        if (now.isNull()) return now;
        const bool isText = now.kind() == Value::Kind::Text;
        ITERANDUM_ASSIGN(const bool changed, isText ? replacement->in(now.asString(), scratch.text)
                                                    : replacement->in(canonicalText(now), scratch.text));
        return changed ? typedValue(*column, scratch.text) : Result<Value>(now);
      }
      case Act::Kind::Swap:
        return moved(record.values[otherSlot], *other, *column);
      case Act::Kind::Map:
        break;
    }
    const auto found = map.find(now);
    if (found == map.end()) return now;
    return found->second ? typedValue(*column, *found->second) : storedForm(*column, Value());
  }
};

Result<RecordActs> RecordActs::make(const Table& table, const std::vector<Act>& acts,
                                    const ExpressionContext& context) {
  RecordActs out;
  out.table_ = &table;
  if (const std::string& why = !table.notEditable.empty() ? table.notEditable : table.cannotEdit; !why.empty()) {
    return fail(ErrorKind::InvalidInput, displayName(table.name) + " cannot be edited: " + why);
  }
  if (acts.empty()) return fail(ErrorKind::InvalidInput, "nothing is to be done; say what the records are to become");
  for (const std::string& name : table.writeKeyColumns()) (void)out.needs_.column({{}, name});
  for (const Act& act : acts) ITERANDUM_TRY(out.bind(act, context));
  // A borrowed column that is needed by an act follows the reference as the acts before have left it.
  for (std::size_t slot = 0; slot < out.needs_.columns.size(); ++slot) {
    if (!out.needs_.columns[slot].isBorrowed()) continue;
    const auto join = out.needs_.columns[slot].steps.front().join;
    for (const auto& [here, there] : join) (void)out.needs_.column({{}, here});
    const bool touched = std::any_of(join.begin(), join.end(), [&](const auto& pair) {
      return std::any_of(out.columns_.begin(), out.columns_.end(),
                         [&](const Column* c) { return c->name == pair.first; });
    });
    if (touched) out.elsewhere_.push_back(slot);
  }
  return out;
}

// A column that is acted on, and its place among the needs.
Result<std::pair<const Column*, std::size_t>> RecordActs::bindColumn(const std::string& name) {
  const Column* column = columnCalled(*table_, name);
  if (column == nullptr) {
    const auto path = readColumnPath(*table_, name, nullptr);
    return fail(path ? Error(ErrorKind::InvalidInput, "'" + name + "' is no column of its own") : path.error());
  }
  if (!column->notEditable.empty()) {
    return fail(ErrorKind::InvalidInput, name + " cannot be edited: " + column->notEditable);
  }
  const std::size_t slot = needs_.column({{}, column->name});
  if (std::find(columns_.begin(), columns_.end(), column) == columns_.end()) {
    columns_.push_back(column);
    places_.push_back(slot);
  }
  return std::pair(column, slot);
}

Status RecordActs::bind(const Act& act, const ExpressionContext& context) {
  const auto placed = [&](Error error) {
    error.place = namedAct(act) + (error.place.empty() ? "" : ", " + error.place);
    return fail(std::move(error));
  };
  auto bound = std::make_shared<Bound>();
  bound->kind = act.kind;
  auto column = bindColumn(act.column);
  if (!column) return placed(column.error());
  std::tie(bound->column, bound->slot) = *column;
  switch (act.kind) {
    case Act::Kind::To:
      bound->value = typedOrDay(*bound->column, act.text, context.conditions.today);
      break;
    case Act::Kind::Clear:
      bound->value = storedForm(*bound->column, Value());
      break;
    case Act::Kind::Compute: {
      auto expression = Expression::parse(*table_, act.text, context, needs_);
      if (!expression) return placed(expression.error());
      bound->expression = std::move(*expression);
      break;
    }
    case Act::Kind::Replace: {
      if (bound->column->type == TypeClass::Bytes) return placed({ErrorKind::InvalidInput, "there are no texts in it"});
      auto replacement = TextReplacement::make(act);
      if (!replacement) return placed(replacement.error());
      bound->replacement = std::move(*replacement);
      break;
    }
    case Act::Kind::Swap: {
      auto other = bindColumn(act.with);
      if (!other) return placed(other.error());
      std::tie(bound->other, bound->otherSlot) = *other;
      if (bound->other != bound->column) break;
      return placed({ErrorKind::InvalidInput, "a column is exchanged with another one, not with itself"});
    }
    case Act::Kind::Map:
      for (const auto& [from, to] : act.map) {
        if (bound->map.emplace(oldValue(*bound->column, from), to).second) continue;
        return placed({ErrorKind::InvalidFile, "the list has " + (from ? "'" + *from + "'" : std::string("no value")) +
                                                   " as an old value twice"});
      }
      break;
  }
  acts_.push_back(std::move(bound));
  return {};
}

Status RecordActs::run(std::span<ActedRecord> records, Session* session, Progress& progress) const {
  const std::size_t keyWidth = table_->writeKeyColumns().size();
  for (ActedRecord& record : records) {
    record.key.assign(record.values.begin(), record.values.begin() + static_cast<std::ptrdiff_t>(keyWidth));
    record.before.clear();
    for (const std::size_t slot : places_) record.before.push_back(record.values[slot]);
  }
  // The keys by which each of these columns was reached when it was looked up.
  std::vector<std::vector<ValueTuple>> cameBy(elsewhere_.size());
  const auto noteKeys = [&] {
    for (std::size_t e = 0; e < elsewhere_.size(); ++e) {
      cameBy[e].clear();
      for (const ActedRecord& record : records) cameBy[e].push_back(keyOver(record, needs_.columns[elsewhere_[e]]));
    }
  };
  noteKeys();
  for (std::size_t a = 0; a < acts_.size(); ++a) {
    for (std::size_t e = 0; a > 0 && e < elsewhere_.size(); ++e) {
      std::vector<ValueTuple> keys;
      for (const ActedRecord& record : records) keys.push_back(keyOver(record, needs_.columns[elsewhere_[e]]));
      for (std::size_t r = 0; r < keys.size(); ++r) {
        if (sameTuple(keys[r], cameBy[e][r])) keys[r].clear();
      }
      ITERANDUM_TRY(lookUp(records, elsewhere_[e], std::move(keys), *session, progress));
    }
    if (a > 0) noteKeys();
    const Bound& act = *acts_[a];
    Computed scratch;
    for (ActedRecord& record : records) {
      if (!record.failed()) act.on(record, scratch);
    }
  }
  return session != nullptr ? respell(records, *session, progress) : Status();
}

bool RecordActs::asksTheDatabase() const {
  return !elsewhere_.empty() ||
         std::any_of(columns_.begin(), columns_.end(), [](const Column* c) { return c->respelled; });
}

// What is new gets the spelling that the database gives it, so that what is the same is seen to be.
Status RecordActs::respell(std::span<ActedRecord> records, Session& session, Progress& progress) const {
  for (std::size_t c = 0; c < columns_.size(); ++c) {
    if (!columns_[c]->respelled) continue;
    std::vector<ActedRecord*> changed;
    ValueColumn values;
    for (ActedRecord& record : records) {
      if (record.failed() || !differs(record, c)) continue;
      changed.push_back(&record);
      values.push(record.values[places_[c]]);
    }
    if (changed.empty()) continue;
    ValueColumn* const all[] = {&values};
    ITERANDUM_TRY(session.respell(*columns_[c], all, progress));
    for (std::size_t i = 0; i < changed.size(); ++i) changed[i]->values[places_[c]] = values.at(i);
  }
  return {};
}

ValueTuple RecordActs::keyOver(const ActedRecord& record, const ColumnPath& path) const {
  ValueTuple key;
  for (const auto& [here, there] : path.steps.front().join) {
    const auto at = std::find(needs_.columns.begin(), needs_.columns.end(), ColumnPath{{}, here});
    if (at != needs_.columns.end()) key.push_back(record.values[static_cast<std::size_t>(at - needs_.columns.begin())]);
  }
  return key;
}

Status RecordActs::lookUpBorrowed(std::span<ActedRecord> records, Session& session, Progress& progress) const {
  for (std::size_t slot = 0; slot < needs_.columns.size(); ++slot) {
    if (!needs_.columns[slot].isBorrowed()) continue;
    std::vector<ValueTuple> keys;
    for (const ActedRecord& record : records) keys.push_back(keyOver(record, needs_.columns[slot]));
    ITERANDUM_TRY(lookUp(records, slot, std::move(keys), session, progress));
  }
  return {};
}

namespace {

// What the records hold in `columns` that these keys lead to, in their order; no values where they lead nowhere. Each
// is asked for once.
Result<std::vector<ValueTuple>> overThere(Session& session, const ReferenceStep& step, std::vector<std::string> columns,
                                          const std::vector<ValueTuple>& keys, Progress& progress) {
  std::unordered_map<ValueTuple, std::size_t, TupleHash, TupleSame> askedAt;
  std::vector<ValueColumn> asked(step.join.size());
  std::vector<std::size_t> rowOf(keys.size(), SIZE_MAX);
  for (std::size_t i = 0; i < keys.size(); ++i) {
    if (keys[i].size() != asked.size() || holdsNull(keys[i])) continue;
    const auto [at, isNew] = askedAt.try_emplace(keys[i], askedAt.size());
    for (std::size_t c = 0; isNew && c < asked.size(); ++c) asked[c].push(keys[i][c]);
    rowOf[i] = at->second;
  }
  const ValueTuple nothing(columns.size());
  std::vector<ValueTuple> found(askedAt.size(), nothing);
  if (!askedAt.empty()) {
    std::vector<std::uint32_t> rows(askedAt.size());
    std::iota(rows.begin(), rows.end(), 0U);
    KeyRead read;
    read.table = step.target;
    for (const auto& [here, there] : step.join) read.keyColumns.push_back(there);
    read.keys = &asked;
    read.rows = rows;
    read.columns = std::move(columns);
    read.mostPerKey = 1;
    read.exact = false;
    ITERANDUM_TRY(session.readByKeys(
        read, [&](std::size_t row, ValueTuple&& values) { found[row] = std::move(values); }, progress));
  }
  std::vector<ValueTuple> out;
  out.reserve(keys.size());
  for (const std::size_t row : rowOf) out.push_back(row == SIZE_MAX ? nothing : found[row]);
  return out;
}

}  // namespace

// `keys`: by which the record over there is found; empty where the column is to stay as it is.
Status RecordActs::lookUp(std::span<ActedRecord> records, std::size_t slot, std::vector<ValueTuple> keys,
                          Session& session, Progress& progress) const {
  const ColumnPath& path = needs_.columns[slot];
  std::vector<std::size_t> which;
  std::vector<ValueTuple> at;
  for (std::size_t r = 0; r < records.size(); ++r) {
    if (keys[r].empty()) continue;
    which.push_back(r);
    at.push_back(std::move(keys[r]));
  }
  if (which.empty()) return {};
  for (std::size_t s = 0; s < path.steps.size(); ++s) {
    std::vector<std::string> columns{path.column};
    if (s + 1 < path.steps.size()) {
      columns.clear();
      for (const auto& [here, there] : path.steps[s + 1].join) columns.push_back(here);
    }
    ITERANDUM_ASSIGN(at, overThere(session, path.steps[s], std::move(columns), at, progress));
  }
  for (std::size_t i = 0; i < which.size(); ++i) records[which[i]].values[slot] = std::move(at[i].front());
  return {};
}

bool RecordActs::differs(const ActedRecord& record, std::size_t column) const {
  return !sameInColumn(*columns_[column], record.before[column], record.values[places_[column]]);
}

}  // namespace iterandum
