#include "core/scope/condition_operators.h"

namespace iterandum {

const std::vector<ConditionOperator>& conditionOperators() {
  using Op = Condition::Op;
  static const std::vector<ConditionOperator> kOperators = {{{"is", "not", "no", "value"}, Op::HasValue},
                                                            {{"has", "no", "finding"}, Op::Among, true, true},
                                                            {{"has", "a", "finding"}, Op::Among, false, true},
                                                            {{"is", "not", "staged"}, Op::Among, true},
                                                            {{"is", "not", "one", "of"}, Op::OneOf, true},
                                                            {{"does", "not", "contain"}, Op::Contains, true},
                                                            {{"does", "not", "start", "with"}, Op::StartsWith, true},
                                                            {{"does", "not", "end", "with"}, Op::EndsWith, true},
                                                            {{"is", "not", "between"}, Op::Between, true},
                                                            {{"is", "not", "null"}, Op::HasValue},
                                                            {{"is", "not", "like"}, Op::Like, true},
                                                            {{"is", "not", "in"}, Op::OneOf, true},
                                                            {{"has", "a", "value"}, Op::HasValue},
                                                            {{"is", "no", "value"}, Op::NoValue},
                                                            {{"is", "one", "of"}, Op::OneOf},
                                                            {{"is", "staged"}, Op::Among},
                                                            {{"is", "between"}, Op::Between},
                                                            {{"has", "value"}, Op::HasValue},
                                                            {{"has", "no", "value"}, Op::NoValue},
                                                            {{"is", "null"}, Op::NoValue},
                                                            {{"is", "like"}, Op::Like},
                                                            {{"is", "in"}, Op::OneOf},
                                                            {{"no", "value"}, Op::NoValue},
                                                            {{"one", "of"}, Op::OneOf},
                                                            {{"not", "between"}, Op::Between, true},
                                                            {{"not", "like"}, Op::Like, true},
                                                            {{"not", "in"}, Op::OneOf, true},
                                                            {{"starts", "with"}, Op::StartsWith},
                                                            {{"ends", "with"}, Op::EndsWith},
                                                            {{"is", "not"}, Op::NotEqual},
                                                            {{"contains"}, Op::Contains},
                                                            {{"between"}, Op::Between},
                                                            {{"starts"}, Op::StartsWith},
                                                            {{"ends"}, Op::EndsWith},
                                                            {{"like"}, Op::Like},
                                                            {{"in"}, Op::OneOf},
                                                            {{"is"}, Op::Equal}};
  return kOperators;
}

}  // namespace iterandum
