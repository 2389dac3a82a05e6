// Applying what is staged: goes on whatever page is shown, and is over only when it is known what became of it. Lives
// on the interface thread; the work is done on the desk's front session.
#pragma once

#include <QObject>
#include <QString>
#include <memory>
#include <optional>

#include "core/apply/apply.h"
#include "core/changes/change_set.h"
#include "core/changes/part_of_changes.h"

namespace iterandum {

class Desk;

class Applying : public QObject {
  Q_OBJECT
 public:
  explicit Applying(Desk& desk) : desk_(desk) {}

  // Applies all that is staged now, or a part of it, whose rest stays staged. What is staged while it runs stays staged
  // too.
  void start(const std::string& title, std::optional<SplitChanges> part = std::nullopt);
  void stop();
  [[nodiscard]] bool running() const { return progress_ != nullptr; }

 signals:
  void started();
  // It is written; what is staged is about to change for it.
  void written();
  // One of these follows.
  void applied(const QString& message);
  void blocked(const iterandum::Review& review);  // something stands in the way; nothing was written
  void failed(const QString& message);
  // The records just applied were read again, and some hold something else already.
  void overtaken(const QString& message);

 private:
  struct Outcome {
    ApplyResult result;
    AppliedAdditions added;
    bool writtenBefore = false;  // what was to be applied, or the first of it, turned out to be there
    std::string copy;            // of the database as it was before; empty: none
  };
  void take(Result<Outcome>&& outcome, std::size_t gestures, const std::optional<SplitChanges>& part);

  void lookAgain(const Receipt& receipt);

  Desk& desk_;
  std::shared_ptr<Progress> progress_;
  std::vector<Comment> left_;  // what was said of what stays staged
};

}  // namespace iterandum
