#pragma once

#include <cstdint>
#include <span>
#include <unordered_map>
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
  /// Those whose upright box touches the one from `least` to `most` (metres, not NaN), in the same order.
  /// Takes a time that grows with how many there are near, not with how many there are. Valid until the next
  /// change.
  std::vector<const PlacedBarrier*> barriers_near(vec2 least, vec2 most) const;

 private:
  /// To be called after a barrier was put somewhere or taken away from there.
  virtual void barrier_changed(const Barrier& barrier, bool gone) = 0;
  Expected<std::vector<PlacedBarrier>::iterator> find(BarrierId id);
  void list(BarrierId id, const Barrier& barrier);
  void unlist(BarrierId id, const Barrier& barrier);
  template <class Visit>
  static bool each_cell(vec2 least, vec2 most, std::size_t limit, Visit&& visit);

  std::vector<PlacedBarrier> placed_;                             // by their ids, which grow
  std::unordered_map<std::uint64_t, std::vector<BarrierId>> in_;  // those in each square of the ground
  std::vector<BarrierId> large_;                                  // those in too many squares to be listed
  std::uint32_t next_ = 1;
};

}  // namespace ambulon
