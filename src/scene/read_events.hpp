#pragma once

#include "scene/names.hpp"

namespace ambulon::scene {

/// Reads what happens in an event; the caller reads `at`. `barriers`: the names that may be moved and taken
/// away.
decltype(SceneEvent::what) read_happening(const Names& names, Scene& scene,
                                          std::span<const std::string> barriers, const Reader& event);

}  // namespace ambulon::scene
