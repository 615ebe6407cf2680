#include "ambulon/route/walk.hpp"

#include <algorithm>
#include <memory>

namespace ambulon {

static_assert(alignof(CrossingLeg) <= alignof(vec3) && sizeof(vec3) % alignof(CrossingLeg) == 0);

void Walk::take_up(const Route& route, std::pmr::memory_resource* memory) {
  clear();
  if (route.bends.empty()) return;
  count_ = static_cast<std::uint32_t>(route.bends.size());
  crossing_count_ = static_cast<std::uint32_t>(route.crossings.size());
  length_ = route.length;
  auto* block = static_cast<Memory*>(memory->allocate(bytes(), alignof(Memory)));
  std::construct_at(block, memory);
  bends_ = reinterpret_cast<vec3*>(block + 1);
  std::ranges::uninitialized_copy(route.bends, std::span(bends_, count_));
  auto* crossings = reinterpret_cast<CrossingLeg*>(bends_ + count_);
  std::ranges::uninitialized_copy(route.crossings, std::span(crossings, crossing_count_));
}

void Walk::clear() {
  if (bends_ != nullptr) {
    Memory* block = reinterpret_cast<Memory*>(bends_) - 1;
    (*block)->deallocate(block, bytes(), alignof(Memory));
  }
  bends_ = nullptr;
  count_ = crossing_count_ = 0;
  length_ = 0.f;
}

const CrossingLeg* Walk::crossing_at(std::size_t i) const {
  const std::span crossings(reinterpret_cast<const CrossingLeg*>(bends_ + count_), crossing_count_);
  const auto found = std::ranges::find(crossings, i, &CrossingLeg::bend);
  return found != crossings.end() ? &*found : nullptr;
}

float Walk::left(vec3 position) const {
  float metres = 0.f;
  vec3 from = position;
  for (const vec3 bend : bends().subspan(std::min(next_, count_))) {
    metres += glm::length(bend - from);
    from = bend;
  }
  return metres;
}

}  // namespace ambulon
