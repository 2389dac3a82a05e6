// ReferenceNames: how the records that references point at are called. Asked for in batches, read behind the scenes,
// kept for as long as the database is open. Lives on the interface thread.
#pragma once

#include <QObject>
#include <QString>
#include <functional>
#include <map>
#include <unordered_map>
#include <vector>

#include "app/session/database_session.h"
#include "core/files/called_records.h"

namespace iterandum {

class ReferenceNames : public QObject {
  Q_OBJECT
 public:
  ReferenceNames(DatabaseSession& session, std::shared_ptr<const Catalogue> catalogue)
      : session_(session), catalogue_(std::move(catalogue)) {}

  // The reference that this one column makes by itself; null when there is none.
  [[nodiscard]] const Reference* reference(const Table& table, std::size_t column) const;
  // Empty while it is not known, or when there is no better name than the value itself.
  [[nodiscard]] QString name(const Table& table, std::size_t column, const Value& value) const;
  void want(const Table& table, std::size_t column, const std::vector<Value>& values);
  // Names are being read; named() tells when some are there, or could not be read.
  [[nodiscard]] bool asking() const { return asking_ > 0; }
  // What is not to be seen names nothing: whether a column is such a one, asked each time.
  void hide(std::function<bool(const TableName& table, const std::string& column)> hidden) {
    hidden_ = std::move(hidden);
  }
  // The columns by which a table's records are called: those that were chosen for it, else those that say best. None
  // that is hidden.
  [[nodiscard]] std::vector<std::string> readable(const Table& table) const;
  // Those of them that a sheet has room for: all that were chosen, else the one that says best.
  [[nodiscard]] std::vector<std::string> shownBy(const Table& table) const;
  // The latter of every table.
  [[nodiscard]] CalledBy calledBy() const;
  // By displayName() of the table; what was named before is named anew.
  void chooseReadable(std::map<std::string, std::vector<std::string>> choices);
  // Names may have changed: they are read again when they are next wanted.
  void forget() {
    names_.clear();
    emit forgotten();
  }

 signals:
  void named();
  void forgotten();  // who shows names asks for them again

 private:
  struct Hash {
    std::size_t operator()(const Value& v) const { return static_cast<std::size_t>(hashValue(v)); }
  };
  struct Same {
    bool operator()(const Value& a, const Value& b) const { return sameValue(a, b); }
  };
  using Names = std::unordered_map<Value, QString, Hash, Same>;

  DatabaseSession& session_;
  std::shared_ptr<const Catalogue> catalogue_;
  std::map<std::pair<TableName, std::size_t>, Names> names_;
  std::map<std::string, std::vector<std::string>> chosen_;
  std::function<bool(const TableName& table, const std::string& column)> hidden_;
  int asking_ = 0;
};

}  // namespace iterandum
