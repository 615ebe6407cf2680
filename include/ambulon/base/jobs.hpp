#pragma once

#include <cstddef>
#include <functional>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The job system of a game: calls `job(i)` exactly once for each i below `count`, on any threads, and
/// returns when all calls have returned.
using Jobs = std::function<void(std::size_t count, const std::function<void(std::size_t)>& job)>;

}  // namespace ambulon
