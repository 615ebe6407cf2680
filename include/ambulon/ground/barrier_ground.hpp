#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/barrier.hpp"
#include "ambulon/ground/ground.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A barrier that is on a ground.
struct PlacedBarrier {
  BarrierId id;
  Barrier barrier;
};

/// A ground on which barriers are put, moved and removed. No thread may query it during such a call.
class BarrierGround : public Ground {
 public:
  BarrierGround();
  ~BarrierGround() override;

  /// Puts a barrier on the ground. Bodies cannot walk there any more.
  BarrierId put(const Barrier& barrier);
  /// Replaces or removes a barrier. Returns a problem if there is none of that id.
  Expected<BarrierId> move(BarrierId id, const Barrier& barrier);
  Expected<BarrierId> remove(BarrierId id);
  /// Returns the barriers on the ground, in the order in which they were put.
  std::span<const PlacedBarrier> barriers() const { return placed_; }
  /// Returns the barriers whose bounding box touches the box from `min` to `max` (metres, not NaN), in the
  /// same order. The time grows with the number of barriers near the box. The pointers are valid until the
  /// next change.
  std::vector<const PlacedBarrier*> barriers_near(vec2 min, vec2 max) const;

 private:
  struct AMBULON_HIDDEN Index;

  /// Called after a barrier was put on the ground (`was` is null), moved, or removed (`now` is null).
  virtual void barrier_changed(const Barrier* was, const Barrier* now) = 0;
  Expected<std::vector<PlacedBarrier>::iterator> find(BarrierId id);

  std::vector<PlacedBarrier> placed_;  // sorted by id
  std::unique_ptr<Index> index_;
  std::uint32_t next_ = 1;
};

}  // namespace ambulon
