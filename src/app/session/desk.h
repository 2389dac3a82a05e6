// Desk: one database that is open in the window: its sessions and what it holds; with it, what is staged for it, what
// is kept for it, and what is known of its records. Lives on the interface thread.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <string>

#include "app/session/applying.h"
#include "app/session/database_session.h"
#include "app/session/kept_settings.h"
#include "app/session/lent_records.h"
#include "app/session/record_marks.h"
#include "app/session/reference_names.h"
#include "app/session/staged_work.h"
#include "app/session/store_thread.h"
#include "app/values/shown_value.h"
#include "core/apply/apply.h"

namespace iterandum {

class Desk : public QObject {
  Q_OBJECT
 public:
  explicit Desk(std::shared_ptr<StoreThread> storeThread, QObject* parent = nullptr);
  Desk(const Desk&) = delete;
  Desk& operator=(const Desk&) = delete;
  ~Desk() override = default;

  // Opens the database and what was left staged for it; opened() or openFailed() follows.
  void open(const std::string& address, const OpenOptions& options = {});

  // --- who reads ---
  [[nodiscard]] const Catalogue& catalogue() const { return *catalogue_; }
  [[nodiscard]] std::shared_ptr<const Catalogue> sharedCatalogue() const { return catalogue_; }
  [[nodiscard]] const SessionInfo& info() const { return info_; }
  [[nodiscard]] DatabaseSession& front() { return front_; }
  [[nodiscard]] DatabaseSession& behind() { return behind_; }
  [[nodiscard]] DatabaseSession& indexing() { return indexing_; }
  [[nodiscard]] ReferenceNames& names() { return *names_; }
  [[nodiscard]] LentRecords& lent() { return *lent_; }
  // What records point at is read again when it is next shown.
  void forgetReferences();
  // What conditions may speak of: references, today, what is staged, what has a finding.
  [[nodiscard]] ConditionContext conditions() const;

  [[nodiscard]] StagedWork& staged() { return *staged_; }
  [[nodiscard]] const StagedWork& staged() const { return *staged_; }
  [[nodiscard]] const ChangeSet& changes() const { return staged_->changes(); }
  [[nodiscard]] KeptSettings& kept() const { return *kept_; }
  [[nodiscard]] RecordMarks& marks() { return marks_; }
  [[nodiscard]] const RecordMarks& marks() const { return marks_; }
  [[nodiscard]] Lenses& lenses() const { return kept_->lenses(); }
  [[nodiscard]] Applying& applying() { return *applying_; }
  [[nodiscard]] StoreThread& storeThread() const { return *storeThread_; }

 signals:
  void opened();
  void openFailed(const QString& message, const QString& step);  // connection_trial.h names the steps
  void catalogueChanged();
  void storeFailed(const QString& message);
  void said(const QString& message);

 private:
  void connectParts();
  void restore();
  void findOutAboutWritten(const std::function<void()>& then);
  void claim();
  void takeMark();
  void useCatalogue();

  std::shared_ptr<StoreThread> storeThread_;
  std::unique_ptr<Applying> applying_;
  // Goes after the sessions: what is being applied is held for this window until that has ended.
  std::unique_ptr<StagedWork> staged_;
  DatabaseSession front_;
  DatabaseSession behind_;
  DatabaseSession indexing_;
  SessionInfo info_;
  std::string readOnlyBySession_;               // why, apart from the mark
  std::shared_ptr<const Catalogue> declared_;   // what the database itself says
  std::shared_ptr<const Catalogue> catalogue_;  // with the references that somebody stated
  std::unique_ptr<ReferenceNames> names_;
  std::unique_ptr<LentRecords> lent_;
  std::unique_ptr<KeptSettings> kept_;
  RecordMarks marks_;
};

}  // namespace iterandum
