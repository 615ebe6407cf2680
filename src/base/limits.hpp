#pragma once

#include <fmt/format.h>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/range.hpp"

namespace ambulon::detail {

/// One member of a struct of options, and its valid range.
struct MemberLimit {
  const char* name;
  const char* unit;
  float value, min, max;
};

/// Returns the first member that is out of its range; null if there is none.
template <std::size_t Count>
const MemberLimit* first_out_of_range(const MemberLimit (&limits)[Count]) {
  for (const MemberLimit& limit : limits)
    if (!Range{limit.min, limit.max}.holds(limit.value)) return &limit;
  return nullptr;
}

inline tl::unexpected<Problem> out_of_range(const char* owner, const MemberLimit& limit) {
  return problem(fmt::format("{} {} is {}{}; it must lie between {} and {}", owner, limit.name, limit.value,
                             limit.unit, limit.min, limit.max));
}

}  // namespace ambulon::detail
