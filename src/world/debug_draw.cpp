#include "ambulon/world/debug_draw.hpp"

#include <cmath>
#include <string>

#include <fmt/format.h>

#include "base/geometry.hpp"
#include "world/world_impl.hpp"

namespace ambulon {
namespace {

constexpr DebugColour ground_ink{235, 214, 170, 70}, edge_ink{120, 78, 40}, crossing_ink{98, 60, 128},
    route_ink{26, 86, 122}, goal_ink{184, 92, 26}, velocity_ink{32, 116, 96}, wanted_ink{32, 116, 96, 110},
    neighbour_ink{150, 150, 140, 160}, body_ink{60, 48, 44}, name_ink{60, 48, 44};
constexpr float above_ground = 0.03f;  // metres, so that lines are not hidden by the surface
constexpr int circle_sides = 16;
constexpr float max_radius = 1e6f;  // metres

vec3 raised(vec3 at) { return at + vec3(0.f, 0.f, above_ground); }

/// Draws the surface of a ground.
class SurfaceLines final : public SurfaceVisitor {
 public:
  SurfaceLines(DebugSink& sink, const DebugDrawOptions& options) : sink_(sink), options_(options) {}

  void polygon(std::span<const vec3> corners) override {
    if (!options_.surface) return;
    for (std::size_t i = 2; i < corners.size(); ++i)
      sink_.triangle(corners[0], corners[i - 1], corners[i], ground_ink);
  }
  void edge(vec3 from, vec3 to) override {
    if (options_.edges) sink_.line(raised(from), raised(to), edge_ink);
  }
  void crossing(vec3 from, vec3 to, Passage) override {
    if (options_.crossings) sink_.line(raised(from), raised(to), crossing_ink);
  }

 private:
  DebugSink& sink_;
  const DebugDrawOptions& options_;
};

void circle(DebugSink& sink, vec3 centre, float radius, DebugColour colour) {
  const auto point = [&](int i) {
    return raised(centre + lift(radius * unit(2.f * pi * static_cast<float>(i) / circle_sides)));
  };
  for (int i = 0; i < circle_sides; ++i) sink.line(point(i), point(i + 1), colour);
}

void draw(Npc npc, const World& world, DebugSink& sink, const DebugDrawOptions& options) {
  const vec3 at = npc.position();
  const Body body = npc.body();
  const vec3 middle = at + vec3(0.f, 0.f, 0.5f * body.height);
  if (options.bodies) {
    circle(sink, at, body.radius, body_ink);
    sink.line(raised(at), raised(at + lift(body.radius * npc.motion().facing)), body_ink);
  }
  if (options.routes) {
    vec3 from = at;
    for (const vec3 bend : npc.bends().subspan(npc.bends().empty() ? 0 : 1)) {
      sink.line(raised(from), raised(bend), route_ink);
      from = bend;
    }
  }
  const ErrandState errand = npc.errand();
  if (options.goals && errand.goal) {
    const float arm = std::max(0.1f, errand.arrival_radius);
    sink.line(raised(*errand.goal - vec3(arm, 0, 0)), raised(*errand.goal + vec3(arm, 0, 0)), goal_ink);
    sink.line(raised(*errand.goal - vec3(0, arm, 0)), raised(*errand.goal + vec3(0, arm, 0)), goal_ink);
    if (errand.arrival_radius > 0.f) circle(sink, *errand.goal, errand.arrival_radius, goal_ink);
  }
  if (options.velocities) {
    sink.line(middle, middle + lift(npc.velocity()), velocity_ink);
    sink.line(middle, middle + lift(npc.wanted_velocity()), wanted_ink);
  }
  if (options.neighbours)
    for (const Neighbour& other : world.others().near(
             at, {.radius = npc.avoidance().sight, .height = body.height, .except = npc.id()}))
      sink.line(middle, middle + lift(other.offset), neighbour_ink);
  if (options.names) {
    const std::string_view name = npc.name();
    std::string text(name);
    if (npc.busy()) text += (text.empty() ? "" : ": ") + npc.doing();
    if (!text.empty()) sink.text(at + vec3(0.f, 0.f, body.height + 0.2f), text, name_ink);
  }
}

}  // namespace

Expected<void> debug_draw(const World& world, DebugSink& sink, const DebugDrawOptions& options) {
  if (auto body = validate(options.body); !body) return body;
  if (!finite(lift(options.centre))) return problem("the centre of the drawing is not finite");
  if (!Range{0.f, max_radius}.holds(options.radius))
    return problem(fmt::format("the radius of the drawing is {:g} m; it must lie between 0 and {:g}",
                               options.radius, max_radius));
  const vec2 low = options.centre - options.radius, high = options.centre + options.radius;
  if (options.surface || options.edges || options.crossings) {
    SurfaceLines lines(sink, options);
    world.ground().visit_surface(options.body, low, high, lines);
  }
  WorldState& state = world.impl().state;
  for (std::uint32_t slot = 0; slot < state.npcs.slots(); ++slot) {
    if (!state.npcs[slot].alive) continue;
    const vec2 at = flat(state.npcs[slot].motion.position);
    if (glm::all(glm::greaterThanEqual(at, low)) && glm::all(glm::lessThanEqual(at, high)))
      draw(Npc(state.world, state.npcs.id(slot)), world, sink, options);
  }
  return {};
}

}  // namespace ambulon
