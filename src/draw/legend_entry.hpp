#pragma once

#include <functional>
#include <string_view>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// Adds a line to a legend: pixels of its sample, what it means, and what draws the sample from its left end
/// on.
using LegendEntry =
    std::function<void(float width, std::string_view words, const std::function<void(vec2)>& sample)>;

}  // namespace ambulon
