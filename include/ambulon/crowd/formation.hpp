#pragma once
// Places of a group and their assignment. Pure functions that work without a world.

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The shape of a group.
enum class Formation : std::uint8_t {
  as_they_are,  ///< the members' relative positions when they set out
  line,         ///< side by side
  column,       ///< one behind the other
  wedge,        ///< one in front, the others behind it on both sides
  ring,         ///< in a circle
  block,        ///< a square of ranks and files
};

/// Returns the places of `count` members, metres from their centre, of a group that faces +x. No two are
/// nearer than `spacing` metres (> 0). Empty for `as_they_are`.
std::vector<vec2> places_in(Formation formation, std::size_t count, float spacing);

/// Returns the index of the place for each member, so that the sum of distances is minimal; then no two of
/// the straight lines cross. `members` and `places` have the same size and are finite. Shortest augmenting
/// paths, O(n^3): R. Jonker and A. Volgenant, "A Shortest Augmenting Path Algorithm for Dense and Sparse
/// Linear Assignment Problems" (1987).
std::vector<std::size_t> assign(std::span<const vec2> members, std::span<const vec2> places);

}  // namespace ambulon
