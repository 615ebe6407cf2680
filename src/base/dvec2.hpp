#pragma once

#include <glm/ext/vector_double2.hpp>

namespace ambulon {

using dvec2 = glm::dvec2;  ///< for calculations in which floats are too coarse

}  // namespace ambulon
