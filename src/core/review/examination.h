// Examination: a change set held against the database as it is now, by reading alone.
//
// It resolves names, brings values into the form the database holds them in, reads the touched records by key, compares
// them with what was seen when the change was staged, and follows unique keys and references, seeing the change set's
// own records as they will be. All problems are found, none hides another. What it learns (the records before, which
// cells are still to be written, what must happen before what) is what the plan and the write work from.
//
// Inside a transaction that holds off other writers, what it found stays true until the end of that transaction.
#pragma once

#include <cstdint>
#include <vector>

#include "core/changes/change_list.h"
#include "core/engines/session.h"
#include "core/review/facts.h"
#include "core/review/verdicts.h"

namespace iterandum {

enum class OnConflict { Stop, Mine, Theirs };

struct ExaminationOptions {
  OnConflict onConflict = OnConflict::Stop;
  bool wholeRecords = true;  // read touched records whole, as receipts need them
  bool checkRules = false;   // evaluate CHECK rules by reading, for when nothing is rehearsed
};

// What a note says about such a value.
[[nodiscard]] std::string strangeDate(const Column& column, const Value& value);

class Examination {
 public:
  // The session and the catalogue outlive the examination.
  Examination(Session& session, const Catalogue& catalogue, ExaminationOptions options, Progress& progress)
      : session_(session),
        catalogue_(catalogue),
        options_(options),
        progress_(progress),
        facts_(catalogue),
        verdicts_(facts_) {}
  Examination(const Examination&) = delete;
  Examination& operator=(const Examination&) = delete;
  ~Examination() = default;

  // Errors: InvalidFile for a change set that contradicts itself; what the session reports.
  [[nodiscard]] Status run(ChangeList changes);

  [[nodiscard]] const Facts& facts() const { return facts_; }
  // What tries the writes goes on with them.
  [[nodiscard]] Verdicts& verdicts() { return verdicts_; }
  [[nodiscard]] const Verdicts& verdicts() const { return verdicts_; }
  [[nodiscard]] const ReviewCounts& counts() const { return counts_; }

 private:
  void count();
  void resolve(ExaminedBlock& block, std::uint32_t index);
  void resolveColumns(ExaminedBlock& block, std::uint32_t index);
  void resolveValues(ExaminedBlock& block, std::uint32_t index);
  // Brings texts into the spelling in which the database keeps them.
  [[nodiscard]] Status respell(ExaminedBlock& block);
  // A label whose addition gives the value itself stands for that value from the beginning.
  void resolveLabels();
  void checkAdditionComplete(ExaminedBlock& block, std::uint32_t index);
  [[nodiscard]] std::vector<std::string> neededColumns(const ExaminedBlock& block) const;
  [[nodiscard]] Status readBefore(std::uint32_t index);
  void judgeFound(std::uint32_t index, const std::vector<std::uint8_t>& hits);
  [[nodiscard]] Result<bool> mergeDoubles(ChangeList& changes);
  void compare(std::uint32_t index);
  void compareCell(std::uint32_t index, std::size_t cell, std::size_t row);
  [[nodiscard]] Status checkRules(std::uint32_t index);
  void noteNotAtomic();

  Session& session_;
  const Catalogue& catalogue_;
  ExaminationOptions options_;
  Progress& progress_;
  Facts facts_;
  Verdicts verdicts_;
  ReviewCounts counts_;
};

}  // namespace iterandum
