#pragma once

#include "ambulon/ground/ground.hpp"

namespace ambulon {

/// A user's ground that implements only the required queries, by another ground.
class GroundBehind : public Ground {
 public:
  explicit GroundBehind(const Ground& ground) : ground_(ground) {}

  Snap snap(vec3 point, float reach, const Body& body) const override {
    return ground_.snap(point, reach, body);
  }
  void route(const Spot& from, const Spot& to, Route& route) const override {
    ground_.route(from, to, route);
  }
  bool sight(const Spot& from, const Spot& to) const override { return ground_.sight(from, to); }
  Stretch straight(const Spot& from, vec2 way) const override { return ground_.straight(from, way); }
  Spot random_spot(Random& random, const Spot& around, float radius) const override {
    return ground_.random_spot(random, around, radius);
  }
  Snap nearest_reachable(const Spot& from, vec3 goal) const override {
    return ground_.nearest_reachable(from, goal);
  }
  float distance(const Spot& from, const Spot& to) const override { return ground_.distance(from, to); }
  std::uint64_t revision() const override { return ground_.revision(); }
  bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const override {
    return ground_.changed_along(bends, body, since);
  }
  bool may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const override {
    return ground_.may_shorten(from, to, left, body, since);
  }

 private:
  const Ground& ground_;
};

}  // namespace ambulon
