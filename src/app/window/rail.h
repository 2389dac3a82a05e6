// Rail: the dark strip at the foot that always says what is staged, and leads on.
#pragma once

#include <QWidget>
#include <optional>

#include "app/style/elided_label.h"
#include "app/style/giving_way.h"
#include "core/changes/change_set.h"

class QLabel;
class QPushButton;

namespace iterandum {

// What the rail shows; a plain value, so that it can be computed and tested apart from the widget.
struct RailState {
  StagedCounts counts;
  std::uint64_t needLook = 0;
  QString last;  // the gesture that Undo takes back
  bool canUndo = false;
  bool onReview = false;
  bool busy = false;
  bool ready = false;
  QString reviewState;
  std::optional<std::uint64_t> partRecords;  // of a part that is reviewed by itself
  QString readOnly;
  QString markName;  // what the database is called; empty: nothing
  QString markColour;
};

class Rail : public QWidget {
  Q_OBJECT
 public:
  explicit Rail(QWidget* parent = nullptr);
  void show(const RailState& state);

 signals:
  void undoAsked();
  void putAllBackAsked();
  void reviewAsked();
  void rehearseAsked();
  void saveAsked();
  void applyAsked();
  void stopAsked();

 private:
  GivingWay* room_;
  QLabel* mark_;
  QLabel* counts_;
  ElidedLabel* last_;
  QPushButton* undo_;
  QPushButton* rehearse_;
  QPushButton* stop_;
  QPushButton* putBack_;
  QPushButton* save_;
  QPushButton* review_;
  QPushButton* apply_;
};

}  // namespace iterandum
