// HistogramView: how the numbers or days of a column are spread, as bars. A click on one, or Enter, narrows to it.
#pragma once

#include <QWidget>
#include <functional>

#include "core/scope/histogram.h"

namespace iterandum {

class HistogramView : public QWidget {
  Q_OBJECT
 public:
  explicit HistogramView(QWidget* parent = nullptr);
  using QWidget::show;
  // `label`: how an edge of a bar is said.
  void show(const Histogram& histogram, std::function<QString(const std::string& edge)> label);
  [[nodiscard]] int current() const { return current_; }

 signals:
  void chosen(const QString& condition);
  void left();

 protected:
  bool event(QEvent* event) override;
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  [[nodiscard]] QRect barRect(int bar) const;
  [[nodiscard]] int barAt(int x) const;
  [[nodiscard]] QString words(int bar) const;
  void choose(int bar);
  void setCurrent(int bar);

  std::vector<Histogram::Bar> bars_;
  std::function<QString(const std::string&)> label_;
  int current_ = 0;
};

}  // namespace iterandum
