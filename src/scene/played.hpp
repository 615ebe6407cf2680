#pragma once
// References of a scene, resolved in the world that plays it.

#include <span>
#include <string>

#include "ambulon/world/world.hpp"

#include "scene/steps.hpp"

namespace ambulon {

/// Returns the point in metres; for an NPC its present position.
inline vec3 position_of(World& world, const ScenePoint& point) {
  return point.npc.empty() ? point.at : world.find(point.npc).position();
}

/// Returns the set of the tags with these names.
inline Tags tags_of(World& world, std::span<const std::string> names) {
  Tags tags;
  for (const std::string& name : names)
    if (const auto tag = world.tag(name)) tags = tags | *tag;  // their number was checked
  return tags;
}

}  // namespace ambulon
