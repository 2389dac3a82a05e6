// Records that point here: none, any, how many.
#include <algorithm>
#include <charconv>

#include "core/scope/condition_reader.h"
#include "core/value/small_letters.h"

namespace iterandum {
namespace {

// "move", "move.from_id", "town.move.from_id": the table, and by which of its references, if that is said.
struct PointingName {
  std::string table;
  std::string reference;
};

std::vector<PointingName> readings(const ConditionToken& token) {
  const auto last = token.text.rfind('.');
  std::vector<PointingName> out;
  if (!token.path.empty()) {
    std::string before;
    for (std::size_t i = 0; i + 1 < token.path.size(); ++i) before += (i > 0 ? "." : "") + token.path[i];
    return {{before + "." + token.path.back(), {}}, {before, token.path.back()}};
  }
  out.push_back({token.text, {}});
  if (token.kind == ConditionToken::Kind::Word && last != std::string::npos) {
    out.push_back({token.text.substr(0, last), token.text.substr(last + 1)});
  }
  return out;
}

bool isSame(std::string_view a, std::string_view b, bool anyCase) {
  return anyCase ? smallLetters(a) == smallLetters(b) : a == b;
}

}  // namespace

// "no inspection", "any inspection where (…)", "count of inspection >= 3"
Result<std::optional<Condition>> ConditionReader::pointing() {
  const std::size_t here = at_;
  const bool asksCount = isWord(now(), "count");
  const bool counts = (asksCount || isWord(now(), "number")) && isWord(ahead(1), "of");
  const bool none = isWord(now(), "no");
  if (!counts && !none && !isWord(now(), "any")) return std::optional<Condition>();
  at_ += counts ? 2 : 1;
  Condition out;
  out.op = Op::Pointing;
  ITERANDUM_ASSIGN(const bool found, findPointing(now(), out));
  if (!found) {
    at_ = here;
    // "no value", or a text that begins like this
    if (!asksCount || inCell_ || !counts) return std::optional<Condition>();
    return wrong(ahead(2), "'" + ahead(2).text + "' is no table that points at " + displayName(table_->name));
  }
  ++at_;
  Condition fits;
  if (isWord(now(), "where")) {
    ++at_;
    // A text goes on up to the end: what is asked of the number would be part of it.
    if (counts && !isSign(now(), "(")) {
      return wrong(now(), "brackets are wanted round what the records there have to be like");
    }
    ITERANDUM_ASSIGN(fits, which(*out.related));
  }
  out.parts.push_back(std::move(fits));
  out.compare = none ? Op::Equal : Op::Greater;
  out.value = Value::integer(0);
  if (counts) ITERANDUM_TRY(readCount(out));
  carried_.reset();
  return std::optional<Condition>(std::move(out));
}

// What the records there have to be like: brackets round all of it, or one condition.
Result<Condition> ConditionReader::which(const Table& there) {
  const Table* outer = std::exchange(table_, &there);
  Path about = std::exchange(about_, {});
  const bool inCell = std::exchange(inCell_, false);
  carried_.reset();
  auto inner = oneOf();
  table_ = outer;
  about_ = std::move(about);
  inCell_ = inCell;
  return inner;
}

// Which table points here by that name, and by which of its references: by all of them where none is named.
Result<bool> ConditionReader::findPointing(const ConditionToken& name, Condition& out) const {
  if (name.kind == Kind::End || name.kind == Kind::Sign) return false;
  for (const bool anyCase : {false, true}) {
    for (const PointingName& said : readings(name)) {
      out.related = nullptr;
      out.joins.clear();
      for (const IncomingReference& in : context_.catalogue->referencesTo(table_->name)) {
        const Table& child = context_.catalogue->tables()[in.table];
        const Reference& reference = child.references[in.reference];
        if (reference.targetMissing) continue;
        const std::string whole = child.name.schema + "." + child.name.name;
        if (!isSame(child.name.name, said.table, anyCase) && !isSame(whole, said.table, anyCase)) continue;
        const std::string& column = child.columns[reference.columns[0]].name;
        const bool named = isSame(column, said.reference, anyCase) || isSame(reference.name, said.reference, anyCase);
        if (!said.reference.empty() && !named) continue;
        if (out.related != nullptr && out.related != &child) {
          return wrong(name, "several tables are called '" + said.table + "' and point here; name one by its schema");
        }
        out.related = &child;
        Condition::Join join;
        for (std::size_t i = 0; i < reference.columns.size(); ++i) {
          join.emplace_back(reference.targetColumns[i], child.columns[reference.columns[i]].name);
        }
        out.joins.push_back(std::move(join));
        out.relatedSaid = (said.table == whole ? nameInCondition(child.name.schema) + "." : "") +
                          nameInCondition(child.name.name) +
                          (said.reference.empty() ? "" : "." + nameInCondition(said.reference));
      }
      if (out.related != nullptr) return true;
    }
  }
  return false;
}

// ">= 3", "is 3", "is 3 or more", "is below 3"
Status ConditionReader::readCount(Condition& out) {
  if (const Op* sign = signHere()) {
    out.compare = *sign;
    ++at_;
  } else {
    static const Column kNumber = [] {
      Column column;
      column.type = TypeClass::Integer;
      return column;
    }();
    const auto found = operatorAt(0, &kNumber);
    const Op op = found ? found->first->op : Op::Like;
    if (op != Op::Equal && op != Op::NotEqual && op != Op::Less && op != Op::Greater) {
      return wrong(now(), "a comparison is wanted here, like >= 3");
    }
    at_ += found->second;
    out.compare = op;
    if (found->first->negated) out.compare = op == Op::Less ? Op::GreaterOrEqual : Op::LessOrEqual;
  }
  ITERANDUM_ASSIGN(const std::int64_t n, wholeNumberHere());
  out.value = Value::integer(n);
  const bool isExactly = out.compare == Op::Equal;
  if (const auto more = isExactly ? orMore() : std::nullopt) out.compare = *more;
  return {};
}

Result<std::int64_t> ConditionReader::wholeNumberHere() {
  std::int64_t n = 0;
  const std::string& digits = now().text;
  const auto read = std::from_chars(digits.data(), digits.data() + digits.size(), n);
  if (now().kind != Kind::Word || read.ec != std::errc() || read.ptr != digits.data() + digits.size() || n < 0) {
    return wrong(now(), "a number of records is wanted here");
  }
  ++at_;
  return n;
}

}  // namespace iterandum
