// ConflictTable: what somebody else changed meanwhile, all such cells of a group in one table: when you looked, theirs,
// mine. Those that are chosen are decided together.
#pragma once

#include <QFrame>
#include <QString>
#include <functional>
#include <vector>

class QAbstractItemModel;
class QPushButton;
class QTableView;

namespace iterandum {

class ConflictTable : public QFrame {
  Q_OBJECT
 public:
  struct Line {
    QString record;
    QString column;
    QString before;
    QString theirs;
    QString mine;
  };
  // `line` is asked for what is in sight only, for as long as the table lives. `oneColumn`: all are of the same one.
  // `canCorrect`: another value can be typed.
  ConflictTable(int lines, std::function<Line(int)> line, bool oneColumn, bool canCorrect, QWidget* parent = nullptr);

 signals:
  void mineAsked(const std::vector<int>& lines);
  void theirsAsked(const std::vector<int>& lines);
  void correctAsked(int line);
  void goAsked(int line);

 private:
  void build(bool oneColumn, bool canCorrect);
  void offer();
  [[nodiscard]] std::vector<int> chosen() const;

  QAbstractItemModel* model_;
  QTableView* table_;
  QPushButton* mine_;
  QPushButton* theirs_;
  QPushButton* correct_;
  QPushButton* go_;
};

}  // namespace iterandum
