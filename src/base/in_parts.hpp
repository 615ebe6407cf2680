#pragma once

#include <algorithm>
#include <cstddef>
#include <functional>

#include "ambulon/base/jobs.hpp"

namespace ambulon {

/// Calls `job(i)` for each i below `count`, in batches of `at_a_time` (> 0). Several batches run on `jobs`;
/// one batch, or an empty `jobs`, runs on the calling thread. Larger batches amortise the cost of handing
/// over small jobs.
inline void in_parts(const Jobs& jobs, std::size_t count, const std::function<void(std::size_t)>& job,
                     std::size_t at_a_time = 64) {
  const struct {
    std::size_t count, at_a_time;
    const std::function<void(std::size_t)>& job;
  } all{count, at_a_time, job};
  // One captured reference: std::function allocates memory for larger captures.
  const auto do_part = [&all](std::size_t number) {
    const std::size_t first = number * all.at_a_time;
    for (std::size_t i = first; i < std::min(all.count, first + all.at_a_time); ++i) all.job(i);
  };
  const std::size_t parts = (count + at_a_time - 1) / at_a_time;
  if (jobs && parts > 1)
    jobs(parts, do_part);
  else
    for (std::size_t number = 0; number < parts; ++number) do_part(number);
}

}  // namespace ambulon
