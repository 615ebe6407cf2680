#include "scene/spawner.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/geometry.hpp"
#include "base/written.hpp"
#include "scene/played.hpp"

namespace ambulon {

Expected<Npc> Spawner::add(const Scene& scene, const SceneNpc& npc) {
  const auto wrong = [&](const Problem& why) {
    return problem(
        fmt::format("{}:{}:{}: {}: {}", scene.file, npc.where.line, npc.where.column, npc.name, why.text));
  };
  for (const auto* names : {&npc.tags, &npc.passes})
    for (const std::string& name : *names)
      if (auto tag = world_.tag(name); !tag) return wrong(tag.error());
  Body body = npc.body;
  body.passes = tags_of(world_, npc.passes);
  const auto at = place_for(scene, npc, body);
  if (!at) return wrong(at.error());
  auto added = world_.add({.name = npc.name,
                           .at = *at,
                           .heading = npc.heading,
                           .body = body,
                           .gait = npc.gait,
                           .avoidance = npc.avoidance,
                           .tags = tags_of(world_, npc.tags),
                           .route_priority = npc.route_priority});
  if (added) return added;
  // The ground around an NPC's start is kept, unless the NPC was added later or `reach_from` lists other
  // points.
  const bool kept = std::ranges::find(rules_.reach_from, npc.at.at) != rules_.reach_from.end();
  if (mesh_ == nullptr || kept || mesh_->left_out(body).components == 0) return wrong(added.error());
  return wrong(
      {fmt::format("{}; ground that no point of reach_from leads to is left out: list one there, or "
                   "restart the scene",
                   added.error().text)});
}

/// Returns where an NPC begins; for a `count` the next free place around their point. The places are on a
/// sunflower spiral: H. Vogel, "A Better Way to Construct the Sunflower Head" (1979).
Expected<vec3> Spawner::place_for(const Scene& scene, const SceneNpc& npc, const Body& body) {
  if (npc.many.empty()) return npc.at.at;
  constexpr float golden = 2.39996323f;  // radians
  constexpr float part = 0.65f;          // so that no two are closer than `spacing`
  constexpr std::uint32_t max_tried = 100'000;
  Many& many = many_[npc.many];
  while (many.places_tried < max_tried) {
    const auto seed = static_cast<float>(many.places_tried++);
    const vec3 at = npc.at.at + lift(part * npc.spacing * std::sqrt(seed + 0.5f) * unit(golden * seed));
    const Snap snap = world_.ground().snap(at, 0.05f, body);
    if (!snap || !has_room(scene, npc, snap.spot.position)) continue;
    many.begun.push_back({snap.spot.position, body.radius, body.height});
    return snap.spot.position;
  }
  return problem(fmt::format("there is no room for it {:g} m apart from the others around {}", npc.spacing,
                             written(npc.at.at)));
}

/// Returns true if an NPC of a `count` would not begin inside another NPC. On decks there is always room.
bool Spawner::has_room(const Scene& scene, const SceneNpc& npc, vec3 at) const {
  const auto touches = [&](const Stands& other) {
    return flat_distance(at, other.at) < npc.body.radius + other.radius &&
           share_height(other.at.z - at.z, npc.body.height, other.height);
  };
  for (const auto& [name, many] : many_)
    if (name != npc.many && std::ranges::any_of(many.begun, touches)) return false;
  return std::ranges::none_of(scene.npcs, [&](const SceneNpc& other) {
    return other.many.empty() && other.body.deck.x == 0.f &&
           touches({other.at.at, other.body.radius, other.body.height});
  });
}

}  // namespace ambulon
