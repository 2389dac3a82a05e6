// ActSlip: a slip beside the sheet on which many records are changed at once: what is meant, the act, and the proof of
// it, live while one types. One button stages it as one gesture. What is on it can be kept as a recipe.
#pragma once

#include <QWidget>
#include <memory>
#include <vector>

#include "app/grid/sheet_view.h"
#include "app/records/act_preview.h"
#include "app/records/name_lookup.h"
#include "app/sheet/act_proof.h"
#include "core/acts/recipe.h"

class QCheckBox;
class QComboBox;
class QGridLayout;
class QLabel;
class QLineEdit;
class QPlainTextEdit;
class QPushButton;
class QRadioButton;
class QTimer;

namespace iterandum {

class ActSlip : public QWidget {
  Q_OBJECT
 public:
  ActSlip(SheetView& view, SheetModel& model, QWidget* parent = nullptr);

  // For what is selected, else for all that the sheet shows; about the current column.
  void open();
  // The same, to replace in texts.
  void openForReplacing();
  // With a list that makes these spellings that one, in all that the sheet shows.
  void openForSpellings(int column, const std::vector<Value>& others, const Value& right);
  // With what a recipe says.
  void openRecipe(const QString& name);

 signals:
  void leaveAsked();
  void told(const QString& message);

 protected:
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  enum class Kind { To, Empty, Clear, Compute, Reckon, Replace, Map, Tidy, Other, Swap, Recipe };

  void build();
  QWidget* buildButtons();
  void addRow(const QString& label, QWidget* field, std::initializer_list<Kind> kinds);
  void fillColumns();
  void fillKinds();
  void fillOthers();
  void buildReckoning();
  void showWhatBy();
  void listFromFile();
  void setWhat();
  void showFields();
  void showQuestions();
  [[nodiscard]] Kind kind() const;
  [[nodiscard]] const Recipe* recipe() const;
  [[nodiscard]] std::vector<RowRange> meant() const;
  void goToStage();
  void askSoon();
  void ask();
  void askWith(const std::vector<Act>& acts, const ExpressionContext& context);
  // What the fields say. Nothing: something is missing yet. Errors: what is off, in words.
  [[nodiscard]] Status throughLens(int column, TypedOrNone& text) const;
  [[nodiscard]] Result<std::optional<Act>> act() const;
  [[nodiscard]] static Result<Act> readList(Act act, const QString& text);
  [[nodiscard]] Result<std::optional<Act>> reckoned(Act act) const;
  void lookUpNames(Act act);
  void say(const QString& words, bool amiss = false);
  void update();
  void stage();
  void keepRecipe();

  SheetView& view_;
  SheetModel& model_;
  ActPreview* preview_;
  NameLookup* names_;
  QLabel* subtitle_;
  QRadioButton* selected_;
  QRadioButton* all_;
  QGridLayout* fields_;
  struct Row {
    QWidget* label;
    QWidget* field;
    std::vector<Kind> kinds;
  };
  std::vector<Row> rows_;
  QComboBox* column_;
  QComboBox* kind_;
  QLineEdit* value_;
  QPlainTextEdit* expression_;
  QLineEdit* find_;
  QLineEdit* with_;
  QComboBox* where_;
  QCheckBox* exact_;
  QPlainTextEdit* list_;
  QComboBox* tidy_;
  QComboBox* other_;
  QComboBox* swapped_;
  QComboBox* reckoning_;
  QLineEdit* by_;
  QPushButton* fromFile_;
  std::vector<std::pair<std::string, QLineEdit*>> questions_;
  QLabel* hint_;
  QLabel* counts_;
  ActProof* proof_;
  QPushButton* stage_;
  QPushButton* keep_;
  QWidget* naming_;
  QLineEdit* recipeName_;
  QTimer* soon_;
  std::vector<RowRange> ranges_;  // that were selected when it was opened
  std::vector<Act> acts_;         // that are tried
  QString title_;
  std::uint64_t asked_ = 0;
  bool toStage_ = false;  // the button gets the keys as soon as there is something to stage
};

}  // namespace iterandum
