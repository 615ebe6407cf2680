#pragma once

#include <span>
#include <vector>

#include "ambulon/ground/barrier.hpp"
#include "ambulon/ground/ground.hpp"

namespace ambulon {

/// A barrier that is on a ground.
struct PlacedBarrier {
  BarrierId id;
  Barrier barrier;
};

/// A ground on which barriers are put, moved and taken away. While that is done, nobody may ask it anything.
class BarrierGround : public Ground {
 public:
  /// Puts a barrier on the ground: nobody can walk there any more.
  BarrierId put(const Barrier& barrier);
  /// Gives a barrier another place or shape, or takes it away. The problem when there is no such barrier (any
  /// more).
  Expected<BarrierId> move(BarrierId id, const Barrier& barrier);
  Expected<BarrierId> remove(BarrierId id);
  /// Those that are on it, in the order in which they were put.
  std::span<const PlacedBarrier> barriers() const { return placed_; }

 private:
  /// To be called after a barrier was put somewhere or taken away from there.
  virtual void barrier_changed(const Barrier& barrier) = 0;
  Expected<std::vector<PlacedBarrier>::iterator> find(BarrierId id);

  std::vector<PlacedBarrier> placed_;
  std::uint32_t next_ = 1;
};

}  // namespace ambulon
