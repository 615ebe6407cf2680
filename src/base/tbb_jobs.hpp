#pragma once
// For games that link oneTBB. No other header of Ambulon needs it.

#include <oneapi/tbb/parallel_for.h>

#include "ambulon/base/jobs.hpp"

namespace ambulon {

/// Returns a job system that runs on the threads of oneTBB.
inline Jobs tbb_jobs() {
  return [](std::size_t count, const std::function<void(std::size_t)>& job) {
    oneapi::tbb::parallel_for(std::size_t{0}, count, job);
  };
}

}  // namespace ambulon
