// PrintSlip: beside the pages, how they are to be: what lies on them, under which words, in which groups. What is
// chosen can be kept under a name. PrintPreview: the first pages, as they will come out.
#pragma once

#include <QScrollArea>
#include <memory>
#include <vector>

#include "app/records/sheet_model.h"
#include "app/sheet/side_slip.h"
#include "pages/print_records.h"

class QCheckBox;
class QLineEdit;
class QPushButton;
class QVBoxLayout;

namespace iterandum {

class PrintPreview : public QScrollArea {
  Q_OBJECT
 public:
  explicit PrintPreview(QWidget* parent = nullptr);
  void clear();
  void add(QImage page);
  // Behind the last one. `more`: there are more pages than these.
  void end(bool more);

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  void fit();
  void fit(QLabel& label, const QImage& page) const;
  QVBoxLayout* pages_;
  std::vector<QImage> images_;
};

class PrintSlip : public SideSlip {
  Q_OBJECT
 public:
  PrintSlip(SheetModel& model, PrintPreview& preview, QWidget* parent = nullptr);
  void open(ReadScope scope);
  void focusFirst();
  [[nodiscard]] PrintForm form() const;
  // What is to be printed of the sheet, with names and lenses as the window has them.
  [[nodiscard]] PrintedRecords records() const;
  // Under the name that is given, if one is.
  void keepForm();

 signals:
  // A file is to be chosen, and the pages written to it.
  void fileAsked();
  // To a printer.
  void printerAsked();

 protected:
  void hideEvent(QHideEvent* event) override;

 private:
  void build();
  void finish() override;
  void look() override;
  void showForm(const PrintForm& form);
  void fillKept();
  [[nodiscard]] std::vector<PrintForm> kept() const;
  [[nodiscard]] std::string keptChoice() const;

  SheetModel& model_;
  PrintPreview& preview_;
  ReadScope scope_;
  bool filling_ = false;
  QLabel* subtitle_;
  QComboBox* kept_;
  QComboBox* kind_;
  QLineEdit* title_;
  QComboBox* group_;
  QComboBox* turned_;
  QComboBox* points_;
  QComboBox* across_;
  QComboBox* down_;
  QCheckBox* cardAPage_;
  QCheckBox* stored_;
  QLineEdit* name_;
  QLabel* words_;
  QPushButton* write_;
  QPushButton* printer_;
  std::vector<std::string> groups_;  // by position in `group_`
  std::shared_ptr<Progress> reading_;
  std::uint64_t asked_ = 0;
};

}  // namespace iterandum
