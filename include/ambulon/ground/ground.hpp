#pragma once

#include <algorithm>
#include <cstdint>
#include <limits>
#include <optional>
#include <span>

#include "ambulon/base/body.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/base/ray.hpp"
#include "ambulon/ground/route.hpp"
#include "ambulon/ground/spot.hpp"

namespace ambulon {

class TileMap;

/// A straight walk over a ground, as far as it goes.
struct Stretch {
  Spot end;            ///< where it ends
  float metres = 0.f;  ///< from its start, seen from above
  bool free = true;    ///< false when the edge of the ground cut it short
  vec2 inward{0.f};    ///< unit vector from that edge towards the ground; zero when it is free
};

/// What is known of the ground around a spot.
struct Clearance {
  float metres = 0.f;  ///< there is no edge of the ground nearer than that, seen from above
  bool level = false;  ///< all that is nearer lies at the height of the spot
};

/// A narrow place of a ground: a line across it, from edge to edge.
struct Bottleneck {
  Spot middle;      ///< on the line
  vec2 left{0.f};   ///< metres, from there to the edge at one end of it
  vec2 right{0.f};  ///< and at the other

  /// True when it has a length.
  bool sound() const { return glm::length(left) + glm::length(right) <= 1e6f && left != right; }
};

/// What can be walked on. A user's own ground is a class that answers these questions; every
/// errand works on it unchanged. All of them are asked without changing the ground.
class Ground {
 public:
  virtual ~Ground() = default;

  /// The spot nearest to `point` where `body` can stand. It counts as on the ground when it is at most
  /// `reach` metres (>= 0) off in the plane. Never fails: the answer says how far off the nearest spot is.
  /// All other questions are about the body whose spots they are asked with.
  virtual Snap snap(vec3 point, float reach, const Body& body = {}) const = 0;

  /// The same for a point near a spot of `body` that was found before, and perhaps on the same piece of the
  /// ground, which is sooner looked at than all of it. By default it is looked for as any point is.
  virtual Snap snap_near(const Spot& known, vec3 point, float reach, const Body& body) const {
    (void)known;
    return snap(point, reach, body);
  }

  /// Fills in the shortest way between two spots of this ground; `route` keeps its memory.
  /// Without any way, `route.bends` is empty.
  virtual void route(const Spot& from, const Spot& to, Route& route) const = 0;

  /// True when the ways from each of `from` to one spot are found sooner by `routes_to` than one by one.
  virtual bool shares_routes(const Spot& to, std::span<const Spot> from) const {
    (void)to, (void)from;
    return false;
  }

  /// Fills in the ways from each of `from` to one spot, as many of one as of the other; they may be
  /// some percent longer or shorter than `route` finds them.
  virtual void routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const {
    for (std::size_t i = 0; i < from.size(); ++i) route(from[i], to, *ways[i]);
  }

  /// Fills in the cheapest way between two spots of this ground that does not go through a bottleneck (of at
  /// most 1e6 m), when neither its length nor what it costs is above `most` metres: for those who would go
  /// round a jam. There is none where a number makes no sense; nor, by default, at all.
  virtual void route_round(const Spot& from, const Spot& to, const Bottleneck& jam, float most,
                           Route& route) const {
    (void)from, (void)to, (void)jam, (void)most;
    route.clear();
  }

  /// True when one can walk from spot to spot in a straight line.
  virtual bool sight(const Spot& from, const Spot& to) const = 0;

  /// The straight walk from a spot of this ground along `way` (metres, seen from above), up to the
  /// first edge of the ground: a wall, a kerb too high, the brink of a drop.
  virtual Stretch straight(const Spot& from, vec2 way) const = 0;

  /// A circle around a spot, of `most` metres (> 0; otherwise nothing is known) or less, within which no
  /// straight walk meets an edge. Those who have room around them are not held to the ground step by step. By
  /// default nothing is known.
  virtual Clearance clearance(const Spot& spot, float most) const {
    (void)spot, (void)most;
    return {};
  }

  /// A random spot, uniform by area, reachable from `around` and within `radius` metres of it.
  virtual Spot random_spot(Random& random, const Spot& around, float radius) const = 0;

  /// The spot nearest to `goal` that can be reached from `from`: where to go when there is no way.
  virtual Snap nearest_reachable(const Spot& from, vec3 goal) const = 0;

  /// Metres of the shortest way between two spots, seen from above; infinite when there is none.
  virtual float distance(const Spot& from, const Spot& to) const = 0;

  /// True when there is a way from spot to spot.
  virtual bool reachable(const Spot& from, const Spot& to) const {
    return distance(from, to) < std::numeric_limits<float>::infinity();
  }

  /// Where a ray first meets what can be seen of the ground, walked on or not, at most `reach` metres (0 to
  /// 1e6) from its start: by default height 0. Nothing when it meets none, or makes no sense.
  virtual std::optional<vec3> first_met(const Ray& ray, float reach = 1e6f) const {
    const auto metres = into_height(ray, 0);
    return metres && *metres <= reach ? std::optional(along(ray, *metres)) : std::nullopt;
  }

  /// The cells that the body of a spot walks on, for whoever goes by cells; null when the ground has none.
  virtual const TileMap* tiles(const Spot& spot) const {
    (void)spot;
    return nullptr;
  }

  /// True when every straight line between two spots lies on it: then a way need not be held to it.
  virtual bool convex() const { return false; }

  /// Changes whenever the ground does.
  virtual std::uint64_t revision() const = 0;

  /// True when something may have changed on the way from bend to bend (metres), for `body`, since that
  /// revision: then it is to be laid anew.
  virtual bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const {
    (void)bends, (void)body;
    return since != revision();
  }

  /// True if ground that opened after that revision may allow `body` a route from `from` to `to` (metres)
  /// that is shorter than `left` metres, or cheaper. A lower bound decides, without a search, so a search may
  /// still find nothing. Default: false. On such a ground a route is only planned again when something
  /// changed along it.
  virtual bool may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const {
    (void)from, (void)to, (void)left, (void)body, (void)since;
    return false;
  }
};

/// As far as one gets from a spot along `way` (metres), and from there along the edges that are met, four at
/// most: at a corner rounded in short edges the first one leads on to the next. `free` and `inward` are about
/// the first edge.
inline Stretch slide(const Ground& ground, const Spot& from, vec2 way) {
  constexpr int most_edges = 4;
  Stretch stretch = ground.straight(from, way);
  if (stretch.free) return stretch;
  vec2 left = way - flat(stretch.end.position - from.position), inward = stretch.inward;
  for (int edge = 0; edge < most_edges; ++edge) {
    left -= std::min(0.f, glm::dot(left, inward)) * inward;
    const Stretch along = ground.straight(stretch.end, left);
    left -= flat(along.end.position - stretch.end.position);
    stretch.end = along.end;
    stretch.metres += along.metres;
    if (along.free) break;
    inward = along.inward;
  }
  return stretch;
}

}  // namespace ambulon
