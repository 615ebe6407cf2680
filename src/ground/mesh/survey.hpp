#pragma once

#include <memory>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/ground/mesh/level.hpp"

#include "ground/mesh/level_index.hpp"

namespace ambulon {

/// A part of one floor of a level.
struct FloorPart {
  Outlines free;  ///< where the middle of a body can be: inside of an odd number of them
  std::shared_ptr<const FloorSurface> surface;
  std::vector<CostlyOutlines> costly{};  ///< parts of it that cost more than 1; they do not overlap
};

/// A square with all floors in it, none of which lies above itself.
struct SurveyedSquare {
  Square square;
  std::vector<FloorPart> floors;
};

/// Where a body can walk in a cell of a level's grid. Its middle can be at a point of a floor when, within
/// its radius, seen from above, neither that floor ends nor anything stands on or hangs over it: a surface
/// more than `step_up` and less than `height` above it. A floor goes on wherever another surface lies within
/// `step_up` of its edge; where surfaces lie so closely above each other, the uppermost is walked on. Around
/// corners, where circles are made of short sides, a body may come nearer by a fortieth of its radius.
std::vector<SurveyedSquare> survey(const LevelIndex& level, std::uint32_t cell, const Body& body);

}  // namespace ambulon
