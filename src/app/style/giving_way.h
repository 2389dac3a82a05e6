// GivingWay: a row of widgets that loses the least needed ones where it becomes too narrow, instead of pushing the
// window wide. What it hides has to be reachable otherwise (menus, the palette). Lives on the interface thread.
#pragma once

#include <QObject>
#include <QWidget>
#include <vector>

namespace iterandum {

class GivingWay : public QObject {
 public:
  // Over the row of `parent`, whose layout is horizontal. From now on the row asks for no width of its own.
  explicit GivingWay(QWidget* parent);

  // A widget of the row. The one with the lowest `need` goes first; 0: it is there only when all others are.
  void add(QWidget* widget, int need);
  // Whether it is to be seen at all, if there is room. Use this instead of setVisible().
  void setWanted(QWidget* widget, bool wanted);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void fit();

  struct Item {
    QWidget* widget = nullptr;
    int need = 0;
    bool wanted = true;
  };
  QWidget* row_;
  std::vector<Item> items_;
  bool fitting_ = false;
};

}  // namespace iterandum
