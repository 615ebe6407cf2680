#pragma once
// Transformations of a route. They keep its ends, the ends of its crossings, and stay on the ground.

#include "ambulon/base/public.hpp"
#include "ambulon/ground/ground.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Moves `route` away from corners and edges that are closer than `metres` (>= 0); in a narrow place to the
/// middle. Each leg stays free. Bends are added along edges.
void keep_clear(const Ground& ground, const Body& body, float metres, Route& route);

/// Replaces the bends of `route` by arcs of `radius` metres (>= 0), or smaller ones if there is less room.
/// The arcs swing out, so that they do not cut the corner. A bend without room stays.
void round_bends(const Ground& ground, const Body& body, float radius, Route& route);

/// Returns the length of `route` along the ground in metres, with slopes; stairs count as the slope that they
/// form, crossings as straight lines. Heights are sampled every 0.25 m. On flat ground it equals
/// `Route::length_xy`. 0 for an empty route.
float length_along_ground(const Ground& ground, const Body& body, const Route& route);

}  // namespace ambulon
