#include "scene/values.hpp"

#include <cmath>
#include <span>

#include "scene/named_values.hpp"

namespace ambulon {
namespace {

template <class Of>
std::vector<NamedValue> values(const Of& of, std::span<const scene::Field<Of>> fields) {
  std::vector<NamedValue> all;
  for (const auto& field : fields) {
    // Rounded to the digits of a float; otherwise 360 degrees would be 360.00000834.
    const double value = static_cast<double>(of.*field.value) / static_cast<double>(field.unit);
    all.emplace_back(field.key, std::round(value * 1e4) / 1e4);
  }
  return all;
}

}  // namespace

std::vector<NamedValue> values_of(const Gait& gait) {
  std::vector<NamedValue> all = values<Gait>(gait, scene::gait_fields);
  all.emplace(all.begin() + 4, "turn_first", gait.turn_first ? 1 : 0);
  return all;
}

std::vector<NamedValue> values_of(const Body& body) { return values<Body>(body, scene::body_fields); }

std::vector<NamedValue> values_of(const SceneStep& step) {
  return std::visit(
      [](const auto& verb) {
        if constexpr (requires { verb.options; })
          return values(verb.options, scene::fields_of(verb.options));
        else
          return std::vector<NamedValue>();
      },
      step.verb);
}

}  // namespace ambulon
