#include "ambulon/ground/barrier_ground.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

namespace ambulon {

Expected<std::vector<PlacedBarrier>::iterator> BarrierGround::find(BarrierId id) {
  const auto found = std::ranges::find(placed_, id, &PlacedBarrier::id);
  if (found == placed_.end())
    return problem(fmt::format("barrier {} is not on the ground", static_cast<std::uint32_t>(id)));
  return found;
}

BarrierId BarrierGround::put(const Barrier& barrier) {
  const BarrierId id{next_++};
  placed_.push_back({id, barrier});
  barrier_changed(barrier);
  return id;
}

Expected<BarrierId> BarrierGround::move(BarrierId id, const Barrier& barrier) {
  const auto placed = find(id);
  if (!placed) return tl::unexpected(placed.error());
  const Barrier was = std::exchange((*placed)->barrier, barrier);
  barrier_changed(was);
  barrier_changed(barrier);
  return id;
}

Expected<BarrierId> BarrierGround::remove(BarrierId id) {
  const auto placed = find(id);
  if (!placed) return tl::unexpected(placed.error());
  const Barrier was = std::move((*placed)->barrier);
  placed_.erase(*placed);
  barrier_changed(was);
  return id;
}

}  // namespace ambulon
