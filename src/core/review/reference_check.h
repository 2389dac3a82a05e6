// Looks after references in both directions: records pointed at that are not there, and records left behind that point
// at one removed or renamed; also gathers what the database will do by itself (cascades). Part of the examination.
#pragma once

#include <map>
#include <vector>

#include "core/review/examination.h"

namespace iterandum {

class ReferenceCheck {
 public:
  explicit ReferenceCheck(Examination& examination) : examination_(examination) {}
  [[nodiscard]] Status run();

 private:
  // A record that is removed, or whose key is changed: by a change or by a cascade.
  struct Leaving {
    RowPlace place;  // the change that causes it
    bool byCascade = false;
    bool rekeyed = false;
    ValueTuple tuple;     // what pointed-at columns held
    ValueTuple newTuple;  // rekeyed: what they will hold
  };

  [[nodiscard]] Status checkParents(const Table& table, const Reference& reference);
  void refuseMissingTarget(const Table& table, const Reference& reference);
  [[nodiscard]] bool providedByChangeSet(const Table& target, const std::vector<std::size_t>& columns,
                                         const ValueTuple& tuple);
  [[nodiscard]] Status checkChildren(const Table& parent);
  [[nodiscard]] std::vector<Leaving> leavingRecords(const Table& parent, const std::vector<std::size_t>& columns) const;
  [[nodiscard]] Status followReference(const Table& child, const Reference& reference,
                                       const std::vector<Leaving>& leaving);
  void judgeChild(const Table& child, const Reference& reference, const Leaving& leaving, ValueTuple&& record,
                  const std::vector<std::string>& recordColumns);
  [[nodiscard]] Status findRecords(const Table& table, const std::vector<std::size_t>& columns,
                                   const std::vector<ValueTuple>& tuples, const std::vector<std::string>& wanted,
                                   const KeyedRowSink& sink);
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

  Examination& examination_;
  std::map<std::pair<const Table*, std::vector<std::size_t>>, Examination::TupleIndex> provided_;
  std::map<LeftBehind, std::uint64_t> leftBehind_;
  // Records that a cascade removes, by table: they are looked at for records that point at them in turn.
  std::map<const Table*, std::vector<std::pair<RowPlace, ValueTuple>>> cascadeRemoved_;
  std::map<const Table*, Examination::TupleIndex> alreadyCascaded_;
};

}  // namespace iterandum
