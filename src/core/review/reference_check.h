// Looks after references in both directions: records pointed at that are not there, and records left behind that point
// at one removed or renamed; also gathers what the database will do by itself (cascades, however far they reach). Part
// of the examination.
#pragma once

#include <map>
#include <vector>

#include "core/engines/session.h"
#include "core/review/facts.h"
#include "core/review/verdicts.h"

namespace iterandum {

class ReferenceCheck {
 public:
  // All outlive the check.
  ReferenceCheck(Session& session, Facts& facts, Verdicts& verdicts, Progress& progress)
      : session_(session), facts_(facts), verdicts_(verdicts), progress_(progress) {}
  // Downwards: everything that points at what is removed or renamed, level by level until nothing new happens.
  [[nodiscard]] Status followConsequences();
  // Upwards: everything that is pointed at. REQUIRES: followConsequences() was called.
  [[nodiscard]] Status checkParents();

 private:
  // A record that is removed, or whose key is changed: by a change or by a cascade.
  struct Leaving {
    RowPlace place;  // the change that causes it
    bool rekeyed = false;
    ValueTuple tuple;                    // what pointed-at columns held
    std::optional<ValueTuple> newTuple;  // rekeyed: what they will hold, where that is known
  };
  // A record met on the way down.
  struct Child {
    const Table& table;
    const Reference& reference;
    ValueTuple record;  // by table.recordColumns()
    ValueTuple identity;
  };
  // A record that a cascade removed or changed, and that others may point at.
  struct Reached {
    RowPlace place;
    ValueTuple before;
    std::optional<ValueTuple> after;  // nothing: it is removed
    std::vector<bool> known;          // of `after`, by column
  };

  [[nodiscard]] Status checkParents(const Table& table, const Reference& reference);
  void refuseMissingTarget(const Table& table, const Reference& reference);
  void refuseMissingParent(const RowPlace& place, const Table& table, const Reference& reference,
                           const ValueTuple& tuple);
  // Whether the change writes the reference itself.
  [[nodiscard]] bool writesItself(const RowPlace& place, const Reference& reference) const;
  [[nodiscard]] bool staysWith(const Table& table, const std::vector<std::size_t>& columns, const ValueTuple& identity,
                               const ValueTuple& tuple) const;
  [[nodiscard]] static ValueTuple tupleAfter(const Consequence& consequence, const std::vector<std::size_t>& columns);
  // The change that makes a record which holds this; null: none does.
  [[nodiscard]] const RowPlace* providedByChangeSet(const Table& target, const std::vector<std::size_t>& columns,
                                                    const ValueTuple& tuple);

  [[nodiscard]] Status checkChildren(const Table& parent);
  [[nodiscard]] Status followReached(const Table& parent, const std::vector<Reached>& reached);
  [[nodiscard]] std::vector<Leaving> leavingRecords(const Table& parent, const std::vector<std::size_t>& columns) const;
  [[nodiscard]] Status followReference(const Table& child, const Reference& reference,
                                       const std::vector<Leaving>& leaving);
  void judgeChild(Child&& child, const Leaving& leaving);
  // True when the change that touches the child deals with the reference itself.
  bool dealtWith(const Child& child, const RowPlace& change, const Leaving& leaving);
  void keepsPointing(const Child& child, const RowPlace& change, const Leaving& leaving);
  void comesByCascade(const Child& child, const RowPlace& change, const Leaving& leaving);
  void removeAlong(Child&& child, const RowPlace* change, const Leaving& leaving);
  void setAlong(Child&& child, const RowPlace* change, const Leaving& leaving, ReferenceAction action);
  [[nodiscard]] static bool namesRecord(const Table& table, const std::vector<std::size_t>& columns);

  [[nodiscard]] Status findRecords(const Table& table, const std::vector<std::size_t>& columns,
                                   const std::vector<ValueTuple>& tuples, const std::vector<std::string>& wanted,
                                   const KeyedRowSink& sink);
  void leaveBehind(const Child& child, const Leaving& leaving, ReferenceAction action);
  void reportLeftBehind();

  struct LeftBehind {
    RowPlace place;
    const Table* child;
    bool rekeyed;
    friend auto operator<=>(const LeftBehind& a, const LeftBehind& b) {
      return std::tie(a.place.block, a.place.row, a.child, a.rekeyed) <=>
             std::tie(b.place.block, b.place.row, b.child, b.rekeyed);
    }
  };

  Session& session_;
  Facts& facts_;
  Verdicts& verdicts_;
  Progress& progress_;
  std::map<std::pair<const Table*, std::vector<std::size_t>>, TupleIndex> provided_;
  struct LeftBehindRecords {
    std::uint64_t count = 0;
    std::vector<ValueTuple> mayGoAlong;  // identities
  };
  std::map<LeftBehind, LeftBehindRecords> leftBehind_;
  std::map<const Table*, std::vector<Reached>> reached_;  // still to be followed
};

}  // namespace iterandum
