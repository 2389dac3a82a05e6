// CardFind: the field of the card that takes a key, another unique value, or a part of what a record is called, and
// says what Enter will do: show the record that is there, or add one with that key. Lives on the interface thread.
#pragma once

#include <QWidget>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "app/records/sheet_model.h"

class QFrame;
class QLabel;
class QLineEdit;
class QListWidget;
class QTimer;

namespace iterandum {

class CardFind : public QWidget {
  Q_OBJECT
 public:
  explicit CardFind(SheetModel& model, QWidget* parent = nullptr);
  // Ready for the next key.
  void focusLine();

 signals:
  void found(const ValueTuple& key);
  void foundNew(std::uint64_t addedId);
  void newAsked(const std::string& column, const Value& value);
  void left();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  struct Offer {
    QString text;
    std::function<void()> run;
  };
  void ask();
  void takeFound(std::vector<ValueTuple>&& rows, bool exact);
  void show(std::vector<Offer> offers, const QString& words);
  void take();
  void fold();
  // The column that a new record gets what was typed in, as its key or its name. Nothing: none takes it.
  [[nodiscard]] std::optional<std::pair<std::string, Value>> newBy(const QString& text) const;
  [[nodiscard]] std::vector<Offer> stagedOnes(const QString& text) const;

  SheetModel& model_;
  QLineEdit* line_;
  QFrame* popup_;
  QListWidget* list_;
  QLabel* words_;
  QTimer* soon_;
  std::vector<Offer> offers_;
  std::shared_ptr<Progress> asking_;
  std::uint64_t asked_ = 0;
  bool waiting_ = false;       // what is offered is for another text
  bool takeWhenHere_ = false;  // Enter was pressed before it was known what there is
};

}  // namespace iterandum
