// SideSlip: what the slips beside the sheet have in common: fields under one another, each with its label, words below
// them, a list, and one button that ends the work; Ctrl+Enter is that button, Esc leaves.
#pragma once

#include <QStringList>
#include <QWidget>

class QCheckBox;
class QComboBox;
class QGridLayout;
class QLabel;
class QListWidget;
class QVBoxLayout;

namespace iterandum {

class SideSlip : public QWidget {
  Q_OBJECT
 public:
  explicit SideSlip(QWidget* parent = nullptr) : QWidget(parent) {}

 signals:
  void leaveAsked();
  void told(const QString& message);

 protected:
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

  // What the button does.
  virtual void finish() = 0;
  // Something was chosen.
  virtual void look() = 0;

  // Where what the slip shows goes, which is scrolled where there is not room for all of it; the button stays below.
  [[nodiscard]] QVBoxLayout* addScrolled(QVBoxLayout* layout);
  // The fields' place; labels left, fields right.
  [[nodiscard]] static QGridLayout* newFields();
  void addField(QGridLayout* grid, const QString& label, QWidget* field);
  QComboBox* addChoice(QGridLayout* grid, const QString& label, const char* name, const QStringList& choices);
  QCheckBox* addBox(QVBoxLayout* layout, const QString& words, const char* name);
  // Hides a field with its label.
  void showField(QWidget* field, bool shown);
  [[nodiscard]] QLabel* newWords(const char* name);
  [[nodiscard]] QListWidget* newList(const char* name, const QString& called);
  // In the ink of what is amiss where it is.
  static void say(QLabel* words, const QString& text, bool amiss);
  // A line of a list; `fails`: with the mark of what needs a look, and said to be.
  void addLine(QListWidget* list, const QString& text, bool fails);
};

}  // namespace iterandum
