#pragma once

#include <cstddef>
#include <memory_resource>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {
namespace detail {

/// Returns `size` bytes, with the strictest alignment.
void* pooled(std::size_t size, std::pmr::memory_resource* memory);
/// Returns them to their memory.
void unpooled(void* place, std::size_t size, std::pmr::memory_resource* memory);

inline constexpr std::size_t max_pooled = 65'000;  ///< bytes of an errand

}  // namespace detail
}  // namespace ambulon
