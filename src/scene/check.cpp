// Checks names, signals and the ground.

#include <algorithm>

#include <fmt/format.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/written.hpp"
#include "scene/checker.hpp"

namespace ambulon {
namespace scene {

Checker::Checker(const Scene& scene)
    : scene_(scene),
      signals_(scene::signals_of(scene)),
      ground_(scene.ground.make()),
      tiles_(scene.ground.tiles ? static_cast<const TileGround*>(ground_.get()) : nullptr),
      mesh_(scene.ground.is_mesh() ? static_cast<MeshGround*>(ground_.get()) : nullptr) {
  // A crossing that is opened at some time counts.
  for (const SceneEvent& event : scene.events)
    if (const auto* open = std::get_if<ShutEvent>(&event.what); open != nullptr && !open->shut)
      (void)mesh_->open(mesh_->placed_crossings()[open->crossing].id);
}

std::vector<Finding> Checker::check() {
  unused_names();
  unheard_signals();
  blocked_places();
  crossings();
  built_ground();
  open_pieces();
  for (const SceneNpc& npc : scene_.npcs) {
    if (npc.repeats_another()) continue;
    npc_ = &npc;
    standing_in_one_another();
    body();
    place();
    gait(npc.gait, npc.where);
    stands_ = npc.at.at;
    steps(npc.steps, npc.gait, npc.repeat);
  }
  npc_ = nullptr;
  events();
  std::ranges::stable_sort(findings_, {}, [](const Finding& each) { return each.where.line; });
  return std::move(findings_);
}

void Checker::find(FilePlace where, std::string what, std::string why, std::string instead) {
  findings_.push_back(
      {where, npc_ != nullptr ? npc_->name : "", std::move(what), std::move(why), std::move(instead)});
}

void Checker::unused_names() {
  for (const Place& place : scene_.places) {
    if (place.used) continue;
    find(place.where, fmt::format("the place {} is not used", place.name),
         "no character goes there; a name may be misspelt elsewhere", "use it, or leave it out");
  }
  for (const SceneGait& gait : scene_.gaits) {
    if (gait.used) continue;
    find(gait.where, fmt::format("the gait {} is not used", gait.name),
         "a character that should have it moves differently", "use it, or leave it out");
  }
  for (const SceneTag& tag : scene_.tags)
    if (!tag.used)
      find(tag.where, fmt::format("the tag {} is not used", tag.name),
           "nothing refers to it; a name may be misspelt elsewhere", "use it, or leave it out");
  for (const SceneCamera& camera : scene_.cameras)
    if (!camera.used)
      find(camera.where, fmt::format("the camera {} is not used", camera.name), "no event clicks through it",
           "use it, or leave it out");
}

void Checker::unheard_signals() {
  for (const SceneEvent& event : scene_.events)
    if (const auto* signal = std::get_if<SignalEvent>(&event.what)) unheard(signal->signal, event.where);
  for (const SceneNpc& npc : scene_.npcs) {
    if (npc.repeats_another()) continue;
    unheard(npc.on_touch.signal, npc.where);
    each_step(npc.steps, [&](const SceneStep& step) {
      const SceneAct* act = scene::act_of(step);
      if (act == nullptr) return;
      unheard(act->enter, step.where);
      unheard(act->leave, step.where);
    });
  }
}

void Checker::unheard(const std::string& signal, FilePlace where) {
  if (signal.empty() || signals_.heard.contains(signal)) return;
  find(where, fmt::format("no step waits for the signal \"{}\"", signal),
       "it has no effect; a name may be misspelt elsewhere",
       "a wait_for, `when`, `until` or switch with that name, or leave it out");
}

void Checker::built_ground() {
  const auto& built = scene_.ground.built;
  if (built && built->outdated)
    find({}, fmt::format("the ground is older than {}, from which it was built", built->source),
         "characters do not see the changes made since",
         "build it again: ambulon build, with the same options");
}

/// Finds pieces of a level that are not closed, if the scene says that all are.
void Checker::open_pieces() {
  constexpr std::size_t max_named = 5;
  const auto pieces = mesh_ != nullptr ? mesh_->open_pieces() : std::span<const OpenPiece>();
  for (const OpenPiece& piece : pieces.first(std::min(pieces.size(), max_named)))
    find({},
         fmt::format("a piece of the level is not closed: {} near ({:.2f}, {:.2f}, {:.2f})",
                     name(piece.fault), piece.at.x, piece.at.y, piece.at.z),
         fmt::format("its {} triangles, from number {} on, have no inside; what lies below them is ground",
                     piece.triangles, piece.first_triangle + 1),
         "close it, or leave closed = true out");
  if (pieces.size() > max_named)
    find({}, fmt::format("{} more pieces of the level are not closed", pieces.size() - max_named),
         "they have no inside", "ambulon build --closed lists all of them");
}

/// Finds crossings placed by hand whose ends no character can stand on.
void Checker::crossings() {
  for (const SceneGround::NamedCrossing& each : scene_.ground.crossings) {
    const auto off = [&](vec3 end, const Body& body) {  // metres beyond its tolerance
      const Snap snap = ground_->snap(end, 0.f, body);
      return snap.found ? snap.off - MeshGround::end_reach(body) : 1e6f;
    };
    float min[] = {1e6f, 1e6f};
    bool taken = false;
    std::vector<Body> bodies;
    for (const SceneNpc& npc : scene_.npcs) bodies.push_back(npc.body);
    if (bodies.empty()) bodies.emplace_back();
    for (const Body& body : bodies) {
      const float from = off(each.crossing.from, body), to = off(each.crossing.to, body);
      taken = taken || (from <= 0.f && to <= 0.f);
      min[0] = std::min(min[0], from), min[1] = std::min(min[1], to);
    }
    if (taken) {
      unused(each);
      continue;
    }
    const bool at_from = min[0] >= min[1];
    find(each.where,
         fmt::format("the {} {} begins or ends {:.2f} m too far off the ground", name(each.crossing.kind),
                     each.name, std::max(min[0], min[1])),
         "no character of this scene can reach it there",
         fmt::format("move its `{}` onto the ground", at_from ? "from" : "to"));
  }
}

/// Finds crossings that no character uses.
void Checker::unused(const SceneGround::NamedCrossing& each) {
  const auto number = static_cast<std::size_t>(&each - scene_.ground.crossings.data());
  const bool opened = std::ranges::any_of(scene_.events, [&](const SceneEvent& event) {
    const auto* open = std::get_if<ShutEvent>(&event.what);
    return open != nullptr && !open->shut && open->crossing == number;
  });
  const std::string_view kind = name(each.crossing.kind);
  if (each.shut && !opened)
    return find(each.where, fmt::format("the {} {} is shut and never opened", kind, each.name),
                "no character can cross it", "an event with open, or leave shut out");
  const auto gets_on = [&](const SceneNpc& npc) {
    const Snap here = ground_->snap(npc.at.at, reach, npc.body);
    const auto ends_at = [&](vec3 end) {
      const Snap there = ground_->snap(end, MeshGround::end_reach(npc.body), npc.body);
      return there && ground_->reachable(here.spot, there.spot);
    };
    return here && (ends_at(each.crossing.from) || (each.crossing.both_ways && ends_at(each.crossing.to)));
  };
  if (!scene_.npcs.empty() && std::ranges::none_of(scene_.npcs, gets_on))
    find(each.where, fmt::format("the {} {} is not used", kind, each.name),
         "no character can reach its start", "open a route there, or leave it out");
}

void Checker::blocked_places() {
  for (const Place& place : scene_.places)
    if (const Snap there = ground_->snap(place.at, 0.5f, thin); !there)
      find(place.where, fmt::format("the place {} is off the ground", place.name),
           fmt::format("no character can stand there; the nearest ground is {:.2f} m off", there.off),
           there.found ? written(there.spot.position) + " would do" : "make room for it");
}

}  // namespace scene

std::vector<Finding> check(const Scene& scene) { return scene::Checker(scene).check(); }

}  // namespace ambulon
