#pragma once

#include <span>
#include <string>
#include <string_view>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Returns the text of a scene file with one value replaced or added; everything else, with comments, stays.
///
/// 1. `path` names the value, table by table: keys, indices of lists (from 0), or in a list of tables the
///    `name` of one (or of a `count`).
/// 2. `value` is TOML, such as "1.5" or "[2, 3]".
/// 3. If an NPC's gait or a waypoint is the name of a gait or a place, the path continues there.
/// 4. Returns a problem if there is no such place in the file, or if the result is no valid TOML.
Expected<std::string> with_value(std::string_view text, std::span<const std::string> path,
                                 std::string_view value);

}  // namespace ambulon
