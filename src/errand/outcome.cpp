#include "ambulon/errand/outcome.hpp"

#include <array>

#include <fmt/format.h>

#include "base/written.hpp"

namespace ambulon {

namespace {

// In the order of `Ending`.
constexpr std::array<std::string_view, ending_count> endings = {
    "arrived", "done",      "refused",  "no_route",  "off_ground", "blocked",
    "stuck",   "timed_out", "replaced", "cancelled", "gone"};

/// Reasons for refusing an order; empty for other causes.
std::string why_refused(const Outcome& outcome) {
  const float value = outcome.value;
  const vec3 where = outcome.where;
  const std::string_view subject = outcome.subject;
  switch (outcome.cause) {
    case Cause::not_finite:
      return fmt::format("{} is not a finite number", subject);
    case Cause::out_of_range:
      return fmt::format("{} is {:g}; it must lie between {:g} and {:g}", subject, value, where.x, where.y);
    case Cause::no_waypoints:
      return "the beat has no waypoints; give it at least one";
    case Cause::lap_of_shuffled:
      return "a shuffled beat has no lap time; use around, back_and_forth or once";
    case Cause::curve_of_shuffled:
      return "a shuffled beat has no curve to walk; use around, back_and_forth or once";
    case Cause::no_spots:
      return "the set of points is empty; give it at least one";
    case Cause::only_one_spot:
      return "the set has one point, which is not to be visited twice in a row; add another or allow repeats";
    case Cause::no_behaviour:
      return "the blend has no behaviours; give it at least one";
    case Cause::nearest_of_field:
      return "a flow field does not know the nearest spot to its goals; use refuse or wait";
    case Cause::takes_no_orders:
      return "the game alone moves it, so it takes no orders; add it with Drive::advised instead";
    case Cause::no_tiles:
      return "the ground is not made of tiles, so there are no junctions";
    case Cause::no_target:
      return "it has no target; give a target or a point";
    case Cause::after_itself:
      return "its target is the NPC itself";
    case Cause::nobody_to_choose:
      return "no NPC in the world has the tag of its target";
    default:
      return {};
  }
}

}  // namespace

std::string_view name(Ending ending) { return endings[static_cast<std::size_t>(ending)]; }

std::string Outcome::why() const {
  const auto spot = [this] { return written(where); };
  switch (cause) {
    case Cause::none:
      return ending == Ending::arrived ? "it is at its goal" : "it finished";
    case Cause::goal_off_ground:
      return fmt::format("the goal is off the ground; the nearest spot is {}, {:.2f} m off", spot(), value);
    case Cause::none_on_ground:
      return fmt::format(
          "no waypoint of the beat is on the ground; the nearest spot to one is {}, {:.2f} m off", spot(),
          value);
    case Cause::no_route:
      return value > 0.f ? fmt::format("no route leads to {}; the nearest reachable spot is {:.2f} m off",
                                       spot(), value)
                         : fmt::format("no route leads to {}", spot());
    case Cause::held_fast:
      return fmt::format("it was held fast at {} for {:.1f} s", spot(), value);
    case Cause::time_up:
      return fmt::format("its time limit of {:g} s has passed", value);
    case Cause::new_order:
      return fmt::format("it was replaced by the order {}", subject);
    case Cause::taken_back:
      return "it was cancelled";
    case Cause::script_ended:
      return "the routine that waited for it ended or went on without it";
    case Cause::condition_held:
      return "the condition that ends it became true";
    case Cause::npc_removed:
      return "the NPC was removed";
    case Cause::no_such_npc:
      return "the NPC is no longer in the world";
    case Cause::target_gone:
      return "its target is no longer in the world";
    case Cause::got_away:
      return fmt::format("its target escaped: it is {:.1f} m away", value);
    case Cause::far_enough:
      return fmt::format("it is {:.1f} m away, which is far enough", value);
    case Cause::no_progress:
      return fmt::format("it made no progress for {:.1f} s, at {}", value, spot());
    case Cause::as_often_as_asked:
      return fmt::format("it has done so {:g} times, as ordered", value);
    case Cause::no_goal_of_field:
      return fmt::format("no route leads from {} to a goal of the flow field", spot());
    case Cause::nearest_instead:
      return fmt::format("it is at the reachable spot nearest to {}, {:.2f} m off", spot(), value);
    case Cause::place_taken:
      return fmt::format("others stand at {}; it stopped beside them, {:.2f} m off", spot(), value);
    case Cause::something_in_way:
      return fmt::format("the straight line from {} is free for only {:.2f} m", spot(), value);
    default:
      return why_refused(*this);
  }
}

Outcome refusal(Cause cause, std::string_view subject) {
  return {.ending = Ending::refused, .cause = cause, .subject = subject};
}

std::optional<Outcome> refusal(std::initializer_list<Limit> limits) {
  for (const Limit& limit : limits)
    if (!limit.range.holds(limit.value))
      return Outcome{.ending = Ending::refused,
                     .cause = Cause::out_of_range,
                     .value = limit.value,
                     .where = {limit.range.min, limit.range.max, 0.f},
                     .subject = limit.name};
  return std::nullopt;
}

}  // namespace ambulon
