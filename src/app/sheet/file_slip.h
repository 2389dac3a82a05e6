// FileSlip: corrections from a file beside the sheet: what the file says differently, which of its lines cannot be
// staged and why, before anything is. One button stages it as one gesture.
#pragma once

#include <memory>
#include <vector>

#include "app/records/sheet_model.h"
#include "app/sheet/side_slip.h"
#include "core/files/outcome_report.h"

class QCheckBox;
class QPushButton;

namespace iterandum {

class TableFile;

class FileSlip : public SideSlip {
  Q_OBJECT
 public:
  explicit FileSlip(SheetModel& model, QWidget* parent = nullptr);
  // Reads the file behind the scenes.
  void open(const QString& path);
  // A table that came from elsewhere than a file, under a name of its own.
  void openText(const QString& name, const QString& text);
  void focusFirst();

 protected:
  void hideEvent(QHideEvent* event) override;

 private:
  // What the file says, as far as it could be read.
  struct Found {
    std::vector<std::string> sheets;
    std::string note;
    std::string encoding;           // of a text
    std::optional<char> delimiter;  // of a delimited one
    FileHeader header;
    bool isNamed = true;  // a line says which record is meant
    FileCorrections corrections;
    std::string lineWord;
    std::string digest;
    std::vector<std::string> shown;  // the first lines that fail, then the first changes
  };

  void build();
  void begin();
  void fillMatch();
  // The names of the file that no column has: what each stands for.
  void showHeadings(const FileHeader& header);
  [[nodiscard]] std::string headingsChoice() const;
  void look() override;
  void take(Result<Found>&& found);
  // How the file was read, as far as that can be chosen.
  void showForm(const Found& found);
  // Says which of its lines were applied before.
  void askReceipts();
  // Says what became of each line.
  void saveOutcome();
  // What a look at the file needs, by value: it goes on on another thread.
  struct Wish;
  [[nodiscard]] Wish wish() const;
  // Also: the file's digest.
  [[nodiscard]] static Result<std::pair<std::unique_ptr<TableFile>, std::string>> openFile(const Wish& wish);
  void finish() override;
  [[nodiscard]] CorrectionOptions options() const;

  SheetModel& model_;
  QLabel* subtitle_;
  QComboBox* sheet_;
  QComboBox* parted_;
  QComboBox* letters_;
  QComboBox* match_;
  QComboBox* blank_;
  QComboBox* decimal_;
  QComboBox* days_;
  QCheckBox* loose_;
  QCheckBox* through_;
  QCheckBox* add_;
  QCheckBox* remove_;
  QWidget* headings_;
  QLabel* words_;
  QListWidget* lines_;
  QPushButton* outcome_;
  QPushButton* stage_;
  std::vector<std::vector<std::string>> matches_;  // columns, by position in `match_`; none: the key
  QString path_;
  std::optional<QString> text_;  // instead of the file's content
  HeaderOptions meant_;
  std::shared_ptr<const Found> found_;
  AppliedLines applied_;  // of this file
  std::shared_ptr<Progress> reading_;
  std::uint64_t asked_ = 0;
};

}  // namespace iterandum
