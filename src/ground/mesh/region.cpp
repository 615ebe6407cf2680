#include "region.hpp"

#include <algorithm>

#include "base/geometry.hpp"

namespace ambulon {

Box box_of(const ConvexPart& part) {
  Box box{part[0].at, part[0].at, part[0].height, part[0].height};
  for (const SpacePoint& point : part) {
    box.low = glm::min(box.low, point.at), box.high = glm::max(box.high, point.at);
    box.lowest = std::min(box.lowest, point.height), box.highest = std::max(box.highest, point.height);
  }
  return box;
}

}  // namespace ambulon
