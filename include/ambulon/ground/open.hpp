#pragma once

#include "ambulon/ground/ground.hpp"

namespace ambulon {

/// Ground without obstacles: the plane z = 0 within a rectangle; by default as far as float positions
/// are good to a centimetre.
class OpenGround final : public Ground {
 public:
  static constexpr float extent = 100'000.f;  ///< metres from the origin to each side, at the most

  /// 100 km from the origin to each side.
  OpenGround() = default;
  /// The rectangle from corner to corner (metres); what lies beyond `extent` is cut off.
  OpenGround(vec2 corner, vec2 opposite);

  Snap snap(vec3 point, float reach, const Body& body = {}) const override;
  void route(const Spot& from, const Spot& to, Route& route) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  Stretch straight(const Spot& from, vec2 way) const override;
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  Snap nearest_reachable(const Spot& from, vec3 goal) const override;
  float distance(const Spot& from, const Spot& to) const override;
  bool convex() const override { return true; }
  std::uint64_t revision() const override { return 0; }

  /// The corners with the least and with the most coordinates.
  vec2 least() const { return least_; }
  vec2 most() const { return most_; }

 private:
  vec2 least_{-extent}, most_{extent};
};

}  // namespace ambulon
