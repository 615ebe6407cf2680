#pragma once

#include <cstdint>
#include <string_view>

#include "ambulon/base/body.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/world/world.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A colour with opacity, 0 to 255 each.
struct DebugColour {
  std::uint8_t red, green, blue, alpha = 255;

  friend bool operator==(const DebugColour&, const DebugColour&) = default;
};

/// Receives the primitives of `debug_draw`, in metres with z up. Derive it to draw with the game's renderer.
class DebugSink {
 public:
  virtual void line(vec3 from, vec3 to, DebugColour colour) = 0;
  /// Corners are counter-clockwise, seen from above.
  virtual void triangle(vec3 a, vec3 b, vec3 c, DebugColour colour) = 0;
  virtual void text(vec3 at, std::string_view text, DebugColour colour) = 0;

 protected:
  ~DebugSink() = default;
};

/// What `debug_draw` draws.
struct DebugDrawOptions {
  bool surface = true;      ///< triangles of the ground for `body`
  bool edges = true;        ///< where the ground ends
  bool crossings = true;    ///< jumps, ladders, doors: lines from end to end
  bool routes = true;       ///< the rest of each route
  bool goals = true;        ///< a cross at each goal, and its arrival circle
  bool velocities = false;  ///< real and preferred velocity, as metres per second
  bool neighbours = false;  ///< lines to NPCs within the `sight` of avoidance
  bool bodies = true;       ///< a circle at the feet, and the direction
  bool names = true;        ///< name and current order, above the head
  Body body = {};           ///< whose ground is drawn
  vec2 centre{0.f};         ///< metres
  float radius = 50.f;      ///< metres: only what is within this square distance of `centre`; 0 to 1e6
};

/// Draws a world for debugging. It calls the sink for each primitive, and stores nothing.
///
///     struct Sink final : ambulon::DebugSink { … } sink;
///     (void)ambulon::debug_draw(world, sink, {.velocities = true, .centre = camera});
///
/// 1. The surface is drawn by the grounds of this library; a ground of the game's own overrides
///    `Ground::visit_surface`.
/// 2. Call it between ticks.
/// 3. Returns a problem, and draws nothing, if the body, the centre or the radius is out of range.
Expected<void> debug_draw(const World& world, DebugSink& sink, const DebugDrawOptions& options = {});

}  // namespace ambulon
