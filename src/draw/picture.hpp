#pragma once

#include <functional>
#include <string>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/draw/canvas.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Writes a picture of `width` by `height` pixels (16 to 16384) to a file ending in .png or .svg; `paint`
/// draws it. Returns the name of the file, or a problem.
Expected<std::string> save_picture(const std::string& file, int width, int height,
                                   const std::function<void(Canvas&)>& paint);

}  // namespace ambulon
