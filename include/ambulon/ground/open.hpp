#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/ground/ground.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Ground without obstacles: a rectangle at z = 0. By default it extends as far as floats are exact to 1 cm.
class OpenGround final : public Ground {
 public:
  static constexpr float extent = 100'000.f;  ///< metres: the furthest edge from the origin

  OpenGround() = default;
  /// The rectangle between two corners (metres), clipped at `extent`.
  OpenGround(vec2 corner, vec2 opposite);

  Snap snap(vec3 point, float reach, const Body& body = {}) const override;
  void route(const Spot& from, const Spot& to, Route& route) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  Stretch straight(const Spot& from, vec2 way) const override;
  Clearance clearance(const Spot& spot, float max) const override;
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  Snap nearest_reachable(const Spot& from, vec3 goal) const override;
  float distance(const Spot& from, const Spot& to) const override;
  bool convex() const override { return true; }
  std::uint64_t revision() const override { return 0; }

  /// Returns the corners with the smallest and the largest coordinates.
  vec2 min() const { return min_; }
  vec2 max() const { return max_; }

 private:
  vec2 min_{-extent}, max_{extent};
};

}  // namespace ambulon
