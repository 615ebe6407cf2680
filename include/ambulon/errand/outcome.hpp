#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// How an order ended. Every order ends in exactly one of these.
enum class Ending : std::uint8_t {
  arrived,     ///< at the goal
  done,        ///< an order without a goal has run its course: a pause, a turn, a wait
  refused,     ///< the order itself makes no sense; nothing was done
  no_way,      ///< there is no way to the goal
  off_ground,  ///< the goal, or the NPC, is not on the ground
  blocked,     ///< the way is closed
  stuck,       ///< it wanted to move and could not
  timed_out,   ///< its time was up
  replaced,    ///< another order took its place
  cancelled,   ///< taken back
  gone,        ///< the NPC, or what it was after, is no longer there
};
inline constexpr int ending_count = 11;

/// The ending's name, as scene files, tables and the journal write it.
std::string_view name(Ending ending);

/// Why an order ended as it did; `Outcome::why` puts it into words.
enum class Cause : std::uint8_t {
  none,
  not_finite,         ///< a coordinate or number of the order is not finite
  out_of_range,       ///< `value` lies outside of what `subject` allows
  no_waypoints,       ///< the beat is empty
  lap_of_shuffled,    ///< seconds for a lap were given to a beat that is shuffled
  curve_of_shuffled,  ///< a beat that is shuffled was to be walked as a curve
  goal_off_ground,    ///< `where` is the nearest spot, `value` metres off the goal
  none_on_ground,     ///< no waypoint of the beat lies on the ground
  no_route,           ///< no way leads to `where`
  held_fast,          ///< at `where` for `value` seconds
  time_up,            ///< after `value` seconds
  new_order,          ///< `subject` is the new order
  taken_back,         ///< by its owner
  script_ended,       ///< the routine it belonged to ended
  npc_removed,        ///< the NPC was taken out of the world
  no_such_npc,        ///< the handle's NPC is not in the world any more
  target_gone,        ///< the NPC it was after is not in the world any more
};

/// The end of an order and its reason. True when the order reached what it was for.
struct Outcome {
  Ending ending = Ending::done;
  Cause cause = Cause::none;
  float value = 0.f;              ///< what the cause says
  vec3 where{0.f};                ///< what the cause says, metres
  std::string_view subject = {};  ///< what the cause says; static text

  explicit operator bool() const { return ending == Ending::arrived || ending == Ending::done; }

  /// The reason in words, such as "the goal is off the ground; the nearest spot is (3, 4), 1.8 m off".
  std::string why() const;
};

}  // namespace ambulon
