// How well a name fits what is typed to find it: what is called exactly so comes first, then what begins so.
#pragma once

#include <QString>

namespace iterandum {

[[nodiscard]] inline int matchRank(const QString& name, const QString& typed) {
  if (typed.isEmpty()) return 1;
  if (name.compare(typed, Qt::CaseInsensitive) == 0) return 0;
  return name.startsWith(typed, Qt::CaseInsensitive) ? 1 : 2;
}

}  // namespace iterandum
