#pragma once

#include "ambulon/ground/ground.hpp"

namespace ambulon {

/// Ground without obstacles: the plane z = 0, as far as float positions are good to a centimetre,
/// which is 100 km from the origin in x and in y.
class OpenGround final : public Ground {
 public:
  static constexpr float extent = 100'000.f;  ///< metres from the origin to each side

  Snap snap(vec3 point, float reach) const override;
  void route(const Spot& from, const Spot& to, Route& route) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  float distance(const Spot& from, const Spot& to) const override;
  std::uint64_t revision() const override { return 0; }
};

}  // namespace ambulon
