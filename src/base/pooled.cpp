#include "ambulon/base/detail/pooled.hpp"

#include <limits>

namespace ambulon::detail {
namespace {

constexpr std::size_t alignment = alignof(std::max_align_t);

/// Returns `size` rounded up: the memory pools of libstdc++ 12 align blocks of 24 bytes to 8, for any
/// requested alignment.
std::size_t rounded_up(std::size_t size) { return (size + alignment - 1) / alignment * alignment; }

static_assert(max_pooled <= std::numeric_limits<std::uint16_t>::max(), "errands keep their size in 16 bits");

}  // namespace

void* pooled(std::size_t size, std::pmr::memory_resource* memory) {
  return memory->allocate(rounded_up(size), alignment);
}

void unpooled(void* place, std::size_t size, std::pmr::memory_resource* memory) {
  memory->deallocate(place, rounded_up(size), alignment);
}

}  // namespace ambulon::detail
