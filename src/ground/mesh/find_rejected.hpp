#pragma once

#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/ground/mesh/plan.hpp"
#include "ambulon/ground/mesh/rejected.hpp"

#include "ground/mesh/level_index.hpp"

namespace ambulon {

/// Returns the surfaces of a level that face up and are rejected for a body. Barriers are ignored. A place is
/// too narrow if no body covers it whose centre is on the ground. Parts less than 4 cm wide, and the corners
/// of rooms, are left out.
std::vector<RejectedPart> rejected(const LevelIndex& level, const Body& body);
/// Returns what of a plan is too narrow for a body of `radius` metres (0 to 50).
std::vector<RejectedPart> rejected(const Plan& plan, float radius);

}  // namespace ambulon
