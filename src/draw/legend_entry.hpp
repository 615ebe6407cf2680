#pragma once

#include <functional>
#include <string_view>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// Adds a line to a legend: width of its sample in pixels, its text, and a function that draws the sample
/// from its left end.
using LegendEntry =
    std::function<void(float width, std::string_view words, const std::function<void(vec2)>& sample)>;

}  // namespace ambulon
