#pragma once

#include <array>
#include <deque>
#include <limits>
#include <optional>
#include <string>

#include "route/route_service.hpp"
#include "world/locomotion.hpp"

namespace ambulon {

/// The orders of a world: they start, are asked for intents, and end.
class Orders {
 public:
  Orders(WorldState& state, LevelOfDetail& detail, Locomotion& locomotion, std::uint64_t route_work);

  Order start(NpcId id, ErrandPtr errand);
  void finish(std::uint32_t slot, Outcome outcome);
  void suspend(std::uint32_t slot, bool suspended);
  void remove(std::uint32_t slot);
  void destroy_errand(Mover& mover);

  /// How its orders ended, if any did.
  struct Ends {
    Outcome last;
    std::uint32_t serial = 0;  // of that order
    std::array<std::uint32_t, ending_count> counts{};
  };
  /// Null if none of its orders has ended.
  const Ends* ends(std::uint32_t slot) const;

  void set_time_limit(std::uint32_t slot, float seconds);
  void set_patience(std::uint32_t slot, float seconds);
  /// Returns the seconds without progress after which its order ends as stuck.
  float patience(std::uint32_t slot) const;
  /// Returns the lowest patience so far, seconds.
  float min_patience() const { return min_patience_; }
  void heed_patience(float seconds) {
    if (seconds > 0.f) min_patience_ = std::min(min_patience_, seconds);
  }

  void begin_tick() { routes_.begin(route_work_); }
  /// The result of `try_keep_on`: the NPC does not decide in this tick, its errand continues, or it is to be
  /// asked next.
  enum class Asked : std::uint8_t { no, keeps_on, next };
  /// Begins the tick of an NPC, and asks whether its errand simply continues. Changes only this NPC.
  Asked try_keep_on(std::uint32_t slot);
  /// Asks the errand for an intent. Returns false if the order ended.
  bool ask(std::uint32_t slot);
  /// Asks in the middle of a tick: a requested route is searched at once if the budget allows.
  bool ask_with_routes(std::uint32_t slot);
  /// Answers route requests. Returns the NPCs that got a route, by slot.
  std::span<const std::uint32_t> find_routes() {
    return routes_.serve(state_.ground, state_.clock.time, state_.jobs);
  }
  const RouteFigures& route_figures() const { return routes_.figures(); }

  View view_of(std::uint32_t slot, const Motion& me);
  float until_asked(std::uint32_t slot) const;

 private:
  /// Time limit of the present order.
  struct TimeLimit {
    double deadline;
    float seconds;
  };
  float time_left(std::uint32_t slot) const;
  static void set_intent(Mover& mover, const Intent& intent, float left);
  std::string_view lasting_name(std::string_view name);

  WorldState& state_;
  LevelOfDetail& detail_;
  Locomotion& locomotion_;
  std::uint64_t route_work_;
  RouteService routes_;  // must outlive the errands, which hold tickets
  BySlot<TimeLimit> time_limits_;
  BySlot<float> patiences_;  // seconds, of present orders with their own patience
  float min_patience_;
  BySlot<Ends> ends_;
  std::pmr::deque<std::pmr::string> errand_names_;
};

}  // namespace ambulon
