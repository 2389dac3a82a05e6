// SheetScope: what a sheet shows, as the person at the desk sets it: the filter cells, further conditions, the order,
// the columns. It is the one place from which both the records and the sentence come.
#pragma once

#include <QObject>
#include <vector>

#include "app/grid/sheet_headers.h"
#include "app/records/sheet_model.h"
#include "core/scope/scope.h"

namespace iterandum {

// One part of the sentence that can be changed by itself.
struct ScopePhrase {
  enum class Kind {
    Filter,     // of the filter cell of column `at`
    Condition,  // a further condition, number `at`
    Order       // number `at` of the columns that decide the order
  };
  Kind kind = Kind::Filter;
  int at = 0;
  int part = -1;  // a filter or condition that joins several by "and" is several phrases: which of them
  QString words;
  Condition condition;  // of a filter or condition
};

class SheetScope : public QObject {
  Q_OBJECT
 public:
  SheetScope(SheetModel& model, FilterHeader& head, QObject* parent);

  // As it is set now, whether it can be read or not. Values are said as they are stored, whatever lens they were typed
  // through.
  [[nodiscard]] Scope scope() const;
  // Sets all of it, said so; what is not known here is left out. Nothing is read before read().
  void take(const Scope& scope);
  // Reads the records anew, where all of it can be read; else problem() says what cannot.
  void read();
  // What is shown, as read last.
  [[nodiscard]] const std::vector<ScopePhrase>& phrases() const { return phrases_; }
  // What is shown but for the conditions on one column.
  [[nodiscard]] Condition whereWithout(int column) const;

  // Said as stored.
  void setFilter(int column, const QString& text);
  [[nodiscard]] QString filter(int column) const;
  // Whether a phrase of a filter cell is about that column, so that its values can be offered.
  [[nodiscard]] bool isAboutOwnColumn(const ScopePhrase& phrase) const;
  // The text of a phrase as it is typed; setting it empty takes the phrase out.
  [[nodiscard]] QString text(const ScopePhrase& phrase) const;
  enum class Said { Typed, Stored };
  // Why the text cannot stand there; empty: it can, and does now.
  QString setText(const ScopePhrase& phrase, const QString& text, Said said = Said::Typed);
  QString addCondition(const QString& text, Said said = Said::Typed);
  void clearFilters();

  [[nodiscard]] const std::vector<ScopeOrder>& order() const { return order_; }
  void setOrder(std::vector<ScopeOrder> order);
  // A column goes from ascending to descending to not at all. Alone, or besides what decides already.
  void sort(int column, bool also);

 signals:
  void changed();
  void problem(const QString& message);

 private:
  [[nodiscard]] std::string pathOf(int column) const;
  // As it was typed.
  [[nodiscard]] Scope typedScope() const;
  [[nodiscard]] ConditionContext typedConditions() const;
  // The same condition said otherwise; as it is, where no lens has a part in it or it cannot be read.
  [[nodiscard]] ScopeFilter saidAs(Said said, const ScopeFilter& filter) const;
  [[nodiscard]] ScopeFilter unreadAs(Said said, const ScopeFilter& filter) const;
  // Nothing: it cannot be read.
  [[nodiscard]] std::optional<Condition> readAs(const ScopeFilter& filter, const ConditionContext& context) const;
  // How it can be typed: everything listed, keys as keys.
  [[nodiscard]] QString asTyped(const Condition& condition) const;
  // How conditions are said here: records by their names.
  [[nodiscard]] ConditionWording wording() const;
  [[nodiscard]] std::optional<std::string> called(const Table& table, const Column& column, const Value& key) const;
  [[nodiscard]] std::string spokenOf(const Table& table, const Column& column) const;
  void addPhrases(ScopePhrase::Kind kind, int at, const Condition& condition);
  void sayAgain();
  [[nodiscard]] QString orderInWords(const ScopeOrder& order) const;
  [[nodiscard]] QString whole(const ScopePhrase& phrase) const;
  [[nodiscard]] QString withPart(const ScopePhrase& phrase, const Condition& condition) const;
  [[nodiscard]] QString ownColumn(const ScopePhrase& phrase) const;
  // Empty: it can be read, and is `meant`, where that is asked for.
  [[nodiscard]] QString cannotRead(const ScopeFilter& filter, Condition* meant = nullptr) const;
  [[nodiscard]] std::vector<ScopePhrase> unread(const Scope& scope) const;
  [[nodiscard]] static QString problemInWords(const Scope& scope, const ScopeProblem& problem);
  void takeColumns(const Scope& scope, const Table& table);
  void takeFilters(const Scope& scope);

  SheetModel& model_;
  FilterHeader& head_;
  std::optional<Scope> whileChanging_;  // as stored, while the lenses change
  QStringList conditions_;
  std::vector<ScopeOrder> order_;
  std::vector<ScopePhrase> phrases_;
};

}  // namespace iterandum
