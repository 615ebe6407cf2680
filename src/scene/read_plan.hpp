#pragma once

#include "ambulon/ground/mesh/plan.hpp"

#include "scene/reader.hpp"

namespace ambulon::scene {

/// Reads a plan from a table.
Plan read_plan_table(const Reader& reader);

}  // namespace ambulon::scene
