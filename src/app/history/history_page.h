// HistoryPage: the receipts of this database. Each can be read and taken back; taking back stages, it never writes.
#pragma once

#include <QWidget>
#include <vector>

#include "app/session/desk.h"
#include "core/apply/outcome.h"

class QLabel;
class QListWidget;
class QPushButton;
class QScrollArea;

namespace iterandum {

class HistoryPage : public QWidget {
  Q_OBJECT
 public:
  explicit HistoryPage(Desk& desk, QWidget* parent = nullptr);
  void reload();
  void takeBack();
  void saveReceipt(const QString& path);

 signals:
  void said(const QString& message);
  void takenBack();

 private:
  void showReceipt();
  void findOut(std::int64_t id);
  void foundOut(std::int64_t id, WrittenState state);
  Desk& desk_;
  std::vector<KeptReceipt> kept_;
  std::optional<Receipt> receipt_;
  QListWidget* list_;
  QLabel* heading_;
  QLabel* detail_;
  QScrollArea* scroll_;
  QPushButton* back_;
};

}  // namespace iterandum
