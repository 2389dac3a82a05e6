// ActProof: befores and afters of an act as a proof: the old struck through, the new beside it, refusals with the
// query mark and the reason.
#pragma once

#include <QListWidget>

#include "app/records/act_preview.h"

namespace iterandum {

class ActProof : public QListWidget {
  Q_OBJECT
 public:
  ActProof(SheetModel& model, QWidget* parent);
  // `namesCame`: what is shown already may read otherwise now; else lines that are there stay.
  void show(const ActPreview& preview, bool namesCame = false);
  // Nothing is shown.
  void empty() {
    clear();
    named_ = 0;
    question_ = 0;
  }
  // The line as it is read out: "QH-1: condition 2 → 3".
  [[nodiscard]] QString line(int row) const { return item(row)->text(); }

 private:
  [[nodiscard]] QString shown(const Column& column, const Value& value) const;
  // What references lead to is shown by name.
  void wantNames(const ActPreview& preview);

  SheetModel& model_;
  std::uint64_t question_ = 0;  // that the lines are an answer to
  std::size_t named_ = 0;       // lines whose names were asked for
};

}  // namespace iterandum
