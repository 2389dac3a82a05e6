// ReturnSlip: working copies that have come back, beside the sheet: what people changed in them, where two disagree,
// which rows cannot be brought back and why; one button stages it as one gesture.
#pragma once

#include <QStringList>
#include <memory>
#include <optional>
#include <vector>

#include "app/session/desk.h"
#include "app/sheet/side_slip.h"
#include "core/files/returned_copy.h"

class QPushButton;

namespace iterandum {

class ReturnSlip : public SideSlip {
  Q_OBJECT
 public:
  explicit ReturnSlip(Desk& desk, QWidget* parent = nullptr);
  // Reads the files behind the scenes.
  void open(const QStringList& paths);
  void focusFirst();

 protected:
  void hideEvent(QHideEvent* event) override;

 private:
  void finish() override;
  // Brings together what was read, as it is chosen.
  void look() override;
  void take(Result<std::vector<ReturnedCopy>>&& copies);
  [[nodiscard]] QString words(const BroughtTogether& together) const;

  Desk& desk_;
  QLabel* subtitle_;
  QComboBox* word_;  // whose counts where they disagree
  QLabel* words_;
  QListWidget* lines_;
  QPushButton* stage_;
  std::shared_ptr<const Catalogue> catalogue_;  // the copies speak of its tables
  std::vector<ReturnedCopy> copies_;
  std::optional<BroughtTogether> together_;
  std::shared_ptr<Progress> reading_;
  std::uint64_t asked_ = 0;
};

}  // namespace iterandum
