#pragma once

#include <map>
#include <string>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/world/world.hpp"

#include "scene/scene.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Adds the NPCs of scenes to a world.
class Spawner {
 public:
  /// `level`: the ground, if it is a level, and the rules that it was built by.
  Spawner(World& world, const MeshGround* level, LevelRules rules)
      : world_(world), mesh_(level), rules_(std::move(rules)) {}

  /// Adds an NPC. The problem begins with the file and the NPC's place in it.
  Expected<Npc> add(const Scene& scene, const SceneNpc& npc);

 private:
  struct Stands {
    vec3 at;
    float radius, height;
  };
  /// The NPCs of one `count`.
  struct Many {
    std::uint32_t places_tried = 0;
    std::vector<Stands> begun;
  };
  Expected<vec3> place_for(const Scene& scene, const SceneNpc& npc, const Body& body);
  bool has_room(const Scene& scene, const SceneNpc& npc, vec3 at) const;

  World& world_;
  const MeshGround* mesh_;
  LevelRules rules_;
  std::map<std::string, Many> many_;  // by common name
};

}  // namespace ambulon
