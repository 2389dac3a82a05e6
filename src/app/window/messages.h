// Messages: what the window has to say at the moment, above the rail. A message leaves at the next act or after some
// seconds; all of them are kept for the list of messages so far. It never lies over a record.
#pragma once

#include <QDateTime>
#include <QElapsedTimer>
#include <QFrame>
#include <deque>
#include <functional>

class QLabel;
class QPushButton;
class QTimer;

namespace iterandum {

class Messages : public QFrame {
  Q_OBJECT
 public:
  explicit Messages(QWidget* parent = nullptr);

  // Empty: what was said is no longer so. `good`: nothing is amiss.
  void say(const QString& message, bool good);
  // The same with something that can be done about it, by a button.
  void offer(const QString& message, const QString& action, std::function<void()> act);
  [[nodiscard]] bool offering() const { return isVisible() && act_ != nullptr; }
  // Does what is offered.
  void act();
  // Something was done: what was said before it goes.
  void acted();
  struct Said {
    QDateTime at;
    QString text;
    bool good = false;
  };
  // The latest first.
  [[nodiscard]] const std::deque<Said>& soFar() const { return said_; }

 private:
  QLabel* text_;
  QPushButton* action_;
  std::function<void()> act_;
  QTimer* leaving_;
  QElapsedTimer shown_;
  std::deque<Said> said_;
};

}  // namespace iterandum
