#pragma once
// Flocking and steering among neighbours: pure functions that return a wish. The terms are those of C.
// Reynolds, "Flocks, Herds, and Schools: A Distributed Behavioral Model" (1987) and "Steering Behaviors For
// Autonomous Characters" (1999).

#include <span>

#include "ambulon/base/id.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/motion/motion.hpp"
#include "ambulon/motion/wish.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Another NPC nearby, or a round obstacle.
struct Neighbour {
  NpcId id = {};       ///< empty for an obstacle
  vec2 offset{0.f};    ///< metres, from the NPC to its centre
  vec2 velocity{0.f};  ///< metres per second
  float radius = 0.f;  ///< metres
};

/// Separation: away from each neighbour whose body is nearer than `distance` metres (> 0), with an urgency
/// that grows as the distance shrinks. `radius`: of the NPC's own body.
Wish separation(const Motion& motion, float radius, std::span<const Neighbour> neighbours, float distance,
                float speed);

/// Alignment: the mean velocity of the neighbours.
Wish alignment(std::span<const Neighbour> neighbours, float speed);

/// Cohesion: to the centre of the neighbours, with an urgency that grows to 1 at `distance` metres (> 0).
Wish cohesion(std::span<const Neighbour> neighbours, float distance, float speed);

/// Avoids obstacles that the NPC would hit within `seconds` (> 0) at its present velocity: to the side with
/// more room, to the right if it is head-on.
Wish avoid_obstacles(const Motion& motion, float radius, std::span<const Neighbour> obstacles, float seconds,
                     float speed);

/// A probe of the ground ahead.
struct Feeler {
  vec2 way{0.f};     ///< metres: direction and length of the probe
  float free = 1.f;  ///< walkable fraction of it, 0 to 1
  vec2 inward{0.f};  ///< unit normal of the edge that it hit, into the ground
};

/// Turns away from the nearest edge that a probe hit and moves along it, with an urgency that grows as the
/// distance shrinks.
Wish avoid_edges(const Motion& motion, std::span<const Feeler> feelers, float speed);

/// Queueing: returns `wanted`, slowed down so that the NPC stays `gap` metres (>= 0) behind the neighbour
/// ahead.
vec2 queue(const Motion& motion, const Gait& gait, float radius, std::span<const Neighbour> neighbours,
           vec2 wanted, float gap, float seconds);

}  // namespace ambulon
