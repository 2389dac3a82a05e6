#include "app/records/name_lookup.h"

#include "app/values/typed_text.h"

namespace iterandum {

bool NameLookup::mayBeName(int column, const QString& text) const {
  const Reference* reference = model_.reference(column);
  if (reference == nullptr || text.isEmpty()) return false;
  const Table* target = model_.desk().catalogue().find(reference->target);
  if (target == nullptr) return false;
  const std::vector<std::string> by = model_.desk().names().shownBy(*target);
  if (by.empty() || by.front() == reference->targetColumns[0]) return false;
  return !model_.typed(column, text).has_value();
}

Result<NameLookup::Names> NameLookup::answer(Session& session, const std::vector<Question>& questions,
                                             Progress& progress) {
  Names out;
  for (const Question& question : questions) {
    Query query;
    query.table = question.target;
    query.columns = {question.nameColumn, question.keyColumn};
    query.where.op = Condition::Op::OneOf;
    query.where.column = question.nameColumn;
    for (const QString& text : question.texts) {
      query.where.values.push_back(Value::text(text.toStdString()));
      out.emplace(std::pair(question.column, text),
                  fail(ErrorKind::NotFound,
                       tr("no record of %1 is called “%2”").arg(toQ(question.target->name.name), text).toStdString()));
    }
    ITERANDUM_TRY(session.select(
        query,
        [&](ValueTuple&& row) {
          const QString text = toQ(canonicalText(row[0]));
          const auto found = out.find({question.column, text});
          if (found == out.end()) return true;
          if (found->second) {
            found->second = fail(ErrorKind::InvalidInput, tr("several records of %1 are called “%2”; paste the key")
                                                              .arg(toQ(question.target->name.name), text)
                                                              .toStdString());
          } else if (found->second.error().kind == ErrorKind::NotFound) {
            found->second = std::move(row[1]);
          }
          return true;
        },
        progress));
  }
  return out;
}

void NameLookup::find(const std::map<int, QStringList>& wanted, std::function<void(Result<Names>&&)> done) {
  std::vector<Question> questions;
  for (const auto& [column, texts] : wanted) {
    const Reference* reference = model_.reference(column);
    const Table* target = reference == nullptr ? nullptr : model_.desk().catalogue().find(reference->target);
    if (target == nullptr) continue;
    questions.push_back(
        {column, target, model_.desk().names().shownBy(*target).front(), reference->targetColumns[0], texts});
  }
  if (questions.empty()) return done(Names());
  model_.desk().behind().post(
      this, [questions](Session& session, Progress& progress) { return answer(session, questions, progress); },
      [done = std::move(done)](Result<Names>&& names) { done(std::move(names)); });
}

}  // namespace iterandum
