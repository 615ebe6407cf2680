#pragma once
// Other shapes of a route than the shortest. Each keeps its ends, those of its crossings, and to the ground.

#include "ambulon/base/public.hpp"
#include "ambulon/ground/ground.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Moves `route` away from the corners and edges that it comes nearer to than `metres` (>= 0), or to the
/// middle between them where there is less room; as far as one can still walk from bend to bend. Where it
/// goes along an edge, bends are added.
void keep_clear(const Ground& ground, const Body& body, float metres, Route& route);

/// Makes arcs of the bends of `route`, of `radius` metres (>= 0), or a smaller one where there is less
/// room. An arc swings out, so that it does not cut the corner that the bend lies at; a bend that has
/// room for none stays a bend.
void round_bends(const Ground& ground, const Body& body, float radius, Route& route);

/// Metres of `route` along the ground, uphill and downhill, stairs as the slope that they make; crossings
/// from end to end. Heights are looked at every 0.25 m. On level ground it is `Route::length_xy`. 0 of no
/// route.
float length_along_ground(const Ground& ground, const Body& body, const Route& route);

}  // namespace ambulon
