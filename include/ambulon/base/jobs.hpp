#pragma once

#include <cstddef>
#include <functional>

namespace ambulon {

/// Does `count` jobs, each by `job(number)` and once, on as many threads as it likes, and comes back when all
/// are done: the game's own system for that.
using Jobs = std::function<void(std::size_t count, const std::function<void(std::size_t)>& job)>;

}  // namespace ambulon
