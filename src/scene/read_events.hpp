#pragma once

#include "names.hpp"

namespace ambulon::scene {

/// What the table of an event says happens; `at` is the caller's. `barriers`: the names that may be moved and
/// taken away.
decltype(SceneEvent::what) read_happening(const Names& names, Scene& scene,
                                          std::span<const std::string> barriers, const Reader& event);

}  // namespace ambulon::scene
