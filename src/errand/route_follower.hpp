#pragma once

#include "ambulon/errand/errand.hpp"

#include "base/geometry.hpp"
#include "base/heap_optional.hpp"
#include "errand/retry.hpp"
#include "motion/arc.hpp"
#include "route/compact_route.hpp"
#include "route/route_service.hpp"

namespace ambulon {

/// The spot of a goal (metres), at most half a metre off, or `within` metres if that is more; or that the
/// goal is off the ground.
tl::expected<Spot, Outcome> spot_of_goal(const View& see, vec3 goal, float within);
/// That no way leads from the NPC to `goal` (metres), and how near it could get.
Outcome no_route(const View& see, vec3 goal);

/// A route and how far an NPC has come along it: what every errand that walks to a point stands on.
class RouteFollower {
 public:
  RouteFollower() = default;
  RouteFollower(const RouteFollower&) = delete;
  RouteFollower& operator=(const RouteFollower&) = delete;

  /// Lays the shortest way from where the NPC stands to `goal` (metres), or asks for it where ways are found
  /// in turn: until then it goes on along the way it had, or stands. `within`: metres from the goal that
  /// count as there; a goal off the ground may be that far off. Where no way leads there, it does as
  /// `unreachable` says; the reason when it can do nothing. May be asked again at any time.
  std::optional<Outcome> lay(const View& see, vec3 goal, float within, Unreachable unreachable);

  /// True while the way that was asked for last is not there yet.
  bool waits() const { return asked_ && !found_none_ && !asked_.wish()->jam; }
  /// True while it stands because no way leads to the goal.
  bool stands() const { return less_ && less_->retry.waits(); }
  /// True when it leads to the nearest spot instead of to the goal.
  bool leads_elsewhere() const { return less_ && less_->instead; }

  /// True when there is no way yet, or the ground has changed along it, the NPC was put elsewhere, or pushed
  /// aside so far that it cannot go straight on to the next bend, since; when ground has opened by which a
  /// shorter route may lead; or when it is time to look again for a way that there was not. To be asked at
  /// each step, since it also fetches the way that was asked for.
  bool outdated(const View& see);

  /// True where neither the ground has changed nor the NPC was put elsewhere since it was laid, or found to
  /// hold still.
  bool up_to_date(const View& see) const {
    return ground_revision_ == see.ground_revision && jumps_ == see.jumps;
  }
  /// The NPC is where it leads: whatever has changed does not matter any more.
  void bring_up_to_date(const View& see) {
    ground_revision_ = see.ground_revision;
    jumps_ = see.jumps;
  }

  /// True once the NPC has come within `radius` metres of the end, at any moment since it was asked
  /// last; or as near as others who stand there leave room: many with one goal stand around it. Keeps count
  /// of the bends it comes by, so it is asked at each step.
  bool at_end(const View& see, float radius);

  /// True where all there is to be done is to `go_on`: it is not outdated, nor at its end, nor before a
  /// crossing, and nobody around has to be asked for. Of many NPCs it may be asked at once; whoever gets
  /// false asks all of these one by one.
  bool is_open(const View& see, float radius);

  /// How it came to within `radius` metres of its end: arrived, perhaps as near as there was room, or as the
  /// ground goes.
  Outcome arrival(const View& see, float radius) const;

  /// The intent to go on at `speed` and to come within `radius` metres of the end at `end_speed`,
  /// all in metres (per second); 0 stands still there. Where the way crosses to elsewhere, an arc is part of
  /// it; the next question is then asked at its end.
  Intent go_on(const View& see, float radius, float speed, float end_speed, float seconds);

  /// True when nothing but a straight line is left to the end.
  bool on_last_leg() const { return route_.on_last_leg(); }
  /// Moves the end by a little without a new plan, for a goal that moves; not the end of a crossing.
  void move_end(vec3 end);

  /// Metres of the whole way, and of what is left of it from `position`.
  float length() const { return route_.length(); }
  float left(vec3 position) const;

  /// From the bend behind it to the end.
  std::span<const vec3> bends_ahead() const { return route_.bends_ahead(); }
  /// How far along it the NPC has come; nothing of no way.
  Progress progress(vec3 position) const;

  /// The spot to which it leads, or will when it is there; nowhere when it stands without a way.
  std::optional<vec3> destination() const {
    return waits() ? std::optional(asked_.wish()->to.position) : end();
  }
  /// Where it ends; nowhere when there is no way.
  std::optional<vec3> end() const { return route_.empty() ? std::nullopt : std::optional(route_.end()); }
  /// The unit direction in which the way comes to its end; zero when it has no length.
  vec2 end_direction() const;

 private:
  /// Where others are in the way.
  struct Jam {
    vec2 gate{0.f};  // metres, from the bend outwards: it goes through between; zero: round the bend itself
    float nearest = std::numeric_limits<float>::infinity();  // metres from the end, so far, while held up
    float short_of = 0.f;  // metres from the end that it stays, since others stand there
    double nearer_at = 0;  // seconds: when it last came nearer
  };
  /// Ground that opened and may allow a shorter route. The route is then planned again at most once in a
  /// period, which grows while no shorter route is found: a barrier may move in every tick.
  struct Opening {
    std::uint8_t seen : 1 = 0;    // since the route was planned
    std::uint8_t asked : 1 = 0;   // a shorter route is being planned
    std::uint8_t vain : 2 = 0;    // 0 to 3: how often in a row there was none
    std::uint8_t period : 4 = 0;  // in which the route was planned
  };
  /// Of a way that does not lead to the goal itself.
  struct Shortfall {
    vec3 goal{0.f};
    float off = 0.f;       // metres from the goal to the end of the way
    float within = 0.f;    // metres that a spot may be off the goal
    bool instead = false;  // the end is the nearest spot that can be reached
    Retry retry;
  };
  enum class Crossing : std::uint8_t { none, ahead, reached, begun };

  std::optional<Outcome> lay_to(const View& see, const Spot& to);
  bool opened(const View& see) const;
  float reach_of_end(float radius) const;
  void set_out(const View& see, Route& route);
  std::uint8_t period(const View& see) const;
  void tell_of_opening(const View& see, float left);
  void fetch(const View& see);
  void set_next_bend(const View& see, std::uint32_t bend);
  void pass_bends(const View& see);
  bool passed_aside(const View& see) const;
  bool passed_gate(const View& see);
  vec2 gate() const { return jam_ ? jam_->gate : vec2(0.f); }
  vec2 gate_before(const View& see) const;
  vec2 through_gate() const;
  void watch_jam(const View& see);
  void look_for_gate(const View& see);
  void look_for_way_round(const View& see);
  static float seconds_through(const View& see, const Bottleneck& jam, float radius);
  void fetch_way_round(const View& see);
  Jam& jam(const View& see);
  bool taken(const View& see);
  bool strayed(const View& see);
  static bool held_up(const View& see);
  float speed_at(const View& see, std::uint32_t i) const;
  Arc arc_from(const View& see, vec3 from, const CrossingLeg& leg) const;
  Intent cross(const View& see);

  CompactRoute route_;
  RouteTicket asked_;      // for a way that is not there yet, or that there is none; or round a jam
  HeapOptional<Jam> jam_;  // while it is held up, or has been
  HeapOptional<Shortfall> less_;
  std::uint64_t ground_revision_ = 0;   // when it was laid, or found to hold still
  std::uint32_t jumps_ = 0;             // the same
  bool found_none_ = false;             // there is none, such as it asked for
  bool strayed_ : 1 = false;            // and it has not been laid since
  bool round_jam_ : 1 = false;          // it leads round a jam, and is longer for that
  bool blocked_ : 1 = false;            // something changed along it, and it has not been laid since
  Crossing crossing_ = Crossing::none;  // that begins at the next bend
  Opening opening_;
  // What each step needs, so that the bends are only looked at when one is passed.
  vec2 bend_{0.f};          // the next
  float bend_speed_ = 0.f;  // at which it may be taken
  float bend_reach_ = 0.f;  // metres from it that count as there
  // Seconds; floats, since there are thousands of NPCs and a few hundredths of a second do not matter.
  float next_jam_check_ = 0.f;  // not before, at who is in the way
  float next_look_ = 0.f;       // not before, whether the next bend is in sight
};

}  // namespace ambulon
