#pragma once

#include <glm/geometric.hpp>

#include "ambulon/motion/motion.hpp"

namespace ambulon {

/// Returns true if an NPC has to brake to a stand before it can turn to where its intent goes.
inline bool is_reversing(const Motion& motion, const Intent& intent) {
  return intent.facing == vec2(0.f) && glm::dot(motion.velocity, intent.velocity) < 0.f;
}

}  // namespace ambulon
