#pragma once

namespace ambulon {

/// Where something stands in a scene file; lines and columns count from 1.
struct FilePlace {
  int line = 0;
  int column = 0;
};

}  // namespace ambulon
