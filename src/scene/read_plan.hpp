#pragma once

#include <string>
#include <string_view>

#include "ambulon/scene/ground_file.hpp"

#include "scene/reader.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Reads a plan from text; `file` is the name for problems.
Expected<Plan> read_plan_text(std::string_view text, const std::string& file);

}  // namespace ambulon

namespace ambulon::scene {

/// Reads a plan from a table.
Plan read_plan_table(const Reader& reader);

}  // namespace ambulon::scene
