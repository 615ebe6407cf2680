#pragma once
// The keys of scene files and the members of gaits and bodies, for reading and writing.

#include <cmath>
#include <span>
#include <string_view>
#include <vector>

#include "ambulon/base/angle.hpp"
#include "ambulon/base/body.hpp"
#include "ambulon/motion/gait.hpp"

#include "scene/named_values.hpp"

namespace ambulon::scene {

template <class Of>
struct Field {
  std::string_view key;
  float Of::* value;
  float unit = 1.f;  ///< unit of the file, in the unit of the code
};

inline constexpr Field<Gait> gait_fields[] = {
    {"speed", &Gait::speed},
    {"acceleration", &Gait::acceleration},
    {"braking", &Gait::braking},
    {"turn_rate", &Gait::turn_rate, radians(1.f)},
    {"slowing_distance", &Gait::slowing_distance},
    {"floor_speed", &Gait::floor_speed},
    {"stride", &Gait::stride},
    {"clearance", &Gait::clearance},
    {"bend_distance", &Gait::bend_distance},
    {"rounding", &Gait::rounding},
    {"uphill", &Gait::uphill},
    {"downhill", &Gait::downhill},
    {"patience", &Gait::patience},
};

inline constexpr Field<Body> body_fields[] = {
    {"radius", &Body::radius},   {"height", &Body::height},       {"step_up", &Body::step_up},
    {"jump_up", &Body::jump_up}, {"drop_down", &Body::drop_down}, {"leap", &Body::leap},
};

/// Returns the numbers of `of` with their keys, in the unit of the file.
template <class Of>
std::vector<NamedValue> values(const Of& of, std::span<const Field<Of>> fields) {
  std::vector<NamedValue> all;
  for (const auto& field : fields) {
    // Rounded to the digits of a float; otherwise 360 degrees would be 360.00000834.
    const double value = static_cast<double>(of.*field.value) / static_cast<double>(field.unit);
    all.emplace_back(field.key, std::round(value * 1e4) / 1e4);
  }
  return all;
}

}  // namespace ambulon::scene
