#include "app/records/rule_watch.h"

#include <algorithm>

namespace iterandum {

bool RuleWatch::Broken::speaksOf(std::size_t column) const {
  return columns.empty() || std::find(columns.begin(), columns.end(), column) != columns.end();
}

RuleWatch::RuleWatch(Desk& desk, const Table& table, QObject* parent) : QObject(parent), desk_(desk), table_(table) {
  needed_ = std::any_of(table.checks.begin(), table.checks.end(), [](const CheckRule& r) { return !r.understood; });
  for (std::size_t c = 0; c < table.columns.size(); ++c) {
    if (!table.columns[c].computed) columns_.push_back(c);
  }
}

const RuleWatch::Broken* RuleWatch::broken(const RecordRef& ref) const {
  if (broken_.isEmpty()) return nullptr;
  const auto it = broken_.constFind(recordText(ref));
  return it == broken_.constEnd() ? nullptr : &*it;
}

void RuleWatch::ask(const std::vector<RecordRef>& refs, std::vector<ValueTuple> records) {
  const std::uint64_t asking = ++asking_;
  if (refs.empty()) {
    if (broken_.isEmpty()) return;
    broken_.clear();
    emit answered();
    return;
  }
  using Answer = std::vector<std::pair<std::size_t, const CheckRule*>>;  // rules live in the catalogue, which is shared
  std::vector<std::string> names;
  for (const std::size_t c : columns_) names.push_back(table_.columns[c].name);
  desk_.front().post(
      this,
      [table = &table_, names = std::move(names), records = std::move(records)](Session& session,
                                                                                Progress&) -> Result<Answer> {
        Answer answer;
        ITERANDUM_TRY(session.brokenRules(*table, names, records, [&](std::size_t record, const CheckRule& rule) {
          answer.emplace_back(record, &rule);
        }));
        return answer;
      },
      [this, asking, refs](Result<Answer>&& answer) {
        if (!answer || asking != asking_) return;
        QHash<QString, Broken> now;
        QString fresh;
        for (const auto& [record, rule] : *answer) {
          constexpr int kMostOfARule = 200;
          const QString text = toQ(rule->expression).simplified().left(kMostOfARule);
          Broken broken;
          broken.words = rule->name.empty()
                             ? tr("The database wants that %1, and it is not so here.").arg(text)
                             : tr("The rule %1 of the database (%2) does not hold here.").arg(toQ(rule->name), text);
          broken.columns = rule->columns;
          const QString key = recordText(refs[record]);
          if (!broken_.contains(key)) fresh = broken.words;
          if (!now.contains(key)) now.insert(key, broken);
        }
        if (now.isEmpty() && broken_.isEmpty()) return;
        broken_ = std::move(now);
        emit answered();
        if (!fresh.isEmpty()) emit said(fresh);
      });
}

}  // namespace iterandum
