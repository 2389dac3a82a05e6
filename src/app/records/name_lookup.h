// NameLookup: which records names stand for, where references are pasted by name. Read behind the scenes; lives on the
// interface thread.
#pragma once

#include <QObject>
#include <functional>
#include <map>
#include <memory>

#include "app/records/sheet_model.h"

namespace iterandum {

class NameLookup : public QObject {
  Q_OBJECT
 public:
  // By column and text: the key of the one record that is called so, byte for byte, or why there is no such one.
  using Names = std::map<std::pair<int, QString>, Result<Value>>;

  explicit NameLookup(SheetModel& model, QObject* parent = nullptr) : QObject(parent), model_(model) {}

  // The text may be meant for a name: the column is a reference, and it can be no key.
  [[nodiscard]] bool mayBeName(int column, const QString& text) const;
  // `done` is told at once where nothing is wanted. Errors: the database's.
  void find(const std::map<int, QStringList>& wanted, std::function<void(Result<Names>&&)> done);

 private:
  struct Question {
    int column = 0;
    const Table* target = nullptr;
    std::string nameColumn;
    std::string keyColumn;
    QStringList texts;
  };
  [[nodiscard]] static Result<Names> answer(Session& session, const std::vector<Question>& questions,
                                            Progress& progress);

  SheetModel& model_;
};

}  // namespace iterandum
