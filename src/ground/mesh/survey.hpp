#pragma once

#include <memory>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/ground/mesh/level.hpp"

#include "ground/mesh/level_index.hpp"

namespace ambulon {

/// A part of one floor of a level.
struct FloorPart {
  Outlines free;  ///< where the centre of a body can be (even-odd)
  std::shared_ptr<const FloorSurface> surface;
  std::vector<CostlyOutlines> costly{};  ///< parts with a cost above 1; they do not overlap
};

/// A square with its floors, none of which overlaps itself.
struct SurveyedSquare {
  Square square;
  std::vector<FloorPart> floors;
};

/// Computes where a body can walk in a grid cell of a level. The centre can be at a point of a floor if,
/// within its radius on the plan, the floor does not end, and no obstacle is on or above it (a surface more
/// than `step_up` and less than `height` above the floor). A floor continues on any surface within `step_up`
/// of its edge. Of surfaces that close above each other, the highest is walked on. At corners, where circles
/// are polygons, the distance may be less by 1/40 of the radius.
std::vector<SurveyedSquare> survey(const LevelIndex& level, std::uint32_t cell, const Body& body);

}  // namespace ambulon
