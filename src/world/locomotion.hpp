#pragma once

#include <limits>

#include "motion/arc.hpp"
#include "world/by_slot.hpp"
#include "world/detail.hpp"
#include "world/progress_watch.hpp"
#include "world/watch.hpp"
#include "world/world_state.hpp"

namespace ambulon {

/// State of a game-driven body.
struct Advised {
  Advice advice;
  vec2 velocity{0.f};  // at the end of the tick, as `advance` returned it
  vec3 reported{0.f};
  ReportOptions report;
  bool has_report = false;
  BodyWatch watch;
  ProgressWatch progress;                               // of the errand
  float left = std::numeric_limits<float>::infinity();  // metres of its route
  double side_step_until = 0;
  vec2 side_step{0.f};  // metres per second
};

/// Locomotion: carries out intents on the ground, over crossings and on decks, or turns them into advice for
/// bodies that the game moves.
class Locomotion {
 public:
  Locomotion(WorldState& state, LevelOfDetail& detail)
      : state_(state),
        detail_(detail),
        advised_(&state.pool),
        flights_(&state.pool),
        pushes_(&state.pool),
        jumped_at_(state.memory) {}

  void add(std::uint32_t slot);
  void remove(NpcId id);

  /// Carries out the intent of an NPC for as long as it lasts within the tick. Changes only this NPC, so
  /// several threads may call it.
  void carry_out(std::uint32_t slot);
  /// Moves the riders of moving decks.
  void carry();
  /// Call it once a tick, after `carry`.
  void end_tick_of_decks();

  /// Takes the reports of game-driven bodies. Calls `moved(slot, advised, gone)` for each advised body, with
  /// the advised and the actual displacement in metres.
  template <class Moved>
  void take_reports(Moved&& moved);
  void report(std::uint32_t slot, vec3 position, const ReportOptions& options);
  Advised& advised(std::uint32_t slot) { return value_of(advised_, slot); }
  const Advised& advised(std::uint32_t slot) const { return value_of(advised_, slot); }
  /// Returns the motion that errands see. For a game-driven body its velocity is the advised one. With the
  /// real velocity a blocked body would be advised to accelerate gently for ever.
  Motion seen_motion(std::uint32_t slot) const;

  Expected<vec3> teleport(std::uint32_t slot, vec3 to);
  Expected<void> push(std::uint32_t slot, vec2 velocity, float seconds);
  /// Moves the NPC with the velocity of its push, or ends the push. Then it plans its route again.
  void carry_push(std::uint32_t slot);
  /// Returns a problem if its drive cannot change to that one now.
  Expected<void> may_set_drive(std::uint32_t slot, Drive drive) const;
  void set_drive(std::uint32_t slot, Drive drive);
  void set_body(std::uint32_t slot, const Body& body);
  Pose pose(std::uint32_t slot, float alpha) const;

  /// The arc of the crossing that an errand plans. `start_crossing` takes it.
  Arc& planned_arc() { return arc_; }
  void start_crossing(std::uint32_t slot);
  void forget_flights();

  /// Returns true if the ground has no edge within `metres`. It searches a larger area, so that the result
  /// holds for several ticks.
  bool has_room(std::uint32_t slot, vec3 at, float metres);
  /// Returns the spot at a place; fast if it is on the same piece of the ground as the last one.
  Snap find_spot(Mover& mover, vec3 at, float reach) const;
  Snap find_spot(Mover& mover, float reach) const { return find_spot(mover, mover.motion.position, reach); }

 private:
  /// The movement over a crossing.
  struct Flight {
    Arc arc;
    float gone = 0.f;  // seconds since its start
  };
  /// A knock-back.
  struct Push {
    vec2 velocity;
    double until;  // seconds since the world began
  };
  vec2 take_report(std::uint32_t slot, Advised& body, vec2 advised);
  void walk(std::uint32_t slot);
  void cross(std::uint32_t slot);
  void advise(std::uint32_t slot);
  static void smooth_height(Mover& mover, vec3 from, float height_ahead, float seconds);
  static float count_steps(Mover& mover, const Motion& was, vec3 shown_from, const Intent& intent,
                           float seconds);
  float keep_on_ground(std::uint32_t slot, vec3 from);
  void keep_on_deck(Mover& mover, vec3 from);
  void leave_removed_deck(std::uint32_t slot);
  void end_push(std::uint32_t slot);

  WorldState& state_;
  LevelOfDetail& detail_;
  BySlot<Advised> advised_;
  BySlot<Flight> flights_;
  Arc arc_;
  BySlot<Push> pushes_;
  // Once an NPC was teleported, by slot: the tick of its last teleport.
  std::pmr::vector<std::uint32_t> jumped_at_;
};

template <class Moved>
void Locomotion::take_reports(Moved&& moved) {
  if (state_.clock.last_seconds == 0.f) return;
  for (auto& [slot, body] : advised_) {
    const vec2 advised = state_.clock.last_seconds * vec2(body.advice.velocity);
    const vec2 gone = take_report(slot, body, advised);
    const Mover& mover = state_.npcs[slot];
    if (mover.drive == Drive::advised && mover.errand) moved(slot, advised, gone);
  }
}

}  // namespace ambulon
