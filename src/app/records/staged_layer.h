// StagedLayer: what is staged for the table of a sheet, gathered in steps that are no pause, so that it can be laid
// over what another thread reads. Lives on the interface thread.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/acts/staged_over.h"

class QTimer;

namespace iterandum {

class SheetModel;

class StagedLayer : public QObject {
  Q_OBJECT
 public:
  explicit StagedLayer(SheetModel& model, QObject* parent = nullptr);

  using Done = std::function<void(std::shared_ptr<const StagedOver> staged)>;
  // Of existing records; cells of these columns. `done` is called once all of it is there, at once where it is little.
  // A new question takes the place of the one before. What is staged meanwhile may be missing: whoever asks asks anew
  // then.
  void gather(std::vector<std::string> columns, Done done);
  void stop();

 private:
  void step();

  SheetModel& model_;
  std::vector<std::string> columns_;
  Done done_;
  std::shared_ptr<StagedOver> staged_;
  std::uint32_t next_ = 0;  // record of the staged ones
  QTimer* steps_;
};

}  // namespace iterandum
