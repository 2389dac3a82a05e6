#include "app/window/commands.h"

#include <QAction>
#include <QMenu>
#include <QWidget>

namespace iterandum {

Commands::Commands(QWidget& window) : QObject(&window), window_(window) {}

Commands::Command& Commands::remember(const char* id, const QString& text, std::function<void()>&& run,
                                      std::function<bool()>&& enabled) {
  commands_.push_back(
      std::make_unique<Command>(Command{id, heading_, text, {}, std::move(run), std::move(enabled), Mark::None, true}));
  Command& command = *commands_.back();
  const bool isNew = byId_.emplace(command.id, &command).second;
  Q_ASSERT_X(isNew, "Commands", id);
  return command;
}

void Commands::add(const char* id, const QString& text, const QList<QKeySequence>& keys, std::function<void()> run,
                   std::function<bool()> enabled) {
  Command& command = remember(id, text, std::move(run), std::move(enabled));
  if (!keys.isEmpty()) command.keys = keys.front().toString(QKeySequence::NativeText);
  auto* action = new QAction(text, &window_);
  action->setShortcuts(keys);
  action->setShortcutContext(Qt::WindowShortcut);
  connect(action, &QAction::triggered, this, [this, &command] { this->run(command); });
  window_.addAction(action);
}

void Commands::addTold(const char* id, const QString& text, const QString& keys, std::function<void()> run,
                       std::function<bool()> enabled) {
  remember(id, text, std::move(run), std::move(enabled)).keys = keys;
}

const Commands::Command& Commands::at(const std::string& id) const {
  const auto found = byId_.find(id);
  Q_ASSERT_X(found != byId_.end(), "Commands", id.c_str());
  return *found->second;
}

QString Commands::keys(const std::string& id) const { return at(id).keys; }

QString Commands::text(const std::string& id) const { return at(id).text; }

void Commands::run(const std::string& id) const { run(at(id)); }

void Commands::run(const Command& command) const {
  if (command.can() && (!command.guarded || !guard_ || guard_(command.text))) command.run();
}

std::vector<CommandPalette::Entry> Commands::paletteEntries() const {
  std::vector<CommandPalette::Entry> out;
  for (const auto& command : commands_) {
    out.push_back({command->text, command->keys, command->can(), [this, c = command.get()] { this->run(*c); }});
  }
  return out;
}

// The keys stand behind a tab and are only told: the window's own action has them, and two actions with the same keys
// would take them from each other.
void Commands::addTo(QMenu& menu, const Command& command) const {
  QAction* line =
      menu.addAction(command.keys.isEmpty() ? command.text : command.text + QLatin1Char('\t') + command.keys);
  if (command.mark != Mark::None) {
    line->setIcon(QIcon(markPixmap(command.mark, markColor(command.mark), menu.devicePixelRatioF())));
  }
  line->setObjectName(QString::fromStdString(command.id));
  line->setEnabled(command.can());
  connect(line, &QAction::triggered, this, [this, &command] { this->run(command); });
}

void Commands::fill(QMenu& menu, std::initializer_list<const char*> ids) const {
  for (const char* id : ids) {
    if (*id == 0) {
      menu.addSeparator();
    } else {
      addTo(menu, at(id));
    }
  }
}

void Commands::setMark(const std::string& id, Mark mark) { byId_.at(id)->mark = mark; }

void Commands::fillBelow(QMenu& menu, const QString& heading, std::initializer_list<const char*> ids) const {
  fill(*menu.addMenu(heading), ids);
}

void Commands::fillWithAll(QMenu& menu) const {
  std::map<QString, QMenu*> headings;
  for (const auto& command : commands_) {
    QMenu*& below = headings[command->heading];
    if (below == nullptr) below = menu.addMenu(command->heading);
    addTo(*below, *command);
  }
}

}  // namespace iterandum
