#pragma once

#include "ambulon/base/public.hpp"

#include "scene/names.hpp"

namespace ambulon::scene {

/// Reads what happens in an event; the caller reads `at`. `barriers`: the names that may be moved and taken
/// away.
decltype(SceneEvent::what) read_happening(const Names& names, Scene& scene,
                                          std::span<const std::string> barriers, const Reader& event);

}  // namespace ambulon::scene

namespace AMBULON_PUBLIC ambulon {

/// Reads an event of values that are in no file.
Expected<SceneEvent> read_event(const toml::table& event, Scene& scene,
                                std::span<const std::string> barriers);

}  // namespace ambulon
