// FileSlip: corrections from a file beside the sheet: what the file says differently, which of its lines cannot be
// staged and why, before anything is. One button stages it as one gesture.
#pragma once

#include <QWidget>
#include <memory>
#include <vector>

#include "app/records/sheet_model.h"
#include "core/files/file_corrections.h"

class QCheckBox;
class QComboBox;
class QGridLayout;
class QLabel;
class QListWidget;
class QPushButton;

namespace iterandum {

class FileSlip : public QWidget {
  Q_OBJECT
 public:
  explicit FileSlip(SheetModel& model, QWidget* parent = nullptr);
  // Reads the file behind the scenes.
  void open(const QString& path);
  void focusFirst();

 signals:
  void leaveAsked();
  void told(const QString& message);

 protected:
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  // What the file says, as far as it could be read.
  struct Found {
    std::vector<std::string> sheets;
    std::string note;
    std::vector<std::string> leftAlone;
    FileCorrections corrections;
    std::string lineWord;
    std::vector<std::string> shown;  // the first lines that fail, then the first changes
  };

  void build();
  QComboBox* addChoice(QGridLayout* grid, const QString& label, const char* name, const QStringList& choices);
  void fillMatch();
  void showSheets(bool shown);
  void look();
  void take(Result<Found>&& found);
  void stage();
  [[nodiscard]] CorrectionOptions options() const;
  void say(const QString& words, bool amiss);

  SheetModel& model_;
  QLabel* subtitle_;
  QComboBox* sheet_;
  QComboBox* match_;
  QComboBox* blank_;
  QComboBox* decimal_;
  QComboBox* days_;
  QCheckBox* add_;
  QLabel* words_;
  QListWidget* lines_;
  QPushButton* stage_;
  std::vector<std::vector<std::string>> matches_;  // columns, by position in `match_`; none: the key
  QString path_;
  std::optional<FileCorrections> corrections_;
  std::shared_ptr<Progress> reading_;
  std::uint64_t asked_ = 0;
};

}  // namespace iterandum
