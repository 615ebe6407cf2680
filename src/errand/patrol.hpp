#pragma once

#include "ambulon/errand/beat.hpp"
#include "ambulon/errand/order_options.hpp"

#include "errand/rest.hpp"
#include "errand/retry.hpp"
#include "errand/route_follower.hpp"

namespace ambulon {

/// The errand of `Npc::patrol`.
class Patrol final : public Errand {
 public:
  /// `memory`: for its rarely used parts.
  Patrol(BeatPtr beat, PatrolOptions options, std::pmr::memory_resource* memory);

  std::string_view name() const override { return "patrol"; }
  std::optional<vec3> goal() const override;
  float arrival_radius() const override { return within(); }
  Step step(const View& see, float seconds) override;
  std::optional<Intent> keep_on(const View& see, float seconds) override;
  /// In metres of the present lap. A lap of a shuffled beat is as many visits as there are waypoints.
  Progress progress(const View& see) const override;
  std::optional<float> left(const View& see) const override;
  std::span<const vec3> bends() const override {
    return curving() || phase_ != Phase::walking ? std::span<const vec3>() : follower_.bends_ahead();
  }
  std::string doing() const override;

  BeatPosition on_beat() const override {
    return {target_, back_ && beat_ && beat_->order() == BeatOrder::back_and_forth};
  }
  const Beat* beat() const override { return beat_.get(); }

 private:
  enum class Phase : std::uint8_t { walking, facing, pausing, waiting };
  /// State of a patrol with a time for the lap or a leg.
  struct Times {
    float lap, leg_time;   // as in its options
    double leg_began = 0;  // seconds
    float lap_metres = 0.f;
    float pauses_ahead = 0.f;  // seconds
    int stops_ahead = 0, starts_ahead = 0;
    float pace = 0.f;  // metres per second that keep the lap time
  };
  /// Waypoints that cannot be reached.
  struct Trouble {
    Retry retry;
    Outcome why;      // of the latest of them
    WaypointId from;  // the waypoint reached before
    std::uint32_t skipped_in_a_row = 0;
  };
  /// Position on a curve between two waypoints.
  struct Curving {
    float along, goal_along;  // metres along the curve, counted on around closed curves
    WaypointId from;
  };
  /// Rarely used state.
  struct Extras {
    std::optional<Trouble> trouble;
    std::optional<Curving> curving;  // empty: it follows the route
  };
  Trouble* trouble() { return extras_ && extras_->trouble ? &*extras_->trouble : nullptr; }
  Curving* curving() { return extras_ && extras_->curving ? &*extras_->curving : nullptr; }
  const Curving* curving() const { return extras_ && extras_->curving ? &*extras_->curving : nullptr; }
  Extras& extras(const View& see) { return extras_ ? *extras_ : extras_.make(see.memory); }

  std::optional<Outcome> mistake() const;
  std::optional<Outcome> begin(const View& see);
  std::optional<Outcome> take_in_edits(const View& see);
  void note_beat();

  // The route to the next waypoint.
  std::optional<Outcome> head_for(const View& see, std::size_t index);
  std::optional<Outcome> head_for_next(const View& see);
  void follow_curve_from(const View& see, std::size_t index);
  bool on_ground(const View& see, const Curving& leg) const;
  bool at_waypoint(const View& see);
  vec2 onward() const;
  bool nears_end(const View& see, float speed, float seconds) const;
  float passing_speed(const View& see) const;
  Intent walk(const View& see, float seconds);
  bool disturbed(const View& see);
  bool leg_is_over(const View& see) const {
    return leg_time() > 0.f && see.time - times_->leg_began >= leg_time();
  }
  Step wait_for_route(const View& see, const Outcome& why);
  Step give_up_leg(const View& see, float seconds);
  Intent walk_curve(const View& see, float speed, float seconds);
  void reach(const View& see);

  /// Returns the distance from the next waypoint that counts as arrived, metres.
  float within() const {
    const float own = own_within_ && index_ < beat_->size() ? (*beat_)[index_].within : 0.f;
    return own > 0.f ? own : within_;
  }

  // The order of waypoints.
  std::size_t following(std::size_t index, bool back) const;
  std::optional<std::size_t> next_index(Random& random);
  bool stops_at(std::size_t index) const;

  // Laps.
  float lap() const { return times_ ? times_->lap : 0.f; }  // seconds, 0: no limit
  float leg_time() const { return times_ ? times_->leg_time : 0.f; }
  std::size_t legs_in_lap() const;
  float leg_length(const View& see, std::size_t from, std::size_t to) const;
  float lap_length(const View& see) const;
  float left_of_leg(const View& see) const;
  void sum_stops_ahead();
  void measure_leg(const View& see);
  float expected_stop_seconds(const View& see, float pace) const;
  float speed(const View& see);
  void count_lap(const View& see);

  // Thousands of NPCs may patrol: rarely used members are allocated separately, and members are packed.
  Phase phase_ = Phase::walking;
  Unreachable unreachable_ : 2;
  bool from_first_ : 1;
  bool back_ : 1;           // walking a back_and_forth beat from last to first
  bool stops_ : 1 = false;  // it stops at the next waypoint
  bool lap_running_ : 1 = false;
  bool own_within_ : 1 = false;      // a waypoint has its own `within`
  std::uint32_t seen_revision_ = 0;  // of the beat; 0: not begun
  BeatPtr beat_;
  RouteFollower follower_;
  HeapOptional<Times> times_;
  HeapOptional<Extras> extras_;
  Rest rest_;
  double lap_began_ = 0;
  float within_;
  std::uint32_t index_ = 0;  // of the next waypoint
  WaypointId target_{};
  std::uint32_t first_index_ = 0;
  WaypointId reached_{};   // the waypoint reached last
  float end_speed_ = 0.f;  // maximum speed at the next waypoint; 0 if it stops there
  std::uint32_t legs_done_ = 0;
  // Metres between the waypoints of the leg, or a lower bound; 0: it began elsewhere
  float leg_between_ = 0.f;
  float leg_metres_ = 0.f, metres_done_ = 0.f;
};

}  // namespace ambulon
