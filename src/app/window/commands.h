// Commands: everything that can be done in the window, each once: what it is called, its keys, whether it can be done
// now. Keys, palette and menus all take them from here, so that each says the same everywhere. Lives on the interface
// thread.
#pragma once

#include <QKeySequence>
#include <QObject>
#include <QString>
#include <functional>
#include <initializer_list>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "app/style/marks.h"
#include "app/window/command_palette.h"

class QAction;
class QMenu;
class QWidget;

namespace iterandum {

// The shortcuts of a command, as they are written.
[[nodiscard]] inline QList<QKeySequence> keys(const QString& first, const QString& second = {}) {
  QList<QKeySequence> out{QKeySequence(first)};
  if (!second.isEmpty()) out << QKeySequence(second);
  return out;
}

class Commands : public QObject {
 public:
  // Their keys are at work in this window.
  explicit Commands(QWidget& window);

  // What is added from now on stands under this heading in the menu of everything.
  void under(const QString& heading) { heading_ = heading; }
  // Asked before each command with its words; false: it is not done now, and somebody says why. Commands that are added
  // as always() are not asked about.
  void setGuard(std::function<bool(const QString& text)> guard) { guard_ = std::move(guard); }
  void always(const std::string& id) { byId_.at(id)->guarded = false; }
  // `id` is how menus name it; `enabled`: whether it can be done now, left out: always.
  void add(const char* id, const QString& text, const QList<QKeySequence>& keys, std::function<void()> run,
           std::function<bool()> enabled = {});
  // The same for what some widget's own keys do: they are only told.
  void addTold(const char* id, const QString& text, const QString& keys, std::function<void()> run,
               std::function<bool()> enabled = {});

  // The keys as people read them; empty: none. REQUIRES: there is such a command, as for all that take an id.
  [[nodiscard]] QString keys(const std::string& id) const;
  [[nodiscard]] QString text(const std::string& id) const;
  // Does it, if it can be done now.
  void run(const std::string& id) const;
  [[nodiscard]] std::vector<CommandPalette::Entry> paletteEntries() const;
  // The proof-reader's mark before its line in menus.
  void setMark(const std::string& id, Mark mark);
  // Lines of a menu in this order; "" is a rule between groups.
  void fill(QMenu& menu, std::initializer_list<const char*> ids) const;
  // The same one step down, under a heading.
  void fillBelow(QMenu& menu, const QString& heading, std::initializer_list<const char*> ids) const;
  // All there are, below their headings.
  void fillWithAll(QMenu& menu) const;

 private:
  struct Command {
    std::string id;
    QString heading;
    QString text;
    QString keys;
    std::function<void()> run;
    std::function<bool()> enabled;
    Mark mark = Mark::None;
    bool guarded = true;
    [[nodiscard]] bool can() const { return !enabled || enabled(); }
  };
  [[nodiscard]] const Command& at(const std::string& id) const;
  Command& remember(const char* id, const QString& text, std::function<void()>&& run, std::function<bool()>&& enabled);
  void addTo(QMenu& menu, const Command& command) const;
  void run(const Command& command) const;

  QWidget& window_;
  QString heading_;
  std::function<bool(const QString& text)> guard_;
  std::vector<std::unique_ptr<Command>> commands_;  // in the order of the palette
  std::map<std::string, Command*> byId_;
};

}  // namespace iterandum
