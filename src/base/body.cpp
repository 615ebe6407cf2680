#include "ambulon/base/body.hpp"

#include <cmath>

#include "base/geometry.hpp"
#include "base/limits.hpp"

namespace ambulon {

Expected<void> validate(const Body& body) {
  const detail::MemberLimit limits[] = {
      {"radius", " m", body.radius, 0.01f, 50.f},       {"height", " m", body.height, 0.01f, 100.f},
      {"step_up", " m", body.step_up, 0.f, 100.f},      {"jump_up", " m", body.jump_up, 0.f, 100.f},
      {"drop_down", " m", body.drop_down, 0.f, 1000.f}, {"leap", " m", body.leap, 0.f, 100.f},
      {"deck length", " m", body.deck.x, 0.f, 1000.f},  {"deck width", " m", body.deck.y, 0.f, 1000.f},
  };
  if (const auto* broken = detail::first_out_of_range(limits)) return detail::out_of_range("body", *broken);
  return {};
}

float metres_apart(vec3 off, float height, float others) {
  const float between = std::fmax(off.z - height, -off.z - others);
  const float on_plan = glm::length(vec2(off));
  return between > 0.f ? std::hypot(on_plan, between) : on_plan;
}

}  // namespace ambulon
