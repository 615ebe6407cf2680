#pragma once

#include <string>
#include <string_view>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/plan.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Reads a plan file: TOML with the line `format = "ambulon-plan/1"` and the lists
///
///     outline = [ring, ...]       # walkable inside; at least one
///     hole    = [ring, ...]       # not walkable inside
///     solid   = [ring, ...]       # obstacles
///     wall    = [{ line = [[x, y], ...], thickness = 0.2 }, ...]
///
/// A ring is [[x, y], ...], at least three points in metres. The problem begins with file, line and column.
Expected<Plan> read_plan(const std::string& file);

/// Reads a plan from text; `file` is the name for problems.
Expected<Plan> read_plan_text(std::string_view text, const std::string& file);

}  // namespace ambulon
