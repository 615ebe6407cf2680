#pragma once

#include <functional>
#include <string>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/draw/canvas.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Draws a picture of `width` by `height` pixels (16 to 16384) into a file whose name ends in .png
/// or .svg; `paint` does the drawing. Answers with the file's name, or with what is wrong.
Expected<std::string> save_picture(const std::string& file, int width, int height,
                                   const std::function<void(Canvas&)>& paint);

}  // namespace ambulon
