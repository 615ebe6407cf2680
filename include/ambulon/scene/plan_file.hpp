#pragma once

#include <string>
#include <string_view>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/mesh/plan.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Reads a plan file: TOML with the line `format = "ambulon-plan/1"` and the lists
///
///     outline = [ring, ...]       # one can walk inside of these; at least one
///     hole    = [ring, ...]       # but not inside of these
///     solid   = [ring, ...]       # nor of these
///     wall    = [{ line = [[x, y], ...], thickness = 0.2 }, ...]   # nor on these
///
/// where a ring is [[x, y], ...], three points or more, in metres. The problem begins with file, line and
/// column.
Expected<Plan> read_plan(const std::string& file);

/// Reads a plan from text; `file` is what problems call it.
Expected<Plan> read_plan_text(std::string_view text, const std::string& file);

}  // namespace ambulon
