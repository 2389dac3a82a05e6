// ActPreview: what acts make of many records of a sheet, found out behind the scenes before anything is staged: how
// many differ, are so already, or cannot be so and why, with befores and afters to look at; then staged as one gesture.
// It goes by the records that the sheet has positions for, never by a condition that might find others, with what is
// staged laid over them. One question at a time; a new one takes the place of the one before. Lives on the interface
// thread.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <vector>

#include "app/records/many_records.h"
#include "app/records/staged_layer.h"
#include "core/acts/act_run.h"

class QTimer;

namespace iterandum {

class ActPreview : public QObject {
  Q_OBJECT
 public:
  // One record as it is shown: what a column holds and would hold, or why it cannot.
  struct Line {
    ValueTuple key;
    ValueTuple name;         // by which it is called
    std::size_t column = 0;  // of the acts' columns
    Value before;
    Value after;
    std::string failure;  // empty: it can be so
  };
  struct Found {
    ActCounts counts;
    std::uint64_t gone = 0;   // are no longer in the database
    std::vector<Line> lines;  // the first that change
    std::vector<Line> failures;
  };

  explicit ActPreview(SheetModel& model, QObject* parent = nullptr);
  ~ActPreview() override;
  ActPreview(const ActPreview&) = delete;
  ActPreview& operator=(const ActPreview&) = delete;

  // Finds out; changed() tells how far it is. Positions of new records are passed over.
  void ask(const RecordActs& acts, const std::vector<RowRange>& ranges);
  void stop();
  [[nodiscard]] bool isAsked() const { return acts_.has_value(); }
  // Another number for each question.
  [[nodiscard]] std::uint64_t question() const { return asked_; }
  // All is known.
  [[nodiscard]] bool complete() const { return complete_; }
  [[nodiscard]] const Found& found() const { return found_; }
  // How many records the question is about, new ones left out.
  [[nodiscard]] std::uint64_t total() const;
  // New records among those that were named, which are passed over.
  [[nodiscard]] std::uint64_t passedOver() const { return passedOver_; }
  // Why it could not be found out; empty: it could.
  [[nodiscard]] const QString& problem() const { return problem_; }
  // The columns that are acted on.
  [[nodiscard]] const std::vector<const Column*>& columns() const { return acts_->columns(); }

  // Stages all that differ as one gesture. REQUIRES: complete().
  void stage(const QString& title);

 signals:
  void changed();

 private:
  struct Shared;
  struct Ask;
  struct Parts;
  static Result<std::shared_ptr<Parts>> findOut(Session& session, const Ask& ask, Progress& progress);
  static Status look(Session& session, const Ask& ask, std::span<const int> rows, std::span<const KeySet> facts,
                     Parts& parts, Progress& progress);
  static void tell(const Ask& ask, std::span<ActedRecord> records, Parts& parts);
  static void takeOver(const Found& from, Found& into);
  void begin(std::shared_ptr<const StagedOver> staged);
  void takeProgress();

  SheetModel& model_;
  std::optional<RecordActs> acts_;
  std::vector<RowRange> ranges_;
  std::shared_ptr<Shared> shared_;
  std::shared_ptr<Parts> parts_;
  std::shared_ptr<Progress> reading_;
  std::uint64_t asked_ = 0;
  Found found_;
  QString problem_;
  bool complete_ = false;
  std::uint64_t passedOver_ = 0;
  StagedLayer* staged_;
  QTimer* looks_;
};

}  // namespace iterandum
