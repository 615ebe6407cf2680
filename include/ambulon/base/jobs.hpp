#pragma once

#include <algorithm>
#include <cstddef>
#include <functional>

namespace ambulon {

/// Does `count` jobs, each by `job(number)` and once, on as many threads as it likes, and comes back when all
/// are done: the game's own system for that.
using Jobs = std::function<void(std::size_t count, const std::function<void(std::size_t)>& job)>;

/// Does `job(i)` for each i below `count`: by `jobs`, so many (> 0) in each of them, where there are several
/// and the game has given some. For small jobs more at a time, since to hand one over takes a while.
inline void in_parts(const Jobs& jobs, std::size_t count, const std::function<void(std::size_t)>& job,
                     std::size_t at_a_time = 64) {
  const struct {
    std::size_t count, at_a_time;
    const std::function<void(std::size_t)>& job;
  } all{count, at_a_time, job};
  // By one reference: a function that holds more takes memory, each time.
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
