#pragma once
// How a group stands, and who takes which place. Pure functions, of use without a world.

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon {

/// A shape in which a group stands.
enum class Formation : std::uint8_t {
  as_they_are,  ///< as they stand to one another when they set out
  line,         ///< side by side
  column,       ///< one behind the other
  wedge,        ///< one in front, the others behind it to both sides, as an arrow's head
  ring,         ///< in a circle
  block,        ///< in ranks and files, as many as each other
};

/// The places of `count` members, metres from their middle, of a group that faces +x; no two are nearer than
/// `spacing` metres (> 0). None of `as_they_are`.
std::vector<vec2> places_in(Formation formation, std::size_t count, float spacing);

/// Which place each member takes (as many of one as of the other, finite): so that all ways together are as
/// short as can be; then no two of them cross. By shortest augmenting paths: R. Jonker and A. Volgenant, "A
/// Shortest Augmenting Path Algorithm for Dense and Sparse Linear Assignment Problems" (1987); the time grows
/// with the cube of their number.
std::vector<std::size_t> assign(std::span<const vec2> members, std::span<const vec2> places);

}  // namespace ambulon
