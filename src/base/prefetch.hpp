#pragma once

#include <cstddef>

#include "base/platform.hpp"

namespace ambulon {

/// Prefetches the cache lines of `bytes` bytes at `address` for writing; does nothing for null. For loops
/// over objects that are scattered in memory.
template <std::size_t bytes>
void prefetch(const void* address) {
  if (address == nullptr) return;
  for (std::size_t line = 0; line < bytes; line += 64)
    prefetch_for_writing(static_cast<const char*>(address) + line);
}

}  // namespace ambulon
