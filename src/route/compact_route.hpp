#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>

#include "ambulon/ground/route.hpp"

#include "base/assert.hpp"

namespace ambulon {

/// A route that somebody walks, and which of its bends is next. Many walk at a time, so it is kept in one
/// block of memory, and of the route only what the walk needs.
class CompactRoute {
 public:
  CompactRoute() = default;
  ~CompactRoute() { clear(); }
  CompactRoute(const CompactRoute&) = delete;
  CompactRoute& operator=(const CompactRoute&) = delete;

  /// It is along `route` from now on, kept in `memory`.
  void adopt(const Route& route, std::pmr::memory_resource* memory);
  /// There is no way any more.
  void clear();
  bool empty() const { return count_ == 0; }

  std::span<const vec3> bends() const { return {bends_, count_}; }  ///< metres; none when there is no way
  float length() const;                                             ///< metres along the bends
  /// The crossing that begins at bend `i`; null when it is walked on from there.
  const CrossingLeg* crossing_at(std::size_t i) const;

  /// The number of the next bend, 0 when not even the first was come by.
  std::uint32_t next() const { return next_; }
  void set_next_bend(std::uint32_t bend) { next_ = bend & ~(1U << 31U); }
  bool on_last_leg() const { return !empty() && next() + 1 == count_; }

  // Of a way, metres: the next bend, the one before it, unless it is the first, the one after it, unless it
  // is the last, and the last.
  vec3 next_bend() const { return bend(next_); }
  vec3 bend_before() const { return bend(next() - 1); }
  vec3 bend_after() const { return bend(next() + 1); }
  vec3 end() const { return bend(count_ - 1); }
  void move_end(vec3 end) { bends_[count_ - std::size_t{1}] = end; }

  /// From the bend behind to the end, metres.
  std::span<const vec3> bends_ahead() const {
    return bends().subspan(empty() || next_ == 0 ? 0 : next() - 1);
  }
  /// Metres left to the end from `position` by way of the next bend and those after it.
  float left(vec3 position) const;

 private:
  vec3 bend(std::uint32_t i) const {
    AMBULON_ASSERT(i < count_, "there is no such bend of the way");
    return bends_[i];
  }
  std::span<const CrossingLeg> crossings() const;

  vec3* bends_ = nullptr;  // behind them, where it has crossings, their number, and those
  std::pmr::memory_resource* memory_ = nullptr;  // of the bends
  std::uint32_t count_ = 0;
  std::uint32_t next_ : 31 = 1;
  bool crosses_ : 1 = false;
};

}  // namespace ambulon
