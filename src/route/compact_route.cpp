#include "route/compact_route.hpp"

#include <algorithm>
#include <memory>
#include <utility>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

/// Returns the length of the polyline from `position` over all the bends.
float metres_along(vec3 position, std::span<const vec3> bends) {
  float metres = 0.f;
  for (const vec3 bend : bends) metres += glm::length(bend - std::exchange(position, bend));
  return metres;
}

}  // namespace

// The number of crossings takes the memory of one.
static_assert(alignof(CrossingLeg) <= alignof(vec3) && sizeof(vec3) % alignof(CrossingLeg) == 0);

void CompactRoute::assign(const Route& route, std::pmr::memory_resource* memory) {
  clear();
  if (route.bends.empty()) return;
  const std::size_t numbers = route.crossings.empty() ? 0 : route.crossings.size() + 1;
  const std::size_t bytes = route.bends.size() * sizeof(vec3) + numbers * sizeof(CrossingLeg);
  memory_ = memory;
  bends_ = static_cast<vec3*>(memory->allocate(bytes, alignof(vec3)));
  count_ = static_cast<std::uint32_t>(route.bends.size());
  crosses_ = numbers > 0;
  std::ranges::uninitialized_copy(route.bends, std::span(bends_, count_));
  if (!crosses_) return;
  auto* crossings = reinterpret_cast<CrossingLeg*>(bends_ + count_);
  std::construct_at(crossings, CrossingLeg{.bend = static_cast<std::uint32_t>(route.crossings.size())});
  std::ranges::uninitialized_copy(route.crossings, std::span(crossings + 1, route.crossings.size()));
}

void CompactRoute::clear() {
  if (bends_ == nullptr) return;
  const std::size_t numbers = crosses_ ? crossings().size() + 1 : 0;
  memory_->deallocate(bends_, count_ * sizeof(vec3) + numbers * sizeof(CrossingLeg), alignof(vec3));
  bends_ = nullptr;
  count_ = 0;
  crosses_ = false;
}

std::span<const CrossingLeg> CompactRoute::crossings() const {
  if (!crosses_) return {};
  const auto* first = reinterpret_cast<const CrossingLeg*>(bends_ + count_);
  return {first + 1, first->bend};
}

const CrossingLeg* CompactRoute::crossing_at(std::size_t i) const {
  const auto found = std::ranges::find(crossings(), i, &CrossingLeg::bend);
  return found != crossings().end() ? &*found : nullptr;
}

float CompactRoute::length() const { return empty() ? 0.f : metres_along(bends_[0], bends()); }

float CompactRoute::left(vec3 position) const {
  return metres_along(position, bends().subspan(std::min<std::size_t>(next_, count_)));
}

}  // namespace ambulon
