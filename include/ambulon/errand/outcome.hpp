#pragma once

#include <cstdint>
#include <initializer_list>
#include <optional>
#include <string>
#include <string_view>

#include "ambulon/base/public.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How an order ended. Every order ends exactly once.
enum class Ending : std::uint8_t {
  arrived,     ///< at the goal
  done,        ///< an order without a goal finished: a pause, a turn, a wait
  refused,     ///< the order is invalid; nothing was done
  no_route,    ///< no route leads to the goal
  off_ground,  ///< the goal, or the NPC, is not on the ground
  blocked,     ///< a straight move met an obstacle
  stuck,       ///< it made no progress
  timed_out,   ///< its time limit passed
  replaced,    ///< another order took its place
  cancelled,   ///< it was cancelled
  gone,        ///< the NPC or its target was removed
};
inline constexpr int ending_count = 11;  ///< number of endings

/// Returns the ending's name, as scene files, tables and the journal write it.
std::string_view name(Ending ending);

/// Why an order ended; `Outcome::why` puts it into words.
enum class Cause : std::uint8_t {
  none,
  not_finite,         ///< a coordinate or number of the order is not finite
  out_of_range,       ///< `value` of `subject` does not lie between `where.x` and `where.y`
  no_waypoints,       ///< the beat is empty
  lap_of_shuffled,    ///< seconds for a lap were given to a beat that is shuffled
  curve_of_shuffled,  ///< a beat that is shuffled was to be walked as a curve
  goal_off_ground,    ///< `where` is the nearest spot, `value` metres off the goal
  none_on_ground,     ///< no waypoint of the beat lies on the ground
  no_route,           ///< no route leads to `where`, only to a spot `value` metres off; 0: to none
  held_fast,          ///< at `where` for `value` seconds
  time_up,            ///< after `value` seconds
  new_order,          ///< `subject` is the new order
  taken_back,         ///< by its owner
  script_ended,       ///< the routine that waited for it ended or went on without it
  condition_held,     ///< the condition that it was given until
  npc_removed,        ///< the NPC was taken out of the world
  no_such_npc,        ///< the handle's NPC is not in the world any more
  target_gone,        ///< the NPC it was after is not in the world any more
  nobody_to_choose,   ///< nobody in the world has the tag asked for
  after_itself,       ///< the NPC was to go after itself
  got_away,           ///< the NPC it was after is `value` metres off
  far_enough,         ///< `value` metres from what it fled from
  no_progress,        ///< it made no progress for `value` seconds, at `where`
  no_spots,           ///< the set of points is empty
  only_one_spot,      ///< the set has one point, and no point is to be repeated
  as_often_as_asked,  ///< `value` times
  no_behaviour,       ///< the blend is empty
  no_goal_of_field,   ///< from `where`, the flow field leads nowhere
  nearest_of_field,   ///< an order by a flow field was to go to the nearest spot to its goal
  takes_no_orders,    ///< the game alone moves it
  no_tiles,           ///< the ground is not made of tiles
  no_target,          ///< whom or what to go towards or away from was not said
  nearest_instead,    ///< `where` could not be reached; it went to the nearest spot, `value` metres off
  place_taken,        ///< others stand at `where`; it came as near as they left room, `value` metres off
  something_in_way,   ///< the straight line from `where` is not free for more than `value` metres
};

/// The end of an order and its reason. True if the order succeeded (`arrived` or `done`).
struct Outcome {
  Ending ending = Ending::done;
  Cause cause = Cause::none;
  float value = 0.f;              ///< what the cause says
  vec3 where{0.f};                ///< what the cause says, metres
  std::string_view subject = {};  ///< what the cause says; static text

  explicit operator bool() const { return ending == Ending::arrived || ending == Ending::done; }

  /// Returns the reason in words, such as "the goal is off the ground; the nearest spot is (3, 4), 1.8 m
  /// off".
  std::string why() const;
};

/// Returns the outcome of an invalid order.
Outcome refusal(Cause cause, std::string_view subject = {});

/// A number of an order, and its valid range.
struct Limit {
  std::string_view name;  ///< static text
  float value;
  Range range;
};

/// Returns the refusal of the first number that is out of its range; nothing if all are valid.
std::optional<Outcome> refusal(std::initializer_list<Limit> limits);

}  // namespace ambulon
