#include "app/session/lenses.h"

#include <algorithm>

#include "core/value/text_forms.h"

namespace iterandum {

static constexpr std::string_view kStored = "stored ";

void Lenses::take(std::vector<Lens> all, const Catalogue& catalogue) {
  emit aboutToChange();
  all_ = std::move(all);
  fit_.clear();
  unfit_.clear();
  for (const Lens& lens : all_) {
    const auto name = parseTableName(lens.table);
    const Table* table = name ? catalogue.find(*name) : nullptr;
    const Column* column = table == nullptr ? nullptr : table->column(lens.column);
    const std::string whose = lens.table + "." + lens.column + ": ";
    if (column == nullptr) {
      unfit_.push_back(whose + "there is no such column");
    } else if (const std::string why = lensUnsuited(lens, *column); !why.empty()) {
      unfit_.push_back(whose + why);
    } else {
      fit_[{table->name, column->name}] = &lens;
    }
  }
  emit changed();
}

const Lens* Lenses::of(const TableName& table, const std::string& column) const {
  if (fit_.empty()) return nullptr;
  const auto at = fit_.find({table, column});
  if (at == fit_.end() || (unmasked_ && at->second->kind == LensKind::Masked)) return nullptr;
  return at->second;
}

bool Lenses::hides(const TableName& table, const std::string& column) const {
  const Lens* lens = of(table, column);
  return lens != nullptr && lens->kind == LensKind::Masked;
}

bool Lenses::anyMasked() const {
  return std::any_of(fit_.begin(), fit_.end(), [](const auto& one) { return one.second->kind == LensKind::Masked; });
}

void Lenses::setUnmasked(bool unmasked) {
  emit aboutToChange();
  unmasked_ = unmasked;
  emit changed();
}

ConditionContext Lenses::typed(ConditionContext context) const {
  if (fit_.empty()) return context;
  context.typed = [this](const Table& table, const Column& column,
                         const std::string& text) -> Result<std::optional<std::string>> {
    const Lens* lens = of(table.name, column.name);
    // What is asked of a masked column is typed as it is.
    if (lens == nullptr || lens->kind == LensKind::Masked) return std::optional<std::string>();
    if (text.starts_with(kStored)) return std::optional(text.substr(kStored.size()));
    ITERANDUM_ASSIGN(const Value value, typedThrough(*lens, column, text));
    return std::optional(canonicalText(value));
  };
  return context;
}

ConditionWording Lenses::worded(ConditionWording wording, bool* used) const {
  if (fit_.empty()) return wording;
  wording.called = [this, used, otherwise = std::move(wording.called)](
                       const Table& table, const Column& column, const Value& value) -> std::optional<std::string> {
    const Lens* lens = value.isNull() ? nullptr : of(table.name, column.name);
    if (lens == nullptr || lens->kind == LensKind::Masked)
      return otherwise ? otherwise(table, column, value) : std::nullopt;
    if (used != nullptr) *used = true;
    if (auto shown = shownThrough(*lens, column, value)) return shown;
    std::string text = canonicalText(value);
    if (!value.isString()) return std::string(kStored) + text;
    return std::string(kStored) + "'" + withReplaced(text, "'", "''") + "'";
  };
  return wording;
}

}  // namespace iterandum
