#include "core/engines/probe.h"

#include <algorithm>
#include <functional>
#include <numeric>
#include <optional>

namespace iterandum {
namespace {

using Answer = Probed::Answer;

constexpr std::chrono::milliseconds kPatience{1000};
constexpr std::chrono::milliseconds kUsual{5000};

// What stands in the table, by its columns.
const std::vector<std::string> kColumns{"id", "label", "note", "amount", "day"};
// A text with what is lost on the way in some: blanks at the end, quotes, a backslash, letters beyond 16 bits.
constexpr const char* kText = "it's \"\\\" \xE2\x82\xAC \xF0\x9F\x8C\xB3 end  ";

// What was seen where something else was wanted; nothing: it holds.
using Seen = Result<std::optional<std::string>>;
std::optional<std::string> holds() { return std::nullopt; }

class Probe {
 public:
  Probe(const std::string& address, const ProbeOptions& options, Progress& progress)
      : address_(address), options_(options), progress_(progress) {}

  Result<std::vector<Probed>> run() {
    ITERANDUM_ASSIGN(mine_, openSession(address_, options_.open, progress_));
    ITERANDUM_ASSIGN(other_, openSession(address_, options_.open, progress_));
    byReading();
    std::string why;
    if (options_.byReadingAlone) {
      why = "it was asked for by reading alone";
    } else if (!mine_->info().readOnly.empty()) {
      why = "nothing can be written: " + mine_->info().readOnly;
    } else if (Status made = makeTable(); !made) {
      why = "no table of its own could be made: " + made.error().text();
    }
    byWriting(why);
    if (why.empty()) dropTable();
    if (progress_.cancelled()) return fail(ErrorKind::Cancelled, "it was stopped");
    return std::move(out_);
  }

 private:
  void answer(const char* what, const char* then, const Seen& seen) {
    Probed out{what, Answer::Holds, {}, {}};
    if (!seen || *seen) {
      out.answer = Answer::DoesNot;
      out.detail = seen ? **seen : seen.error().text();
      out.then = then;
    }
    out_.push_back(std::move(out));
  }

  void byReading() {
    answer("what it holds can be read", "Tables cannot be shown or corrected.", [&]() -> Seen {
      ITERANDUM_ASSIGN(const Catalogue catalogue, mine_->readCatalogue(progress_));
      const auto& tables = catalogue.tables();
      const auto unusable =
          std::count_if(tables.begin(), tables.end(), [](const Table& t) { return !t.unusable.empty(); });
      if (unusable > 0) return std::optional(std::to_string(unusable) + " of its tables cannot be read");
      return holds();
    }());
    Probed writable{"it can be written", Answer::Holds, {}, {}};
    if (!mine_->info().readOnly.empty()) {
      writable = {writable.what, Answer::DoesNot, mine_->info().readOnly, "Records can be looked at, not corrected."};
    }
    out_.push_back(std::move(writable));
  }

  [[nodiscard]] TableName name() const { return {{}, options_.table}; }

  Status makeTable() {
    const std::string sql = "CREATE TABLE " + options_.table +
                            " (id INTEGER NOT NULL PRIMARY KEY, label VARCHAR(40) UNIQUE, note VARCHAR(80), amount "
                            "DECIMAL(12,2), day DATE)";
    ITERANDUM_TRY(mine_->runForProbe(sql, progress_));
    ITERANDUM_ASSIGN(catalogue_, mine_->readCatalogue(progress_));
    table_ = catalogue_.find(name());
    if (table_ == nullptr) return fail(ErrorKind::NotFound, "the table that was made is not seen");
    return {};
  }

  void dropTable() {
    mine_->rollback();
    other_->rollback();
    Progress unstopped;
    const Status dropped = mine_->runForProbe("DROP TABLE " + options_.table, unstopped);
    if (!dropped) {
      out_.push_back({"the probe's own table is gone again", Answer::DoesNot, dropped.error().text(),
                      "Drop " + options_.table + " by hand."});
    }
  }

  void byWriting(const std::string& why) {
    struct Trial {
      const char* what;
      const char* then;
      Seen (Probe::*run)();
    };
    const Trial trials[] = {
        {"what is rolled back is gone", "Reviewing is not safe here: leave corrections to another program.",
         &Probe::rolledBack},
        {"what is committed is there for others", "Others may not see at once what was applied.", &Probe::committed},
        {"others do not see what is not committed", "Others may see records that are only rehearsed.",
         &Probe::notSeenBefore},
        {"a record that is locked stays as it is until the end",
         "Somebody else's change between looking and writing may be lost: apply while nobody else works.",
         &Probe::lockHeld},
        {"what others changed before the lock is seen",
         "Somebody else's change may be taken for what was there before: apply while nobody else works.",
         &Probe::changeSeen},
        {"a refused record leaves the others of its statement alone",
         "A review may name one finding where there are several.", &Probe::oneRefused},
        {"writing what is there already counts as written", "Corrections that are so already may look refused.",
         &Probe::sameCounted},
        {"texts, numbers and days come back as they were written",
         "Corrections may be refused afterwards: what was written is not what is there.", &Probe::sameBack},
        {"a record is found by its key and by no other", "Records whose keys are alike may be taken for one another.",
         &Probe::exactKey},
        {"what code of the database writes besides can be told",
         "The review shows what references take along, not what triggers do elsewhere.", &Probe::writesTold},
    };
    for (const Trial& trial : trials) {
      if (progress_.cancelled()) return;
      if (!why.empty()) {
        out_.push_back({trial.what, Answer::NotTried, why, trial.then});
        continue;
      }
      mine_->rollback();
      other_->rollback();
      Seen seen = empty();
      if (seen) seen = (this->*trial.run)();
      answer(trial.what, trial.then, seen);
    }
  }

  // --- the table: records 1 and 2 ---
  Seen empty() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    std::vector<Value> keys;
    ITERANDUM_TRY(each(*mine_, [&](ValueTuple&& row) { keys.push_back(row[0]); }));
    for (const Value& key : keys) ITERANDUM_TRY(remove(*mine_, key));
    ITERANDUM_TRY(insert(*mine_, 1, Value::text("one")));
    ITERANDUM_TRY(insert(*mine_, 2, Value::text("two")));
    ITERANDUM_TRY(mine_->commit(progress_));
    return holds();
  }

  Status each(Session& session, const std::function<void(ValueTuple&&)>& take) {
    Query query;
    query.table = table_;
    query.columns = kColumns;
    query.order = {{"id"}};
    return session.select(
        query,
        [&](ValueTuple&& row) {
          take(std::move(row));
          return true;
        },
        progress_);
  }
  // "1 one, 2 two"
  Result<std::string> held(Session& session) {
    std::string out;
    ITERANDUM_TRY(each(session, [&](ValueTuple&& row) {
      out += (out.empty() ? "" : ", ") + canonicalText(row[0]) + " " + (row[2].isNull() ? "-" : canonicalText(row[2]));
    }));
    return out;
  }

  // One record; the first thing that is refused.
  Status write(Session& session, WriteStep step, const std::vector<ValueColumn>& values,
               const std::vector<ValueColumn>& keys) {
    step.table = table_;
    for (const ValueColumn& column : values) step.values.push_back(&column);
    for (const ValueColumn& column : keys) step.keys.push_back(&column);
    const std::size_t rows = values.empty() ? keys.front().size() : values.front().size();
    std::vector<std::uint32_t> all(rows);
    std::iota(all.begin(), all.end(), 0U);
    step.rows = all;
    Status out;
    WriteReport report;
    report.failed = [&](std::size_t row, const Error& error) {
      refused_.push_back(row);
      if (out) out = fail(error);
    };
    refused_.clear();
    ITERANDUM_TRY(session.write(step, report, progress_));
    return out;
  }
  static std::vector<ValueColumn> columnsOf(const std::vector<ValueTuple>& rows) {
    std::vector<ValueColumn> out(rows.front().size());
    for (const ValueTuple& row : rows) {
      for (std::size_t c = 0; c < row.size(); ++c) out[c].push(row[c]);
    }
    return out;
  }
  Status insert(Session& session, std::int64_t id, Value note, Value label = {}) {
    WriteStep step;
    step.kind = WriteStep::Kind::Insert;
    step.columns = {"id", "label", "note"};
    return write(session, step, columnsOf({{Value::integer(id), std::move(label), std::move(note)}}), {});
  }
  Status update(Session& session, std::int64_t id, const Value& note) {
    WriteStep step;
    step.keyColumns = {"id"};
    step.columns = {"note"};
    return write(session, step, columnsOf({{note}}), columnsOf({{Value::integer(id)}}));
  }
  Status remove(Session& session, const Value& id) {
    WriteStep step;
    step.kind = WriteStep::Kind::Remove;
    step.keyColumns = {"id"};
    return write(session, step, {}, columnsOf({{id}}));
  }
  // The note of a record, held until the transaction ends.
  Result<std::string> locked(Session& session, std::int64_t id) {
    const std::vector<ValueColumn> keys = columnsOf({{Value::integer(id)}});
    const std::vector<std::uint32_t> rows{0};
    KeyRead read{table_, {"id"}, &keys, rows, {"note"}, 2, true};
    std::string out = "gone";
    ITERANDUM_TRY(session.readByKeys(
        read, [&](std::size_t, ValueTuple&& record) { out = canonicalText(record[0]); }, progress_));
    return out;
  }

  static std::optional<std::string> unless(const std::string& wanted, const std::string& seen) {
    if (wanted == seen) return std::nullopt;
    return "'" + seen + "' was seen where '" + wanted + "' was to be";
  }

  // --- the trials ---
  Seen rolledBack() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    ITERANDUM_TRY(update(*mine_, 1, Value::text("changed")));
    ITERANDUM_TRY(insert(*mine_, 3, Value::text("three")));
    mine_->rollback();
    ITERANDUM_ASSIGN(const std::string seen, held(*other_));
    return unless("1 one, 2 two", seen);
  }

  Seen committed() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    ITERANDUM_TRY(update(*mine_, 1, Value::text("changed")));
    ITERANDUM_TRY(mine_->commit(progress_));
    ITERANDUM_ASSIGN(const std::string seen, held(*other_));
    return unless("1 changed, 2 two", seen);
  }

  Seen notSeenBefore() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    ITERANDUM_TRY(update(*mine_, 1, Value::text("changed")));
    const auto seen = held(*other_);
    mine_->rollback();
    // One that waits, or is sent away, sees nothing either.
    if (!seen) return seen.error().kind == ErrorKind::LockTimeout ? Seen(holds()) : Seen(fail(seen.error()));
    return unless("1 one, 2 two", *seen);
  }

  Seen lockHeld() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    ITERANDUM_TRY(locked(*mine_, 1));
    Status theirs = other_->begin(kPatience, progress_);
    if (theirs) theirs = update(*other_, 1, Value::text("theirs"));
    if (theirs) theirs = other_->commit(progress_);
    other_->rollback();
    mine_->rollback();
    if (theirs) return std::optional(std::string("somebody else changed a record that was locked"));
    const ErrorKind kind = theirs.error().kind;
    if (kind == ErrorKind::LockTimeout || kind == ErrorKind::TryAgain) return holds();
    return fail(theirs.error());
  }

  Seen changeSeen() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    Status theirs = other_->begin(kPatience, progress_);
    if (theirs) theirs = update(*other_, 1, Value::text("theirs"));
    if (theirs) theirs = other_->commit(progress_);
    other_->rollback();
    // Where nobody else can write meanwhile there is nothing to be seen.
    if (!theirs) return theirs.error().kind == ErrorKind::LockTimeout ? Seen(holds()) : Seen(fail(theirs.error()));
    const auto seen = locked(*mine_, 1);
    mine_->rollback();
    if (!seen) return seen.error().kind == ErrorKind::TryAgain ? Seen(holds()) : Seen(fail(seen.error()));
    return unless("theirs", *seen);
  }

  Seen oneRefused() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    ITERANDUM_TRY(insert(*mine_, 3, Value::text("three"), Value::text("taken")));
    WriteStep step;
    step.kind = WriteStep::Kind::Insert;
    step.columns = {"id", "label", "note"};
    const Status all = write(*mine_, step,
                             columnsOf({{Value::integer(4), Value::text("free"), Value::text("four")},
                                        {Value::integer(5), Value::text("taken"), Value::text("five")},
                                        {Value::integer(6), Value::text("free too"), Value::text("six")}}),
                             {});
    ITERANDUM_ASSIGN(const std::string seen, held(*mine_));
    mine_->rollback();
    if (all) return std::optional(std::string("a unique value was taken twice"));
    if (refused_ != std::vector<std::size_t>{1}) return std::optional(all.error().text());
    return unless("1 one, 2 two, 3 three, 4 four, 6 six", seen);
  }

  Seen sameCounted() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    const Status same = update(*mine_, 1, Value::text("one"));
    mine_->rollback();
    if (!same) return std::optional(same.error().text());
    return holds();
  }

  Seen sameBack() {
    const ValueTuple written{Value::integer(7), Value::null(), Value::text(kText), Value::decimal("1234567890.05"),
                             Value::ofString(Value::Kind::Date, "2024-02-29")};
    WriteStep step;
    step.kind = WriteStep::Kind::Insert;
    step.columns = kColumns;
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    ITERANDUM_TRY(write(*mine_, step, columnsOf({written}), {}));
    ITERANDUM_TRY(mine_->commit(progress_));
    std::optional<std::string> out = "it is not there";
    ITERANDUM_TRY(each(*other_, [&](ValueTuple&& row) {
      if (canonicalText(row[0]) != "7") return;
      out = std::nullopt;
      for (std::size_t c = 2; c < row.size() && !out; ++c) {
        if (row[c].isNull() || canonicalText(row[c]) != canonicalText(written[c]))
          out = unless(canonicalText(written[c]), row[c].isNull() ? "no value" : canonicalText(row[c]));
      }
    }));
    return out;
  }

  Seen exactKey() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    ITERANDUM_TRY(insert(*mine_, 8, Value::text("eight"), Value::text("Key")));
    ITERANDUM_TRY(mine_->commit(progress_));
    std::string found;
    for (const char* asked : {"Key", "KEY", "Key "}) {
      const std::vector<ValueColumn> keys = columnsOf({{Value::text(asked)}});
      const std::vector<std::uint32_t> rows{0};
      const KeyRead read{table_, {"label"}, &keys, rows, {"id"}};
      ITERANDUM_TRY(other_->readByKeys(
          read, [&](std::size_t, ValueTuple&&) { found += std::string("'") + asked + "'"; }, progress_));
    }
    return unless("'Key'", found);
  }

  Seen writesTold() {
    ITERANDUM_TRY(mine_->begin(kUsual, progress_));
    ITERANDUM_TRY(mine_->noteWrites(catalogue_, true, progress_));
    ITERANDUM_TRY(update(*mine_, 1, Value::text("changed")));
    const auto told = mine_->writesSoFar(catalogue_, 10, progress_);
    mine_->rollback();
    if (!told) return fail(told.error());
    if (!*told) return std::optional(std::string("the server does not say it"));
    return holds();
  }

  const std::string& address_;
  const ProbeOptions& options_;
  Progress& progress_;
  std::unique_ptr<Session> mine_;
  std::unique_ptr<Session> other_;
  Catalogue catalogue_;
  const Table* table_ = nullptr;
  std::vector<std::size_t> refused_;
  std::vector<Probed> out_;
};

}  // namespace

Result<std::vector<Probed>> probeDatabase(const std::string& address, const ProbeOptions& options, Progress& progress) {
  return Probe(address, options, progress).run();
}

const char* answerInWords(Probed::Answer answer) {
  switch (answer) {
    case Answer::Holds:
      return "holds";
    case Answer::DoesNot:
      return "does not hold";
    case Answer::NotTried:
      break;
  }
  return "not tried";
}

}  // namespace iterandum
