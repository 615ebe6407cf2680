#pragma once

#include "ambulon/errand/errand.hpp"

#include "base/geometry.hpp"
#include "base/heap_optional.hpp"
#include "errand/narrow_place.hpp"
#include "errand/retry.hpp"
#include "errand/stall.hpp"
#include "motion/arc.hpp"
#include "route/compact_route.hpp"
#include "route/route_service.hpp"

namespace ambulon {

/// Returns the spot of a goal (metres), at most 0.5 m or `within` metres off, whichever is more. Returns an
/// outcome if the goal is off the ground.
tl::expected<Spot, Outcome> spot_of_goal(const View& see, vec3 goal, float within);
/// Returns the outcome that no route leads to `goal` (metres), with how near the NPC could get.
Outcome no_route(const View& see, vec3 goal);

/// Plans a route, tracks the position on it, and steers along it. All errands that walk to a point use it.
///
/// States: no route, planning (the request waits in the `RouteService`), following, stranded (no route
/// exists; it tries again at times).
class RouteFollower {
 public:
  RouteFollower() = default;
  RouteFollower(const RouteFollower&) = delete;
  RouteFollower& operator=(const RouteFollower&) = delete;

  /// Plans the shortest route from the NPC to `goal` (metres).
  ///
  /// 1. If routes are searched in turn, this makes a request. Until the answer the NPC follows its previous
  ///    route, or stands.
  /// 2. `within`: metres from the goal that count as arrived. A goal off the ground may be that far off.
  /// 3. If no route leads to the goal, `unreachable` decides. Returns the reason if nothing can be done.
  /// 4. It may be called at any time; a new call replaces the previous goal.
  std::optional<Outcome> plan(const View& see, vec3 goal, float within, Unreachable unreachable);

  /// Returns true while a requested route is not found yet.
  bool is_planning() const { return asked_ && !found_none_ && !asked_.wish()->jam; }
  /// Returns true while the NPC stands because no route leads to the goal.
  bool is_stranded() const { return less_ && less_->retry.waits(); }
  /// Returns true if the route leads to the nearest spot instead of the goal.
  bool ends_elsewhere() const { return less_ && less_->instead; }

  enum class Status : std::uint8_t {
    must_plan,  ///< call `plan`
    planning,   ///< a requested route is not found yet
    stranded,   ///< no route exists; it is not time to try again
    following,  ///< the route is valid
  };
  /// Takes over a requested route or detour that is found, and returns the status. Call it in each step. A
  /// new plan is due
  ///
  /// 1. without a route, or when it is time to try again after there was none,
  /// 2. if the ground has changed along the route, or has opened where a shorter route may lead,
  /// 3. if the NPC was teleported, or pushed so far aside that the next bend is out of sight.
  Status update(const View& see);

  /// Returns true if neither the ground nor the NPC's place was changed from outside since the route was
  /// planned or checked.
  bool up_to_date(const View& see) const {
    return ground_revision_ == see.ground_revision && jumps_ == see.jumps;
  }
  /// Marks the route as checked against the present ground.
  void bring_up_to_date(const View& see) {
    ground_revision_ = see.ground_revision;
    jumps_ = see.jumps;
  }

  /// Returns true after the NPC came within `radius` metres of the end, at any moment of the last step, or as
  /// near as NPCs that stand there leave room. It also counts passed bends, so call it in each step.
  bool at_end(const View& see, float radius);

  /// Fast path, called from many threads: returns true if the NPC only has to `go_on`. The route is then up
  /// to date, its end and the next crossing are not reached, and no query about neighbours is due. On false,
  /// call the functions above.
  bool can_go_on(const View& see, float radius);

  /// Returns the outcome at the end: arrived, possibly as near as there was room, or at the nearest reachable
  /// spot.
  Outcome arrival(const View& see, float radius) const;

  /// Returns the intent to go on at `speed`, and to come within `radius` metres of the end at `end_speed` (0:
  /// to stop there). At a crossing the intent contains an `Arc`, and the next step is at its end.
  Intent go_on(const View& see, float radius, float speed, float end_speed, float seconds);
  /// As `go_on`, but passes the end without a stop, on an arc towards the unit direction `onward` that stays
  /// within `radius` metres of it.
  Intent pass_end(const View& see, float radius, float speed, vec2 onward, float seconds);
  /// Returns true after the NPC turned to `onward` at the end, or if something keeps it from turning. Call it
  /// after `at_end`.
  bool passed_end(const View& see, float radius, vec2 onward) const;
  /// Returns the maximum speed for `pass_end` with a turn of that angle.
  static float passing_speed(const Gait& gait, float radius, float angle);

  /// Returns true if only a straight line is left.
  bool on_last_leg() const { return route_.on_last_leg(); }
  /// Moves the end slightly without planning, for a moving goal; not the end of a crossing.
  void move_end(vec3 end);

  /// Metres of the whole route, and the rest of it from `position`.
  float length() const { return route_.length(); }
  float left(vec3 position) const;

  /// Returns the bends from the last one passed to the end.
  std::span<const vec3> bends_ahead() const { return route_.bends_ahead(); }
  /// Returns the progress along the route; empty without one.
  Progress progress(vec3 position) const;

  /// Returns the end of the present or the requested route; nothing while stranded.
  std::optional<vec3> destination() const {
    return is_planning() ? std::optional(asked_.wish()->to.position) : end();
  }
  /// Returns the end of the route; nothing without one.
  std::optional<vec3> end() const { return route_.empty() ? std::nullopt : std::optional(route_.end()); }
  /// Returns the unit direction of the last leg; zero for a route without length.
  vec2 end_direction() const;

 private:
  /// What an NPC does before a narrow place to which others come from the other side.
  enum class Conduct : std::uint8_t {
    goes,        ///< there are none, or it is this side's turn
    keeps_lane,  ///< both sides pass at once, each on its right
    waits,       ///< it is the other side's turn
  };
  /// State before a narrow place.
  struct Entrance {
    NarrowPlace place;
    Conduct conduct = Conduct::goes;
    float gave_way = -1.f;    // seconds: when it first waited; negative: it did not
    float waits_since = 0.f;  // seconds
    bool impatient = false;   // it waits no more
    bool both_sides = false;  // one may wait on either side of the way out, else only on its own
    bool in_queue = false;    // others stand before it
  };
  /// State while other NPCs are in the way.
  struct Jam {
    vec2 gate{0.f};        // metres, from the bend outwards: it passes anywhere between; zero: at the bend
    float short_of = 0.f;  // metres from the end at which it stays, since others stand there
    Stall stall;           // of its way to the end, while it is held up
    HeapOptional<Entrance> entrance;  // of the next narrow place, until it is passed
  };
  /// Ground that opened and may allow a shorter route. Then the route is planned again at most once in a
  /// period. The period grows while no shorter route is found, since a barrier may move in every tick.
  struct Opening {
    std::uint8_t seen : 1 = 0;    // since the route was planned
    std::uint8_t asked : 1 = 0;   // a shorter route is being planned
    std::uint8_t vain : 2 = 0;    // 0 to 3: planned in vain in a row
    std::uint8_t period : 4 = 0;  // in which the route was planned
  };
  /// State of a route that does not lead to the goal itself.
  struct Shortfall {
    vec3 goal{0.f};
    float off = 0.f;       // metres from the goal to the end of the route
    float within = 0.f;    // metres that a spot may be off the goal
    bool instead = false;  // the end is the nearest reachable spot
    Retry retry;
  };
  enum class Crossing : std::uint8_t { none, ahead, reached, begun };
  /// The arc on which a bend is passed: tangent to both directions, with its apex at the bend, so that it
  /// swings out on the outer side.
  struct Turn {
    vec2 centre{0.f};    // metres
    vec2 entry{0.f};     // metres: where it begins
    float radius = 0.f;  // metres
    float angle = 0.f;   // radians, positive to the left

    float side() const { return angle > 0.f ? 1.f : -1.f; }  // 1 to the left, -1 to the right
  };

  static constexpr float turned_there = 0.02f;  // radians left of an arc at which it ends
  static constexpr float min_reach = 0.02f;     // metres from the beginning of an arc that count as there
  static constexpr float slowest_part = 0.25f;  // of the gait's speed: minimum at a crossing
  static constexpr float any_room = std::numeric_limits<float>::infinity();  // metres on the outer side

  std::optional<Outcome> plan_to(const View& see, const Spot& to);
  bool opened(const View& see) const;
  bool changed(const View& see);
  float reach_of_end(float radius) const;
  void set_out(const View& see, Route& route);
  void forget_route();
  std::uint8_t period(const View& see) const;
  void record_opening(const View& see, float left);
  void take_answer(const View& see);
  void set_next_bend(const View& see, std::uint32_t bend);
  void pass_bends(const View& see);
  bool missed_entry(vec2 now) const;
  bool begin_turn(const View& see);
  bool passed_aside(const View& see) const;
  bool passed_gate(const View& see);
  vec2 corner() const { return flat(route_.next_bend()); }
  vec2 gate() const { return jam_ ? jam_->gate : vec2(0.f); }
  vec2 gate_before(const View& see) const;
  vec2 through_gate() const;
  void watch_jam(const View& see);
  void look_for_gate(const View& see);
  void look_for_narrow_place(const View& see);
  bool gives_way() const { return jam_ && jam_->entrance && jam_->entrance->conduct != Conduct::goes; }
  void find_narrow_place(const View& see);
  void leave_narrow_place(const View& see);
  static bool has_room_beside(const View& see, const NarrowPlace& place, float side);
  bool has_lanes_ahead(const View& see) const;
  static bool queues_behind_others(const View& see, const Entrance& entrance);
  static Conduct conduct_before(const View& see, const Entrance& entrance);
  Intent at_narrow_place(const View& see, float speed) const;
  void look_for_detour(const View& see);
  static float seconds_through(const View& see, const Bottleneck& jam, float radius);
  void take_detour(const View& see);
  Jam& jam(const View& see);
  bool end_is_full(const View& see);
  bool strayed(const View& see);
  static float lane_width(const View& see, const Spot& here, vec2 way);
  static bool held_up(const View& see);
  vec2 course(vec2 now) const;
  static float max_swing(const Gait& gait, float angle);
  Turn turn_at(const Gait& gait, std::uint32_t i, float room) const;
  static float angle_left(vec2 off, float side, vec2 out);
  float angle_left(vec2 at) const;
  static Intent along_arc(const View& see, vec2 off, float radius, float side, float left, float fast,
                          float seconds);
  Turn turn_at_end(const Gait& gait, float radius, vec2 onward) const;
  Intent turn(const View& see, float speed, float seconds) const;
  float speed_at(const View& see, std::uint32_t i) const;
  static float speed_on(const Gait& gait, const Turn& turn);
  Arc arc_from(const View& see, vec3 from, const CrossingLeg& leg) const;
  Intent cross(const View& see);

  CompactRoute route_;
  RouteTicket asked_;      // request for a route or a detour; kept if there is none
  HeapOptional<Jam> jam_;  // while it is held up, and for a while after
  HeapOptional<Shortfall> less_;
  std::uint64_t ground_revision_ = 0;   // when it was planned or checked
  std::uint32_t jumps_ = 0;             // the same
  bool found_none_ = false;             // the answer was that there is none
  bool strayed_ : 1 = false;            // pushed aside since it was planned
  bool is_detour_ : 1 = false;          // it is a detour around a jam
  bool blocked_ : 1 = false;            // something changed along it since it was planned
  bool turns_ : 1 = false;              // it is on the arc of the next bend
  std::uint8_t unsearched_ : 3 = 0;     // checks of NPCs in the way until it may search for a narrow place
  Crossing crossing_ = Crossing::none;  // at the next bend
  Opening opening_;
  // Cached data of the next bend, so that most steps do not read the bends.
  vec2 bend_{0.f};          // where its arc begins; on the arc its centre; the end of the route
  float bend_speed_ = 0.f;  // maximum speed there
  float bend_reach_ = 0.f;  // metres from it that count as there; on the arc its radius
  // Seconds; floats, to save memory. An error of 0.01 s does not matter.
  float next_jam_check_ = 0.f;  // next check of NPCs in the way
  float next_look_ = 0.f;       // next check that the next bend is in sight
};

}  // namespace ambulon
