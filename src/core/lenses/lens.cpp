#include "core/lenses/lens.h"

#include <algorithm>
#include <array>
#include <set>
#include <utility>

#include "core/catalogue/column_rules.h"
#include "core/value/calendar_text.h"
#include "core/value/exact_number.h"
#include "core/value/json.h"
#include "core/value/small_letters.h"
#include "core/value/text_forms.h"

namespace iterandum {
namespace {

constexpr std::string_view kLensesFormat = "iterandum-lenses";

template <typename Enum, std::size_t kCount>
using Names = std::array<std::pair<Enum, std::string_view>, kCount>;

constexpr Names<LensKind, 6> kKinds{{{LensKind::Duration, "duration"},
                                     {LensKind::Moment, "moment"},
                                     {LensKind::Labels, "labels"},
                                     {LensKind::Factor, "factor"},
                                     {LensKind::Flags, "flags"},
                                     {LensKind::Masked, "masked"}}};
constexpr Names<StoredUnit, 7> kUnits{{{StoredUnit::Nanosecond, "ns"},
                                       {StoredUnit::Microsecond, "us"},
                                       {StoredUnit::Millisecond, "ms"},
                                       {StoredUnit::Second, "s"},
                                       {StoredUnit::Minute, "min"},
                                       {StoredUnit::Hour, "h"},
                                       {StoredUnit::Day, "d"}}};
constexpr Names<DurationForm, 3> kForms{
    {{DurationForm::Words, "words"}, {DurationForm::Iso, "iso"}, {DurationForm::Clock, "clock"}}};

template <typename Enum, std::size_t kCount>
std::string nameOf(const Names<Enum, kCount>& names, Enum value) {
  const auto at = std::find_if(names.begin(), names.end(), [&](const auto& one) { return one.first == value; });
  return std::string(at->second);
}

// Reads the members of one lens; the first thing that is wrong stays.
class LensReader {
 public:
  LensReader(const JsonNode& node, std::string place) : node_(node), place_(std::move(place)) {}

  Result<Lens> read() {
    if (node_.type != JsonNode::Type::Object) return badDocument(place_, "a lens is an object");
    Lens lens;
    ITERANDUM_TRY(text("table", true, lens.table));
    ITERANDUM_TRY(text("column", true, lens.column));
    for (const auto& [name, said] : {std::pair("table", &lens.table), std::pair("column", &lens.column)}) {
      if (said->empty()) return badDocument(pointerTo(place_, name), "it is empty");
    }
    ITERANDUM_TRY(oneOf("kind", true, kKinds, lens.kind));
    ITERANDUM_TRY(ofKind(lens));
    if (const std::string wrong = lensUnsound(lens); !wrong.empty()) return badDocument(place_, wrong);
    return lens;
  }

 private:
  // Only what the kind has a use for may be there.
  Status ofKind(Lens& lens) {
    switch (lens.kind) {
      case LensKind::Duration:
        ITERANDUM_TRY(onlyKnownNames(node_, place_, {"table", "column", "kind", "unit", "form"}));
        ITERANDUM_TRY(oneOf("unit", true, kUnits, lens.unit));
        return oneOf("form", false, kForms, lens.form);
      case LensKind::Moment:
        ITERANDUM_TRY(onlyKnownNames(node_, place_, {"table", "column", "kind", "unit", "since"}));
        ITERANDUM_TRY(oneOf("unit", true, kUnits, lens.unit));
        return text("since", false, lens.since);
      case LensKind::Labels:
        ITERANDUM_TRY(onlyKnownNames(node_, place_, {"table", "column", "kind", "labels"}));
        return labels(lens.labels);
      case LensKind::Factor:
        ITERANDUM_TRY(onlyKnownNames(node_, place_, {"table", "column", "kind", "factor", "behind"}));
        ITERANDUM_TRY(text("factor", true, lens.factor));
        return text("behind", false, lens.behind);
      case LensKind::Flags:
        ITERANDUM_TRY(onlyKnownNames(node_, place_, {"table", "column", "kind", "bits"}));
        return bits(lens.bits);
      default:
        return onlyKnownNames(node_, place_, {"table", "column", "kind"});
    }
  }

  Status text(std::string_view name, bool required, std::string& into) {
    const JsonNode* node = node_.find(name);
    if (node == nullptr) return required ? Status(badDocument(pointerTo(place_, name), "is missing")) : Status();
    if (node->type != JsonNode::Type::String) return badDocument(pointerTo(place_, name), "a string is wanted here");
    into = node->text;
    return {};
  }

  template <typename Enum, std::size_t kCount>
  Status oneOf(std::string_view name, bool required, const Names<Enum, kCount>& names, Enum& into) {
    std::string said;
    ITERANDUM_TRY(text(name, required, said));
    if (said.empty() && node_.find(name) == nullptr) return {};
    const auto at = std::find_if(names.begin(), names.end(), [&](const auto& one) { return one.second == said; });
    if (at == names.end()) {
      std::string wanted;
      for (const auto& one : names) wanted += (wanted.empty() ? "" : ", ") + std::string(one.second);
      return badDocument(pointerTo(place_, name), "one of " + wanted + " is wanted here, not '" + said + "'");
    }
    into = at->first;
    return {};
  }

  Result<const std::vector<JsonNode>*> list(std::string_view name) {
    const JsonNode* node = node_.find(name);
    if (node == nullptr || node->type != JsonNode::Type::Array)
      return badDocument(pointerTo(place_, name), "an array is wanted here");
    return &node->items;
  }

  Status labels(std::vector<LensLabel>& into) {
    ITERANDUM_ASSIGN(const auto* items, list("labels"));
    for (std::size_t i = 0; i < items->size(); ++i) {
      LensReader one((*items)[i], pointerTo(pointerTo(place_, "labels"), std::to_string(i)));
      LensLabel label;
      ITERANDUM_TRY(onlyKnownNames(one.node_, one.place_, {"stored", "shown"}));
      ITERANDUM_TRY(one.text("stored", true, label.stored));
      ITERANDUM_TRY(one.text("shown", true, label.shown));
      into.push_back(std::move(label));
    }
    return {};
  }

  Status bits(std::vector<std::string>& into) {
    ITERANDUM_ASSIGN(const auto* items, list("bits"));
    for (std::size_t i = 0; i < items->size(); ++i) {
      if ((*items)[i].type != JsonNode::Type::String)
        return badDocument(pointerTo(pointerTo(place_, "bits"), std::to_string(i)), "a string is wanted here");
      into.push_back((*items)[i].text);
    }
    return {};
  }

  const JsonNode& node_;
  std::string place_;
};

void write(JsonWriter& out, const Lens& lens) {
  out.compactNext().beginObject().name("table").string(lens.table).name("column").string(lens.column);
  out.name("kind").string(nameOf(kKinds, lens.kind));
  switch (lens.kind) {
    case LensKind::Duration:
      out.name("unit").string(unitName(lens.unit)).name("form").string(nameOf(kForms, lens.form));
      break;
    case LensKind::Moment:
      out.name("unit").string(unitName(lens.unit)).name("since").string(lens.since);
      break;
    case LensKind::Labels:
      out.name("labels").beginArray();
      for (const LensLabel& label : lens.labels)
        out.beginObject().name("stored").string(label.stored).name("shown").string(label.shown).endObject();
      out.endArray();
      break;
    case LensKind::Factor:
      out.name("factor").string(lens.factor).name("behind").string(lens.behind);
      break;
    case LensKind::Flags:
      out.name("bits").beginArray();
      for (const std::string& bit : lens.bits) out.string(bit);
      out.endArray();
      break;
    default:
      break;
  }
  out.endObject();
}

bool takesNumbers(const Column& column) {
  return column.type == TypeClass::Integer || column.type == TypeClass::Real || column.type == TypeClass::Decimal ||
         column.type == TypeClass::Any;
}

std::string unsoundLabels(const std::vector<LensLabel>& labels) {
  if (labels.empty()) return "labels need at least one code with what it is shown as";
  std::set<std::string> stored;
  std::set<std::string> shown;
  for (const LensLabel& label : labels) {
    if (label.shown.empty() || label.shown != std::string(trimmed(label.shown)))
      return "the label of '" + label.stored + "' is empty, or has blanks around it";
    const std::string small = smallLetters(label.shown);
    if (small.starts_with("stored ") || small == "no value" || small == "empty text")
      return "the label '" + label.shown + "' says something else already";
    if (!stored.insert(label.stored).second) return "the code '" + label.stored + "' is there twice";
    if (!shown.insert(label.shown).second) return "the label '" + label.shown + "' stands for two codes";
  }
  // What is typed must mean one of them.
  for (const LensLabel& label : labels) {
    if (label.stored != label.shown && stored.contains(label.shown))
      return "'" + label.shown + "' is the label of one code and is a code itself";
  }
  return {};
}

std::string unsoundBits(const std::vector<std::string>& bits) {
  constexpr std::size_t kMost = 62;
  if (bits.empty() || bits.size() > kMost) return "flags need from 1 to 62 names of bits";
  std::set<std::string> seen;
  for (const std::string& bit : bits) {
    if (bit.empty()) continue;
    if (bit.find_first_of(",;") != std::string::npos || bit != std::string(trimmed(bit)))
      return "the name of a bit has no commas, and no blanks around it: '" + bit + "'";
    if (!seen.insert(smallLetters(bit)).second || smallLetters(bit) == "none")
      return "'" + bit + "' cannot be told from another name of a bit, or from 'none'";
  }
  return {};
}

}  // namespace

std::string unitName(StoredUnit unit) { return nameOf(kUnits, unit); }

std::string lensUnsound(const Lens& lens) {
  switch (lens.kind) {
    case LensKind::Labels:
      return unsoundLabels(lens.labels);
    case LensKind::Flags:
      return unsoundBits(lens.bits);
    case LensKind::Factor: {
      const auto factor = ExactNumber::read(lens.factor);
      if (!factor || factor->isZero()) return "a factor is a number that is not nought, like 0.001";
      if (lens.behind.find_first_of("0123456789.") != std::string::npos ||
          lens.behind != std::string(trimmed(lens.behind)))
        return "what stands behind a number has no digits, and no blanks around it";
      return {};
    }
    case LensKind::Moment: {
      const auto day = calendarText(lens.since);
      if (!day || !day->hasDay || day->hasTime) return "the day that is counted from is one like 1970-01-01";
      if (lens.unit == StoredUnit::Minute || lens.unit == StoredUnit::Hour)
        return "a moment is counted in ns, us, ms, s or d";
      return {};
    }
    default:
      return {};
  }
}

std::string lensUnsuited(const Lens& lens, const Column& column) {
  if (lens.kind == LensKind::Masked) return {};
  if (lens.kind == LensKind::Labels) {
    if (column.type == TypeClass::Bytes) return column.name + " holds bytes, which have no labels";
    for (const LensLabel& label : lens.labels) {
      if (!typedValue(column, label.stored))
        return "'" + label.stored + "' is nothing that " + column.name + " can hold";
    }
    return {};
  }
  const bool whole = column.type == TypeClass::Integer || column.type == TypeClass::Any;
  if (lens.kind == LensKind::Flags && !whole) return "whole numbers have bits, which " + column.name + " does not hold";
  return takesNumbers(column) ? "" : column.name + " holds no numbers";
}

std::string lensesToJson(const std::vector<Lens>& lenses) {
  JsonWriter out(true);
  out.beginObject().name("format").string(kLensesFormat).name("version").number(1).name("lenses").beginArray();
  for (const Lens& lens : lenses) write(out, lens);
  out.endArray().endObject();
  return out.take() + "\n";
}

Result<std::vector<Lens>> lensesFromJson(std::string_view document) {
  ITERANDUM_ASSIGN(const auto items, documentItems(document, kLensesFormat, "lenses"));
  std::vector<Lens> out;
  std::set<std::pair<std::string, std::string>> seen;
  for (std::size_t i = 0; i < items.size(); ++i) {
    const std::string place = pointerTo("/lenses", std::to_string(i));
    ITERANDUM_ASSIGN(Lens lens, LensReader(items[i], place).read());
    if (!seen.emplace(lens.table, lens.column).second)
      return badDocument(place, "there is a lens for " + lens.table + "." + lens.column + " already");
    out.push_back(std::move(lens));
  }
  return out;
}

}  // namespace iterandum
