// Checks that characters can stand, and can reach the goals of their steps.

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "ambulon/motion/motion.hpp"

#include "base/geometry.hpp"
#include "base/written.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "route/curve.hpp"
#include "scene/checker.hpp"
#include "scene/hindrance.hpp"

namespace ambulon::scene {

void Checker::points(const SceneStep& step) {
  const auto go = [&](const ScenePoint& point, bool anywhere = false) {
    if (point.npc.empty() && !anywhere) reachable(point.at, step);
  };
  if (const auto* to = std::get_if<GoToStep>(&step.verb)) go(to->to);
  if (const auto* to = std::get_if<TeleportStep>(&step.verb)) go(to->to);
  if (const auto* to = std::get_if<EaseToStep>(&step.verb)) go(to->to, to->options.anywhere);
  if (const auto* roam = std::get_if<RoamStep>(&step.verb); roam != nullptr && roam->home) go(*roam->home);
  if (const auto* flow = std::get_if<FlowStep>(&step.verb))
    for (const vec3 goal : flow->goals) reachable(goal, step);
  if (tiles_ == nullptr &&
      (std::holds_alternative<FlowStep>(step.verb) || std::holds_alternative<ThreadStep>(step.verb)))
    find(step.where, fmt::format("{}'s {} needs a ground of tiles", npc_->name, verb_of(step)),
         fmt::format("this ground is {}, so it is refused", scene_.ground.kind()),
         "give the ground tiles, or another verb");
  if (const auto* patrol = std::get_if<PatrolStep>(&step.verb)) {
    waypoints(*patrol->beat, step);
    lap(*patrol, step);
    curve(*patrol->beat, step);
  }
  if (const auto* hop = std::get_if<HopStep>(&step.verb)) waypoints(*hop->points, step);
}

void Checker::waypoints(const Beat& beat, const SceneStep& step) {
  for (std::size_t i = 0; i < beat.size(); ++i) reachable(beat[i].position, step);
  const auto* patrol = std::get_if<PatrolStep>(&step.verb);
  if (patrol == nullptr) return;
  const bool closed = beat.order() == BeatOrder::around && beat.size() > 2;
  for (std::size_t i = 0; i + (closed ? 0 : 1) < beat.size(); ++i) {
    const std::size_t next = (i + 1) % beat.size();
    const float apart = glm::distance(beat[i].position, beat[next].position);
    if (apart < 0.01f)
      find(step.where,
           fmt::format("{}'s waypoints {} and {} are the same point", npc_->name, i + 1, next + 1),
           "it arrives there twice without a step between", "leave one of them out");
    else if (apart <= patrol->options.within)
      find(step.where,
           fmt::format("{}'s waypoints {} and {} are {:.2f} m apart, and it arrives within {:g} m",
                       npc_->name, i + 1, next + 1, apart, patrol->options.within),
           "it arrives at both without a step between",
           fmt::format("leave one of them out, or a `within` of {:.2f} or less", 0.5f * apart));
  }
}

/// Finds lap times that are too short for the pauses, or for any speed.
void Checker::lap(const PatrolStep& patrol, const SceneStep& step) {
  const float seconds = patrol.options.lap;
  const Beat& beat = *patrol.beat;
  if (seconds <= 0.f || beat.size() < 2) return;
  const bool back = beat.order() == BeatOrder::back_and_forth;
  float pauses = 0.f, metres = 0.f;
  for (std::size_t i = 0; i < beat.size(); ++i) {
    const bool end = i == 0 || i + 1 == beat.size();
    pauses += (back && !end ? 2.f : 1.f) * beat[i].pause.middle();
    if (i + 1 < beat.size() || beat.order() == BeatOrder::around)
      metres += (back ? 2.f : 1.f) * flat_distance(beat[i].position, beat[(i + 1) % beat.size()].position);
  }
  const float fast = 3.f * run_speed(npc_->body), min = pauses + metres / fast;
  if (seconds > min) return;
  find(step.where, fmt::format("{}'s lap is to take {:g} s", npc_->name, seconds),
       pauses >= seconds
           ? fmt::format("its pauses alone take {:g} s", pauses)
           : fmt::format("that is {:.1f} m/s; a body of its height runs at most about {:.1f} m/s",
                         metres / (seconds - pauses), fast),
       fmt::format("a lap of {:.0f} or more", std::ceil(pauses + metres / npc_->gait.speed)));
}

/// Finds curves that leave the ground between waypoints on it.
void Checker::curve(const Beat& beat, const SceneStep& step) {
  constexpr float off_curve = 0.05f;  // metres
  if (beat.path() != BeatPath::curve || beat.size() < 2) return;
  const Curve& curve = beat.curve();
  const float part = std::max(0.5f, curve.length() / 10'000.f);  // metres between samples
  for (float along = 0.f; along < curve.length(); along += part) {
    const vec3 at = curve.position(along);
    const Snap here = ground_->snap(at, std::numeric_limits<float>::infinity(), npc_->body);
    const float off = here.found ? flat_distance(here.spot.position, at) : 0.f;
    if (off <= off_curve) continue;
    return find(
        step.where,
        fmt::format("{}'s curve leaves the ground by {:.2f} m near {}", npc_->name, off, written(at, 1)),
        "it walks that leg by the shortest way instead, with corners",
        "a waypoint more there, or path = \"straight\"");
  }
}

void Checker::reachable(vec3 point, const SceneStep& step) {
  if (std::holds_alternative<TeleportStep>(step.verb)) {
    on_ground(point, step.where, fmt::format("{}'s {}", npc_->name, verb_of(step)));
    stands_ = point;
    return;
  }
  reachable(point, step.where, fmt::format("{}'s {}", npc_->name, verb_of(step)));
}

/// Finds a point off the ground. Returns false if it is.
bool Checker::on_ground(vec3 point, FilePlace where, const std::string& what) {
  const Snap there = ground_->snap(point, reach, npc_->body);
  const bool told = !scene_.place_at(point).empty() && !ground_->snap(point, reach, thin);
  if (!there && !told)
    find(where, fmt::format("{} leads to {}, which is off the ground", what, as_given(point)),
         fmt::format("the nearest ground is {:.2f} m off", there.off),
         there.found ? written(there.spot.position) + " would do" : "make room for it");
  return there.within;
}

void Checker::reachable(vec3 point, FilePlace where, const std::string& who) {
  const Body& body = npc_->body;
  if (!on_ground(point, where, who)) return;
  const Snap there = ground_->snap(point, reach, body), here = ground_->snap(stands_, reach, body);
  const std::string what = fmt::format("{} leads to {}", who, as_given(point));
  if (!here || ground_->reachable(here.spot, there.spot)) return;
  const auto doorway = scene::too_narrow(*ground_, stands_, point, body);
  const auto high = !doorway && mesh_ != nullptr && mesh_->of_level()
                        ? scene::too_high(*mesh_, stands_, point, body)
                        : std::nullopt;
  if (high)
    find(where, what,
         fmt::format("on the way there is a step of {:.2f} m{} at {}, {:.2f} m too {} for it", high->metres,
                     high->down ? " down" : "", written(high->at, 1), high->over,
                     high->down ? "deep" : "high"),
         fmt::format("a step_up or {} of {:.2f} would do, or a ramp", high->down ? "drop_down" : "jump_up",
                     std::ceil(100 * high->metres) / 100));
  else if (doorway)
    find(where, what,
         fmt::format("it is {:.2f} m wide, and the only way is {:.2f} m wide beyond {}", 2 * body.radius,
                     2 * doorway->radius, written(doorway->at, 1)),
         fmt::format("a radius of {:.2f} would do", std::floor(100 * doorway->radius) / 100));
  else
    find(where, what, "no route leads there from its start", "open a route, or choose a point on this side");
}

/// Checks that the character can stand, and is not shut in.
void Checker::place() {
  const Snap here = ground_->snap(npc_->at.at, npc_->body.radius, npc_->body);
  if (!here && npc_->body.deck.x <= 0.f)
    return find(
        npc_->where,
        fmt::format("{} begins at {}, where it has no room to stand", npc_->name, as_given(npc_->at.at)),
        "the scene cannot be played",
        here.found ? written(here.spot.position) + " would do" : "make room for it");
  if (npc_->steps.empty() || !here) return;
  if (mesh_ != nullptr)
    if (const double area = room_around(here.spot); area < little_room)
      find(npc_->where, fmt::format("{} begins walled in", npc_->name),
           fmt::format("its centre can reach at most {:.2f} m2 from there", area),
           "open a route, or let it begin elsewhere");
  if (tiles_ == nullptr) return;
  const TileLayer& layer = tiles_->layer(npc_->body.radius);
  const std::uint32_t cells = layer.components().size(
      layer.components().component(layer.map(), layer.map().cell_of(here.spot.piece)));
  if (cells < few_cells)
    find(npc_->where, fmt::format("{} begins walled in", npc_->name),
         fmt::format("it can reach at most {} cell{} from there", cells, cells == 1 ? "" : "s"),
         "open a route, or let it begin elsewhere");
}

/// Returns the reachable area around a spot in square metres, or a value above `little_room`.
double Checker::room_around(const Spot& spot) const {
  const ConvexMesh& mesh = mesh_->mesh(npc_->body);
  const MeshCrossings& crossings = mesh_->crossings(npc_->body);
  MeshCrossings::Reached reached;
  crossings.reach_from(mesh, spot.piece, reached);
  double area = 0;
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size() && area < little_room; ++polygon)
    if (mesh.polygons()[polygon].count > 0 && reached.components[mesh.component(polygon)])
      area += mesh.area(polygon) / 1e6;
  return area;
}

}  // namespace ambulon::scene
