#pragma once

#include <cstddef>

namespace ambulon {

/// Calls what lies at `place` into the cache, before it is needed: for loops over what lies anywhere in
/// memory.
template <std::size_t bytes>
void fetch(const void* place) {
  if (place == nullptr) return;
  for (std::size_t line = 0; line < bytes; line += 64)
    __builtin_prefetch(static_cast<const char*>(place) + line, 1);
}

}  // namespace ambulon
