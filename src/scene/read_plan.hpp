#pragma once

#include "ambulon/ground/mesh/plan.hpp"

#include "reader.hpp"

namespace ambulon::scene {

/// The plan that a table describes.
Plan read_plan_table(const Reader& reader);

}  // namespace ambulon::scene
