#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The goals of a player's clicks, or the place at which the pointer is held. The game changes them at any
/// time; the order that `Npc::click_to_move` gave reads them.
class Clicks {
 public:
  explicit Clicks(std::pmr::memory_resource* memory = std::pmr::get_default_resource()) : places_(memory) {}

  /// Replaces all goals by `at` (metres). Returns a problem, and changes nothing, if `at` is not finite; so
  /// do `add` and `hold`.
  Expected<void> click(vec3 at) { return set(at, false); }
  /// Appends a goal.
  Expected<void> add(vec3 at);
  /// Replaces all goals by the place of a held pointer: the NPC follows it until `release`.
  Expected<void> hold(vec3 at) { return set(at, true); }
  /// Turns the last place of a held pointer into a click.
  void release();
  /// Removes the first goal. The order calls this when the goal was reached or given up.
  void done();

  /// Returns the remaining goals, the present one first.
  std::span<const vec3> places() const { return places_; }
  bool held() const { return held_; }
  /// Returns a number that grows with each change.
  std::uint32_t revision() const { return revision_; }

 private:
  Expected<void> set(vec3 at, bool held);

  std::pmr::vector<vec3> places_;
  bool held_ = false;
  std::uint32_t revision_ = 1;
};

/// Options of `Npc::click_to_move`, which walks to each clicked goal in turn and follows a held pointer.
///
/// Ends as `arrived` at the last goal (the cause says if that was only the nearest spot), as `off_ground` or
/// `no_route` if the last goal was refused, or as `stuck`. Refused without a goal.
struct ClickToMoveOptions {
  float within = 0.3f;  ///< metres from a goal that count as arrived, 0.001 to 1000
  float every = 0.1f;   ///< seconds between two plans while the pointer moves, at least; 0 to 10
  /// `refuse` skips the goal; while the pointer is held, the NPC keeps its goal from before.
  Unreachable unreachable = Unreachable::nearest;
};

}  // namespace ambulon
