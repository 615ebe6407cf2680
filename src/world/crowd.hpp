#pragma once

#include <vector>

#include "world/orders.hpp"

namespace ambulon {

class Encounters;

/// NPCs among each other: they avoid each other, make room, and are moved apart where they overlap. Does
/// nothing in a world without avoidance.
class Crowd {
 public:
  Crowd(WorldState& state, LevelOfDetail& detail, Locomotion& locomotion, const Orders& orders)
      : state_(state),
        detail_(detail),
        locomotion_(locomotion),
        orders_(orders),
        held_since_(&state.pool),
        overlapping_(state.memory),
        separations_(state.memory) {}

  /// Replaces the preferred velocities of all NPCs that decided in this tick.
  void avoid();
  /// Replaces that of one NPC in the middle of a tick, when NPCs may have been added.
  void avoid(std::uint32_t slot);
  /// Velocities do not change at once, so bodies may overlap. They move apart, each by half of the overlap,
  /// from the positions at the start of the round, so the order does not matter. Bodies that moved, and
  /// those that they now overlap, take part in the next round.
  void separate();
  /// Call it for each NPC that has moved. Several threads may call it.
  void note_distance(std::uint32_t slot);

  /// Wakes sleeping NPCs that are pushed by an NPC that does not avoid.
  void wake_the_pushed();
  /// Counts the seconds for which others have held up an NPC that wants to go on. Returns true if a report is
  /// due. Changes only this NPC.
  bool count_held(std::uint32_t slot);
  /// Wakes NPCs in the way, and records when a jam has lasted long and when it is over.
  void report_jam(std::uint32_t slot);
  /// Returns true if another body is within 0.1 m.
  bool crowded(std::uint32_t slot) const;

 private:
  void avoid(std::uint32_t slot, const Surroundings::AvoidanceState& mine);
  void keep_clear(std::uint32_t slot, const Surroundings::AvoidanceState& mine);
  void choose_velocity(std::uint32_t slot, const Encounters& encounters, float turn, bool company,
                       bool blocked);
  void make_room(std::uint32_t slot, const Surroundings::AvoidanceState& mine);
  vec2 way_back(std::uint32_t slot);
  bool near_edges(std::uint32_t slot);
  NpcId nearest_in_way(std::uint32_t slot) const;
  template <class Visit>
  void each_in_way(std::uint32_t slot, float radius, Visit&& visit) const;
  void find_overlaps();
  void update_overlaps();
  bool gives_way(std::uint32_t slot) const;
  vec2 separation_of(std::uint32_t place);

  // metres: more than two NPCs usually approach each other in a tick
  static constexpr float alone_within = 0.1f;
  static constexpr float nudge = 0.05f;  // metres: more than an NPC is usually pushed in a tick

  WorldState& state_;
  LevelOfDetail& detail_;
  Locomotion& locomotion_;
  const Orders& orders_;
  std::pmr::vector<float> held_since_;           // seconds, by slot, of reported jams; empty until the first
  std::pmr::vector<std::uint32_t> overlapping_;  // places of bodies that overlap
  std::pmr::vector<vec2> separations_;           // and their displacements, metres
  float furthest_ = 0.f;                         // metres squared: maximum displacement in this tick
};

}  // namespace ambulon
