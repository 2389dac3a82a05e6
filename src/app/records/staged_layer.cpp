#include "app/records/staged_layer.h"

#include <QTimer>
#include <algorithm>

#include "app/records/sheet_model.h"

namespace iterandum {
namespace {

constexpr std::uint32_t kStep = 3000;

}  // namespace

StagedLayer::StagedLayer(SheetModel& model, QObject* parent) : QObject(parent), model_(model) {
  steps_ = new QTimer(this);
  connect(steps_, &QTimer::timeout, this, &StagedLayer::step);
}

void StagedLayer::gather(std::vector<std::string> columns, Done done) {
  columns_ = std::move(columns);
  done_ = std::move(done);
  staged_ = std::make_shared<StagedOver>();
  next_ = 0;
  steps_->start(0);
  step();
}

void StagedLayer::stop() {
  steps_->stop();
  staged_.reset();
  done_ = nullptr;
}

void StagedLayer::step() {
  const TableChanges* changes = model_.desk().changes().table(model_.table().name);
  const std::uint32_t all = changes == nullptr ? 0 : changes->records();
  const std::uint32_t end = std::min(all, next_ + kStep);
  for (; next_ < end; ++next_) {
    if (changes->isRemoved(next_)) {
      staged_->removed.insert(changes->key(next_));
      continue;
    }
    if (!changes->isEdited(next_)) continue;
    std::vector<std::pair<std::string, Value>> cells;
    for (const std::string& column : columns_) {
      if (const auto cell = changes->cell(next_, column)) cells.emplace_back(column, cell->to);
    }
    if (!cells.empty()) staged_->cells.emplace(changes->key(next_), std::move(cells));
  }
  if (next_ < all) return;
  steps_->stop();
  const Done done = std::exchange(done_, nullptr);
  done(std::exchange(staged_, nullptr));
}

}  // namespace iterandum
