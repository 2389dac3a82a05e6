// CommandPalette: every command with its shortcut, and every table, found by typing.
#pragma once

#include <QAction>
#include <QFrame>
#include <functional>
#include <vector>

class QLineEdit;
class QListWidget;

namespace iterandum {

class CommandPalette : public QFrame {
  Q_OBJECT
 public:
  struct Entry {
    QString text;
    QString aside;  // the shortcut, or what it is
    bool enabled = true;
    std::function<void()> run;
  };
  explicit CommandPalette(QWidget* parent);
  void open(std::vector<Entry> entries);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void narrow(const QString& text);
  void runCurrent();
  void leave();
  std::vector<Entry> entries_;
  std::vector<std::size_t> shown_;
  QLineEdit* line_;
  QListWidget* list_;
  QWidget* before_ = nullptr;
};

}  // namespace iterandum
