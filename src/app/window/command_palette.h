// CommandPalette: every command with its shortcut, every table and every saved scope, found by typing; and the place
// where anything else is chosen from a list or given a name.
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
  // Chooses one of the entries; `prompt` says what for.
  void open(std::vector<Entry> entries, const QString& prompt = {});
  // Asks for a text; the entries are only shown, as what there is already.
  void ask(const QString& prompt, const QString& start, std::vector<Entry> entries,
           std::function<void(const QString&)> done);
  // The same where no text at all is an answer too.
  void askOrNone(const QString& prompt, const QString& start, std::function<void(const QString&)> done);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void narrow(const QString& text);
  void runCurrent();
  void leave();
  std::vector<Entry> entries_;
  std::vector<std::size_t> shown_;
  std::function<void(const QString&)> asked_;  // set while a text is asked for
  bool noneIsAnswer_ = false;
  QLineEdit* line_;
  QListWidget* list_;
  QWidget* before_ = nullptr;
};

}  // namespace iterandum
