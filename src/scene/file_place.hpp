#pragma once

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A position in a file; lines and columns count from 1.
struct FilePlace {
  int line = 0;
  int column = 0;
};

}  // namespace ambulon
