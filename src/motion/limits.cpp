// The valid ranges of bodies and gaits, in one place.

#include <fmt/format.h>

#include "ambulon/base/body.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/motion/gait.hpp"

namespace ambulon {
namespace {

struct Limit {
  const char* name;
  const char* unit;
  float value, least, most;
};

template <std::size_t Count>
const Limit* first_broken(const Limit (&limits)[Count]) {
  for (const Limit& limit : limits)
    if (!Range{limit.least, limit.most}.holds(limit.value)) return &limit;
  return nullptr;
}

tl::unexpected<Problem> out_of_range(const char* owner, const Limit& limit) {
  return problem(fmt::format("{} {} is {}{}; it must lie between {} and {}", owner, limit.name, limit.value,
                             limit.unit, limit.least, limit.most));
}

}  // namespace

Expected<Body> checked(const Body& body) {
  const Limit limits[] = {
      {"radius", " m", body.radius, 0.01f, 50.f},       {"height", " m", body.height, 0.01f, 100.f},
      {"step_up", " m", body.step_up, 0.f, 100.f},      {"jump_up", " m", body.jump_up, 0.f, 100.f},
      {"drop_down", " m", body.drop_down, 0.f, 1000.f}, {"leap", " m", body.leap, 0.f, 100.f},
      {"deck length", " m", body.deck.x, 0.f, 1000.f},  {"deck width", " m", body.deck.y, 0.f, 1000.f},
  };
  if (const Limit* broken = first_broken(limits)) return out_of_range("body", *broken);
  return body;
}

Expected<Gait> checked(const Gait& gait) {
  const Limit limits[] = {
      {"speed", " m/s", gait.speed, 0.01f, 100.f},
      {"acceleration", " m/s^2", gait.acceleration, 0.05f, 1000.f},
      {"braking", " m/s^2", gait.braking, 0.05f, 1000.f},
      {"turn_rate", " rad/s", gait.turn_rate, 0.01f, 1000.f},
      {"slowing_distance", " m", gait.slowing_distance, 0.f, 1000.f},
      {"floor_speed", "", gait.floor_speed, 0.f, 1.f},
      {"stride", " m", gait.stride, 0.01f, 100.f},
      {"clearance", " m", gait.clearance, 0.f, 100.f},
      {"rounding", " m", gait.rounding, 0.f, 100.f},
      {"mass", " times its own weight", gait.mass, 0.01f, 100.f},
  };
  if (const Limit* broken = first_broken(limits)) return out_of_range("gait", *broken);
  if (gait.patience != 0.f && !allowed::patiences.holds(gait.patience))
    return problem(
        fmt::format("gait patience is {} s; it must lie between {} and {}, or be 0 for the world's",
                    gait.patience, allowed::patiences.least, allowed::patiences.most));
  return gait;
}

}  // namespace ambulon
