#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <span>

#include "ambulon/base/body.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/base/ray.hpp"
#include "ambulon/ground/route.hpp"
#include "ambulon/ground/spot.hpp"

namespace AMBULON_PUBLIC ambulon {

class TileMap;

/// A straight walk on a ground, up to the first edge.
struct Stretch {
  Spot end;
  float metres = 0.f;  ///< its length on the plan
  bool free = true;    ///< false if it ended at an edge of the ground
  vec2 inward{0.f};    ///< unit normal of that edge, into the ground; zero if `free`
};

/// The free space around a spot.
struct Clearance {
  float metres = 0.f;  ///< distance to the nearest edge on the plan, or less
  bool level = false;  ///< all ground within that distance has the height of the spot
};

/// A narrow place of a ground: a line across it from edge to edge.
struct Bottleneck {
  Spot middle;      ///< on the line
  vec2 left{0.f};   ///< metres, from `middle` to the edge at one end
  vec2 right{0.f};  ///< metres, to the edge at the other end

  /// Returns true if both ends are finite, at most 1e6 m apart and different.
  bool sound() const;
};

/// Receives the walkable surface of a ground (`Ground::visit_surface`), in metres.
class SurfaceVisitor {
 public:
  /// A convex polygon, counter-clockwise.
  virtual void polygon(std::span<const vec3> corners) = 0;
  /// A part of the edge of the ground.
  virtual void edge(vec3 from, vec3 to) = 0;
  virtual void crossing(vec3 from, vec3 to, Passage kind) = 0;

 protected:
  ~SurfaceVisitor() = default;
};

/// A walkable surface. All orders work on any class that implements these queries.
///
/// 1. Queries do not change the ground; several threads call them at the same time.
/// 2. The grounds of this library take any numbers: NaN counts as 0.
/// 3. A spot is a position on the ground for one body size. Queries with a spot use the body size that the
///    spot was created for.
class Ground {
 public:
  virtual ~Ground() = default;

  /// Returns the spot nearest to `point` where `body` can stand, and its distance. The result is `within` if
  /// that distance on the plan is at most `reach` metres (>= 0).
  virtual Snap snap(vec3 point, float reach, const Body& body = {}) const = 0;

  /// As `snap`, for a point near a known spot of `body`: faster if the point is on the same piece of the
  /// ground. Default: `snap`.
  virtual Snap snap_near(const Spot& known, vec3 point, float reach, const Body& body) const;

  /// Fills in the shortest route between two spots of this ground; without one, `route.bends` is empty.
  /// `route` keeps its memory.
  virtual void route(const Spot& from, const Spot& to, Route& route) const = 0;

  /// Returns true if one shared search (`routes_to`) is expected to be faster than separate calls of `route`.
  virtual bool shares_routes(const Spot& to, std::span<const Spot> from) const;

  /// Fills in the routes from each of `from` to one spot; `ways` has as many elements. The lengths may differ
  /// from those of `route` by a few per cent.
  virtual void routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const;

  /// Fills in the cheapest route that does not cross a bottleneck, for detours around a jam. There is none if
  /// its length or its cost would exceed `max` metres, or if `jam` is not `sound`. Default: none.
  virtual void detour(const Spot& from, const Spot& to, const Bottleneck& jam, float max, Route& route) const;

  /// Returns true if a straight line between two spots is on the ground.
  virtual bool sight(const Spot& from, const Spot& to) const = 0;

  /// Returns the straight walk from a spot along `way` (metres on the plan), up to the first edge of the
  /// ground: a wall, a step that is too high, the edge of a drop.
  virtual Stretch straight(const Spot& from, vec2 way) const = 0;

  /// Returns the radius of a circle around a spot, at most `max` metres (> 0), in which no straight walk
  /// meets an edge. Inside of it NPCs move without queries. Default: 0, unknown.
  virtual Clearance clearance(const Spot& spot, float max) const;

  /// Returns a random spot, uniform by area, that is reachable from `around` and within `radius` metres of
  /// it.
  virtual Spot random_spot(Random& random, const Spot& around, float radius) const = 0;

  /// Returns the spot nearest to `goal` that is reachable from `from`.
  virtual Snap nearest_reachable(const Spot& from, vec3 goal) const = 0;

  /// Returns the length of the shortest route between two spots in metres on the plan; infinity if there is
  /// none.
  virtual float distance(const Spot& from, const Spot& to) const = 0;

  /// Returns true if there is a route between two spots.
  virtual bool reachable(const Spot& from, const Spot& to) const;

  /// Returns where a ray first hits the visible geometry, walkable or not, at most `reach` metres (0 to 1e6)
  /// from its origin; nothing if it hits none or is not `sound`. Default: the plane z = 0.
  virtual std::optional<vec3> first_met(const Ray& ray, float reach = 1e6f) const;

  /// Returns the tile map for the body of a spot; null if the ground is not made of tiles.
  virtual const TileMap* tiles(const Spot& spot) const;

  /// Returns true if every straight line between two spots is on the ground.
  virtual bool convex() const { return false; }

  /// Visits the surface for `body` within the box from `low` to `high` (metres on the plan), and parts
  /// beyond, for debugging views. Default: visits nothing.
  virtual void visit_surface(const Body& body, vec2 low, vec2 high, SurfaceVisitor& visitor) const;

  /// Returns a number that changes with the ground.
  virtual std::uint64_t revision() const = 0;

  /// Returns true if the ground may have changed along the polyline `bends` (metres), for `body`, since that
  /// revision: then a route along it has to be planned again.
  virtual bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const;

  /// True if ground that opened after that revision may allow `body` a route from `from` to `to` (metres)
  /// that is shorter than `left` metres, or cheaper. A lower bound decides, without a search, so a search may
  /// still find nothing. Default: false. On such a ground a route is only planned again when something
  /// changed along it.
  virtual bool may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const;
};

}  // namespace ambulon
