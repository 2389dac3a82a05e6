// Lenses: through which lens each column of a database is looked at. Everything that is staged, kept or asked of the
// database is what is stored; values come through here on their way to the eyes, and from the fingers.
// Lives on the interface thread.
#pragma once

#include <QObject>
#include <map>
#include <string>
#include <vector>

#include "core/catalogue/catalogue.h"
#include "core/lenses/lens.h"
#include "core/scope/condition_text.h"

namespace iterandum {

class Lenses : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;

  // All lenses that are kept. Those that fit nothing in the catalogue stay kept, and nothing is seen through them.
  void take(std::vector<Lens> all, const Catalogue& catalogue);
  [[nodiscard]] const std::vector<Lens>& all() const { return all_; }
  // Why nothing is seen through some of them, each with its column.
  [[nodiscard]] const std::vector<std::string>& unfit() const { return unfit_; }
  // Null: the column is looked at as it is; or it is masked, and what is masked is shown.
  [[nodiscard]] const Lens* of(const TableName& table, const std::string& column) const;

  // Whether what the column holds is not to be seen just now.
  [[nodiscard]] bool hides(const TableName& table, const std::string& column) const;

  // What is masked is shown until the window closes.
  void setUnmasked(bool unmasked);
  [[nodiscard]] bool unmasked() const { return unmasked_; }
  [[nodiscard]] bool anyMasked() const;

  // Conditions as they are typed: what is said of a column with a lens is meant through it.
  [[nodiscard]] ConditionContext typed(ConditionContext context) const;
  // And as they are said, so that typing them means the same. `used`, where it is given: whether any lens was.
  [[nodiscard]] ConditionWording worded(ConditionWording wording, bool* used = nullptr) const;

 signals:
  // Before anything is looked at otherwise: what was typed through the lenses is to be taken down as stored.
  void aboutToChange();
  void changed();

 private:
  std::vector<Lens> all_;
  std::vector<std::string> unfit_;
  std::map<std::pair<TableName, std::string>, const Lens*> fit_;
  bool unmasked_ = false;
};

}  // namespace iterandum
