// CataloguePage: what the database holds. Typing narrows; Enter opens. Tables with their counts, keys and neighbours.
#pragma once

#include <QAbstractListModel>
#include <QWidget>
#include <optional>

#include "app/session/desk.h"

class QLabel;
class QLineEdit;
class QListView;

namespace iterandum {

class CataloguePage : public QWidget {
  Q_OBJECT
 public:
  explicit CataloguePage(Desk& desk, QWidget* parent = nullptr);
  void focusSeek();
  // Counts again, as after an apply.
  void countTables();
  // Rich text; a link "scope:NAME" asks for that scope, "seen:tips" says that the first words were read.
  void setAside(const QStringList& lines);

 signals:
  void openAsked(const TableName& table);
  void tipsSeen();
  void scopeAsked(const QString& name);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  class Model;
  class Painter;
  void openCurrent();
  Desk& desk_;
  QLineEdit* seek_;
  QListView* list_;
  Model* model_;
  QLabel* aside_;
};

// What a table is, in one line for people: how it is named, what it points at, who points here.
[[nodiscard]] QString tableInWords(const Catalogue& catalogue, const Table& table);

}  // namespace iterandum
