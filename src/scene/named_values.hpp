#pragma once

#include <string_view>
#include <utility>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/motion/gait.hpp"

#include "scene/steps.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A value of a gait, a body or an order: its key in scene files and its number in the unit of scene files;
/// flags are 0 or 1.
using NamedValue = std::pair<std::string_view, double>;

/// Returns all values in the order of the schema.
std::vector<NamedValue> values_of(const Gait& gait);
std::vector<NamedValue> values_of(const Body& body);
/// Returns the numbers of a step's order, with defaults.
std::vector<NamedValue> values_of(const SceneStep& step);

}  // namespace ambulon
