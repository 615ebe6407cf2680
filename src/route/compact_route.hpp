#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>

#include "ambulon/ground/route.hpp"

#include "base/assert.hpp"

namespace ambulon {

/// The route that an NPC walks, and the number of its next bend. It is one block of memory and holds only
/// what walking needs, since each of thousands of NPCs has one.
class CompactRoute {
 public:
  CompactRoute() = default;
  ~CompactRoute() { clear(); }
  CompactRoute(const CompactRoute&) = delete;
  CompactRoute& operator=(const CompactRoute&) = delete;

  /// Replaces the route. `memory` must outlive it.
  void assign(const Route& route, std::pmr::memory_resource* memory);
  /// Removes the route.
  void clear();
  bool empty() const { return count_ == 0; }

  std::span<const vec3> bends() const { return {bends_, count_}; }  ///< metres; empty without a route
  float length() const;                                             ///< metres along the bends
  /// Returns the crossing that begins at bend `i`; null if there is none.
  const CrossingLeg* crossing_at(std::size_t i) const;

  /// Returns the number of the next bend; 0 before the first one was reached.
  std::uint32_t next() const { return next_; }
  void set_next_bend(std::uint32_t bend) { next_ = bend & ~(1U << 31U); }
  bool on_last_leg() const { return !empty() && next() + 1 == count_; }

  // Positions in metres; the route must have such a bend.
  vec3 next_bend() const { return bend(next_); }
  vec3 bend_before() const { return bend(next() - 1); }
  vec3 bend_after() const { return bend(next() + 1); }
  vec3 end() const { return bend(count_ - 1); }
  void move_end(vec3 end) { bends_[count_ - std::size_t{1}] = end; }

  /// Returns the bends from the last one passed to the end, metres.
  std::span<const vec3> bends_ahead() const {
    return bends().subspan(empty() || next_ == 0 ? 0 : next() - 1);
  }
  /// Returns the metres from `position` to the end over the next bends.
  float left(vec3 position) const;

 private:
  vec3 bend(std::uint32_t i) const {
    AMBULON_ASSERT(i < count_, "there is no such bend of the way");
    return bends_[i];
  }
  std::span<const CrossingLeg> crossings() const;

  vec3* bends_ = nullptr;  // followed, if there are crossings, by their number and by the crossings
  std::pmr::memory_resource* memory_ = nullptr;  // of the bends
  std::uint32_t count_ = 0;
  std::uint32_t next_ : 31 = 1;
  bool crosses_ : 1 = false;
};

}  // namespace ambulon
