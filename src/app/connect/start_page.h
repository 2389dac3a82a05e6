// StartPage: no database is open yet. A line for a path or an address; those opened lately; and a server in its parts,
// which can be tried out step by step.
#pragma once

#include <QWidget>
#include <vector>

#include "core/engines/connection_trial.h"
#include "core/store/store.h"

class QLabel;
class QTimer;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace iterandum {

class ServerForm;

// What is to be opened. The password is in no address.
struct OpenWish {
  QString address;
  QString password;
  bool remember = false;  // keep the password, once it has proved right
};

class StartPage : public QWidget {
  Q_OBJECT
 public:
  explicit StartPage(QWidget* parent = nullptr);
  void setRecent(const std::vector<RecentDatabase>& recent);
  // `step`: which step of connecting failed, where that is known (connection_trial.h).
  void showProblem(const QString& message, const QString& address = {}, const QString& step = {});
  void showTrial(const std::vector<TrialStep>& steps);
  // That something is being opened, once it lasts long enough to be noticed; empty: no longer.
  void showWaiting(const QString& message);
  void forgetPassword();
  void choose();
  void tryOut();

 signals:
  void openAsked(const OpenWish& wish);
  void trialAsked(const OpenWish& wish);
  void stopAsked();

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void buildLine();
  void buildColumns();
  void openTyped();
  void openRecent(int row);
  void addressTyped();
  void hidePassword();
  [[nodiscard]] OpenWish wish() const;

  std::vector<RecentDatabase> recent_;
  QLineEdit* path_;
  QLabel* problem_;
  QLabel* waiting_;
  QTimer* waitingSoon_;
  QLabel* recentHead_;
  QListWidget* list_;
  ServerForm* form_;
  QPushButton* try_;
  QLabel* trial_;
};

}  // namespace iterandum
