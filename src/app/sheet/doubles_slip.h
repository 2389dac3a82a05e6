// DoublesSlip: which of the records that the sheet shows are alike in chosen columns, as groups to look through; one of
// each stays. One button stages what becomes of the others, as one gesture.
#pragma once

#include <map>
#include <memory>
#include <set>

#include "app/grid/sheet_view.h"
#include "app/records/staged_layer.h"
#include "app/sheet/side_slip.h"
#include "core/acts/doubles.h"

class QCheckBox;
class QListWidgetItem;
class QPushButton;
class QTimer;

namespace iterandum {

class DoublesSlip : public SideSlip {
  Q_OBJECT
 public:
  // No more groups than these are listed; all are meant.
  static constexpr std::size_t kMostListed = 300;

  DoublesSlip(SheetView& view, SheetModel& model, QWidget* parent = nullptr);
  // Alike in the columns that are selected, to begin with. Empty: it is open; else why nothing can be looked for.
  [[nodiscard]] QString open();
  void focusFirst();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  void build();
  void offerColumns();
  void look() override;
  void ask(std::shared_ptr<const StagedOver> staged);
  void take(Result<FoundDoubles>&& found);
  // What is said and listed of what was found, as it is decided.
  void show();
  void list();
  void listGroup(std::size_t group);
  void listRecord(std::size_t group, std::size_t record);
  void choose(const QListWidgetItem* item);
  void leaveOut(const QListWidgetItem* item);
  void finish() override;
  // Records that would be there twice are to go, or not: that is somebody's to say.
  void askTwice(const MergePlan& plan);
  void done(const QString& title);
  // The button does that then.
  void offerToLookAgain(const QString& why);
  [[nodiscard]] bool merges() const;
  [[nodiscard]] std::size_t staying(std::size_t group) const;
  [[nodiscard]] DoublesDecision decision() const;
  [[nodiscard]] std::uint64_t goingCount() const;
  [[nodiscard]] QString valueShown(std::size_t column, const Value& value) const;
  [[nodiscard]] QString recordShown(const DoubleRecord& record) const;

  SheetView& view_;
  SheetModel& model_;
  QListWidget* columns_;
  QComboBox* compared_;
  QComboBox* keep_;
  QComboBox* others_;
  QLabel* words_;
  QListWidget* groups_;
  QCheckBox* twice_;
  QPushButton* stage_;
  StagedLayer* staged_;
  QTimer* soon_;
  DoublesQuestion question_;
  std::optional<FoundDoubles> found_;
  std::map<std::size_t, std::size_t> chosen_;  // by group: which stays, where somebody said so
  std::set<std::size_t> leftOut_;              // groups that are left alone
  std::shared_ptr<Progress> reading_;
  std::uint64_t asked_ = 0;
};

}  // namespace iterandum
