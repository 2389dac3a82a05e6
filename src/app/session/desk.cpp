#include "app/session/desk.h"

#include "core/apply/outcome.h"

namespace iterandum {

Desk::Desk(std::shared_ptr<StoreThread> storeThread, QObject* parent)
    : QObject(parent),
      storeThread_(std::move(storeThread)),
      applying_(std::make_unique<Applying>(*this)),
      staged_(std::make_unique<StagedWork>(storeThread_, [this] { return applying_->running(); })),
      kept_(std::make_unique<KeptSettings>(storeThread_)) {
  connectParts();
}

void Desk::connectParts() {
  connect(staged_.get(), &StagedWork::touched, this, [this](const Gesture& g) { marks_.forgetFindings(g); });
  connect(staged_.get(), &StagedWork::said, this, &Desk::said);
  // A window that ended while it applied tells nobody.
  connect(staged_.get(), &StagedWork::holderLeft, this,
          [this] { findOutAboutWritten([this] { staged_->lookForWritten(); }); });
  connect(staged_.get(), &StagedWork::storeFailed, this, &Desk::storeFailed);
  connect(kept_.get(), &KeptSettings::storeFailed, this, &Desk::storeFailed);
  connect(kept_.get(), &KeptSettings::markChanged, this, &Desk::takeMark);
  connect(kept_.get(), &KeptSettings::readableChanged, this, [this] {
    names_->chooseReadable(kept_->readable());
    emit names_->named();
  });
  // What is masked now may have been a name, and the other way round.
  connect(&kept_->lenses(), &Lenses::changed, this, [this] {
    if (names_) names_->forget();
  });
  connect(kept_.get(), &KeptSettings::referencesChanged, this, [this] {
    const auto before = catalogue_;  // pages speak of its tables until they are made anew
    useCatalogue();
    emit catalogueChanged();
  });
}

void Desk::open(const std::string& address, const OpenOptions& options) {
  front_.open(this, address, options, [this, address, options](Result<DatabaseSession::Opened>&& result) {
    if (!result) {
      emit openFailed(toQ(result.error().text()), toQ(result.error().step));
      return;
    }
    info_ = result->info;
    readOnlyBySession_ = info_.readOnly;
    declared_ = result->catalogue;
    useCatalogue();
    behind_.openLater(address, options);
    indexing_.openLater(address, options);
    restore();
  });
}

void Desk::restore() {
  kept_->setAddress(info_.address);
  staged_->setAddress(info_.address);
  storeThread_->post(
      this, [info = info_](Store& store) { return store.rememberDatabase(info.address, info.title); },
      [this](Status&& status) {
        if (!status) emit storeFailed(tr("Iterandum's own file cannot be written: %1").arg(toQ(status.error().text())));
      });
  findOutAboutWritten([this] { claim(); });
}

// What was being applied when a window ended: whether it was written is for the database to say, before anybody takes
// it up as staged.
void Desk::findOutAboutWritten(const std::function<void()>& then) {
  struct Undecided {
    std::int64_t id = 0;
    Receipt receipt;
  };
  struct Answers {
    std::vector<std::int64_t> written;
    bool unknown = false;
  };
  storeThread_->post(
      this,
      [address = info_.address](Store& store) -> Result<std::vector<Undecided>> {
        std::vector<Undecided> out;
        ITERANDUM_ASSIGN(const std::vector<std::int64_t> ids, store.undecidedReceipts(address));
        for (const std::int64_t id : ids) {
          ITERANDUM_ASSIGN(Receipt receipt, store.receipt(id));
          out.push_back({id, std::move(receipt)});
        }
        return out;
      },
      [this, then](Result<std::vector<Undecided>>&& undecided) {
        // What cannot be read is told by whoever reads it next.
        if (!undecided || undecided->empty()) return then();
        front_.post(
            this,
            [undecided = std::move(*undecided), catalogue = catalogue_](Session& session,
                                                                        Progress& progress) -> Result<Answers> {
              Answers out;
              for (const Undecided& one : undecided) {
                const auto state = writtenState(session, *catalogue, one.receipt, progress);
                if (state && *state == WrittenState::Written) out.written.push_back(one.id);
                if (!state || *state == WrittenState::NotKnown) out.unknown = true;
              }
              return out;
            },
            [this, then](Result<Answers>&& answers) {
              if (!answers || answers->unknown) {
                emit said(
                    tr("Whether what was being applied when the window ended was written cannot be told from the "
                       "records. It is staged still; review it before you apply it again."));
              }
              storeThread_->post(
                  this,
                  [ids = answers ? std::move(answers->written) : std::vector<std::int64_t>()](Store& store) -> Status {
                    for (const std::int64_t id : ids) ITERANDUM_TRY(store.confirmReceipt(id));
                    return {};
                  },
                  [then](Status&&) { then(); });
            });
      });
}

void Desk::claim() {
  struct Restored {
    KeptSettings::Restored kept;
    StagedLog log;
  };
  storeThread_->post(
      this,
      [address = info_.address, claim = staged_->claim()](Store& store) -> Result<Restored> {
        Restored out;
        ITERANDUM_ASSIGN(out.kept, KeptSettings::read(store, address));
        ITERANDUM_ASSIGN(out.log, claim(store));
        return out;
      },
      [this](Result<Restored>&& restored) {
        QString written;
        if (restored) {
          kept_->take(std::move(restored->kept));
          written = staged_->take(std::move(restored->log));
          takeMark();
          useCatalogue();
        } else {
          emit storeFailed(tr("What was staged before could not be read, and is left where it is: %1")
                               .arg(toQ(restored.error().text())));
        }
        emit opened();
        emit staged_->changed();
        if (!written.isEmpty()) emit said(written);
      });
}

void Desk::takeMark() {
  info_.readOnly = readOnlyBySession_;
  if (info_.readOnly.empty() && kept_->mark().readOnly) {
    info_.readOnly = tr("it is marked as not to be changed (Ctrl+Shift+M)").toStdString();
  }
  staged_->setReadOnly(info_.readOnly);
}

void Desk::useCatalogue() {
  const std::vector<StatedReference>& stated = kept_->statedReferences();
  catalogue_ = stated.empty() ? declared_ : std::make_shared<const Catalogue>(declared_->withReferences(stated));
  for (DatabaseSession* session : {&front_, &behind_, &indexing_}) session->useCatalogue(catalogue_);
  staged_->useCatalogue(catalogue_);
  names_ = std::make_unique<ReferenceNames>(front_, catalogue_);
  names_->hide([lenses = &kept_->lenses()](const TableName& table, const std::string& column) {
    return lenses->hides(table, column);
  });
  names_->chooseReadable(kept_->readable());
  lent_ = std::make_unique<LentRecords>(front_, catalogue_);
  kept_->useCatalogue(catalogue_);
}

void Desk::forgetReferences() {
  names_->forget();
  lent_->forget();
}

ConditionContext Desk::conditions() const {
  ConditionContext context = contextNow(*catalogue_);
  context.staged = [this](const Table& table, const std::string& column, KnownOf what) {
    if (what == KnownOf::Applied) return marks_.appliedKeys(table);
    return what == KnownOf::Finding ? marks_.foundKeys(table, column) : staged_->stagedKeys(table, column);
  };
  context.names = [this](const Table& table) { return names_->shownBy(table); };
  return context;
}

}  // namespace iterandum
