// StartPage: no database is open yet. Recent ones, and a line to type or choose a path.
#pragma once

#include <QWidget>
#include <vector>

#include "core/store/store.h"

class QLabel;
class QLineEdit;
class QListWidget;

namespace iterandum {

class StartPage : public QWidget {
  Q_OBJECT
 public:
  explicit StartPage(QWidget* parent = nullptr);
  void setRecent(const std::vector<RecentDatabase>& recent);
  void showProblem(const QString& message);
  void choose();

 signals:
  void openAsked(const QString& address);

 private:
  std::vector<RecentDatabase> recent_;
  QLineEdit* path_;
  QLabel* problem_;
  QLabel* recentHead_;
  QListWidget* list_;
};

}  // namespace iterandum
