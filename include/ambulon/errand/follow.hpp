#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/errand/target.hpp"
#include "ambulon/errand/unreachable.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The frame of reference of an offset.
enum class OffsetFrame : std::uint8_t {
  target,  ///< x is ahead of the target, y to its left
  world,   ///< x and y of the world
};

/// Options of `Npc::follow`, which follows a moving target and stands when it is close.
///
/// 1. While the target moves, the NPC walks behind it at the target's speed.
/// 2. When the target stands, the NPC stops within `stop` metres of its place and starts again beyond
///    `resume` metres. The gap between the two prevents jitter.
/// 3. The route is planned again when the target has moved `replan_distance` metres since the last plan.
///
/// Ends as `gone` when the target is removed, or as `stuck`; with `Unreachable::refuse` as `off_ground` or
/// `no_route`.
///
///     dog.follow(owner, {.stop = 1.5f, .resume = 3});
struct FollowOptions {
  float stop = 1.5f;    ///< metres from its place at which it stops, 0.05 to 1000
  float resume = 2.5f;  ///< metres from its place at which it starts again, `stop` to 1e5
  vec2 offset{0.f};     ///< metres from the target to its place; (0, 0): any side of the target
  OffsetFrame frame = OffsetFrame::target;
  Range distances{};  ///< metres from its place: the speed changes linearly from the first of `speeds` at the
                      ///< nearer end to the second at the further end
  Range speeds{};     ///< metres per second, 0 to 100; empty: the gait's speed
  float replan_distance = 0.5f;  ///< metres the target moves before the route is planned again, 0.01 to 1000
  float act_within = 0.f;        ///< metres at which `Order::on_act` is called; 0: never
  Unreachable unreachable = Unreachable::wait;  ///< if no route leads to its place
};

}  // namespace ambulon
