#pragma once

#include <span>
#include <string>
#include <string_view>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The text of a scene file with one value put in another's place, or added; all else, comments too, stays as
/// it is. `path` leads there from table to table: a key, in a list the number of an entry (from 0) or, of a
/// list of tables, the `name` of one (or that of one of many); `value` is TOML, such as "1.5" or "[2, 3]".
/// Where an NPC's gait, or a waypoint, is the name of a gait or of a place, the path goes on in that gait or
/// place. The problem when there is no such place in the file, or when the text would be no TOML after that.
Expected<std::string> with_value(std::string_view text, std::span<const std::string> path,
                                 std::string_view value);

}  // namespace ambulon
