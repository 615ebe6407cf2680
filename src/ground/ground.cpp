#include "ambulon/ground/ground.hpp"

#include <limits>

#include "base/ray_hits.hpp"

namespace ambulon {

Snap Ground::snap_near(const Spot& /*known*/, vec3 point, float reach, const Body& body) const {
  return snap(point, reach, body);
}

bool Ground::shares_routes(const Spot& /*to*/, std::span<const Spot> /*from*/) const { return false; }

void Ground::routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const {
  for (std::size_t i = 0; i < from.size(); ++i) route(from[i], to, *ways[i]);
}

void Ground::detour(const Spot& /*from*/, const Spot& /*to*/, const Bottleneck& /*jam*/, float /*max*/,
                    Route& route) const {
  route.clear();
}

Clearance Ground::clearance(const Spot& /*spot*/, float /*max*/) const { return {}; }

bool Ground::reachable(const Spot& from, const Spot& to) const {
  return distance(from, to) < std::numeric_limits<float>::infinity();
}

std::optional<vec3> Ground::first_met(const Ray& ray, float reach) const {
  const auto metres = into_height(ray, 0);
  return metres && *metres <= reach ? std::optional(along(ray, *metres)) : std::nullopt;
}

const TileMap* Ground::tiles(const Spot& /*spot*/) const { return nullptr; }

void Ground::visit_surface(const Body& /*body*/, vec2 /*low*/, vec2 /*high*/,
                           SurfaceVisitor& /*visitor*/) const {}

bool Ground::changed_along(std::span<const vec3> /*bends*/, const Body& /*body*/, std::uint64_t since) const {
  return since != revision();
}

bool Ground::may_shorten(vec3 /*from*/, vec3 /*to*/, float /*left*/, const Body& /*body*/,
                         std::uint64_t /*since*/) const {
  return false;
}

}  // namespace ambulon
