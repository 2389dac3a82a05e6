// PageTarget: what pages are drawn on: a PDF, a printer, pictures for a look before. All are measured in dots of 1/300
// inch, so that a page comes out the same on each.
#pragma once

#include <QImage>
#include <QPageLayout>
#include <QPagedPaintDevice>
#include <QPainter>
#include <functional>
#include <utility>

namespace iterandum {

inline constexpr int kDots = 300;  // of an inch

class PageTarget {
 public:
  PageTarget() = default;
  PageTarget(const PageTarget&) = delete;
  PageTarget& operator=(const PageTarget&) = delete;
  virtual ~PageTarget() = default;

  // Before the first page: A4 this way. The room inside the margins.
  virtual QSizeF turn(QPageLayout::Orientation how) = 0;
  // What letters are measured for.
  [[nodiscard]] virtual const QPaintDevice& device() const = 0;
  // Of the page that is drawn; the first one is begun by asking for it.
  virtual QPainter& painter() = 0;
  // The next page; false: no more are wanted.
  virtual bool next() = 0;
  // Nothing may follow. False: it could not be written.
  virtual bool end() = 0;

 protected:
  [[nodiscard]] static QPageLayout layout(QPageLayout::Orientation how);
};

// A PDF or a printer, set to kDots.
class PagedTarget final : public PageTarget {
 public:
  // `device` outlives it.
  explicit PagedTarget(QPagedPaintDevice& device) : device_(device) {}
  QSizeF turn(QPageLayout::Orientation how) override;
  [[nodiscard]] const QPaintDevice& device() const override { return device_; }
  QPainter& painter() override;
  bool next() override { return device_.newPage(); }
  bool end() override { return painter_.end(); }

 private:
  QPagedPaintDevice& device_;
  QPainter painter_;
};

// The first pages as pictures, `dots` to the inch, handed to `ready` one after the other, on the thread that draws.
class PictureTarget final : public PageTarget {
 public:
  PictureTarget(std::size_t mostPages, int dots, std::function<void(QImage&&)> ready)
      : most_(mostPages), scale_(static_cast<double>(dots) / kDots), ready_(std::move(ready)) {}
  QSizeF turn(QPageLayout::Orientation how) override;
  [[nodiscard]] const QPaintDevice& device() const override { return measured_; }
  QPainter& painter() override;
  bool next() override;
  bool end() override;
  [[nodiscard]] std::size_t count() const { return count_; }
  // There were more.
  [[nodiscard]] bool full() const { return full_; }

 private:
  void beginPage();

  std::size_t most_;
  double scale_;
  QImage measured_{1, 1, QImage::Format_RGB32};
  QPageLayout layout_;
  QImage page_;
  QPainter painter_;
  std::function<void(QImage&&)> ready_;
  std::size_t count_ = 0;
  bool full_ = false;
};

}  // namespace iterandum
