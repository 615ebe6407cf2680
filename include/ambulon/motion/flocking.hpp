#pragma once
// Steering among others: keeping apart, together and in step, and not running into them. Pure
// functions from what is seen of the neighbours to a wish. The terms are those of C. Reynolds, "Flocks,
// Herds, and Schools: A Distributed Behavioral Model" (1987) and "Steering Behaviors For Autonomous
// Characters" (1999).

#include <span>

#include "ambulon/base/id.hpp"
#include "ambulon/motion/motion.hpp"
#include "ambulon/motion/wish.hpp"

namespace ambulon {

/// Somebody nearby, or something round that stands in the way.
struct Neighbour {
  NpcId id = {};       ///< who it is, when it is an NPC
  vec2 offset{0.f};    ///< metres, from the NPC to its centre
  vec2 velocity{0.f};  ///< metres per second
  float radius = 0.f;  ///< metres
};

/// Keeps `distance` metres (> 0) between the edges of bodies: away from each neighbour that is nearer,
/// the more so the nearer it is. `radius`: of the NPC's own body.
Wish separation(const Motion& motion, float radius, std::span<const Neighbour> neighbours, float distance,
                float speed);

/// Goes the way that the neighbours go, at their mean velocity.
Wish alignment(std::span<const Neighbour> neighbours, float speed);

/// Goes to the middle of the neighbours, with an urgency that grows to 1 at `distance` metres (> 0) from it.
Wish cohesion(std::span<const Neighbour> neighbours, float distance, float speed);

/// Goes aside of what it would run into within `seconds` (> 0) of walking straight on at its present
/// velocity: to the side on which it would pass more widely, to its right when head on.
Wish avoid_obstacles(const Motion& motion, float radius, std::span<const Neighbour> obstacles, float seconds,
                     float speed);

/// A look along `way` to the edge of the ground.
struct Feeler {
  vec2 way{0.f};     ///< metres, as far as it looks
  float free = 1.f;  ///< part of it, 0 to 1, that can be walked
  vec2 inward{0.f};  ///< unit vector from the edge it met towards the ground
};

/// Turns away from the edge that a feeler met first, and goes along it, the more so the nearer it is.
Wish avoid_edges(const Motion& motion, std::span<const Feeler> feelers, float speed);

/// `wanted` slowed down so that the NPC does not run up on who walks ahead of it, but queues behind
/// with `gap` metres (>= 0) between them.
vec2 queue(const Motion& motion, const Gait& gait, float radius, std::span<const Neighbour> neighbours,
           vec2 wanted, float gap, float seconds);

}  // namespace ambulon
