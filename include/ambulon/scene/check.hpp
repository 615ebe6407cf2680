#pragma once

#include "ambulon/scene/scene.hpp"

namespace ambulon {

/// Something in a scene that will look wrong when it is played.
struct Finding {
  FilePlace where;
  std::string npc;      ///< whom it is about; empty when it is about nobody
  std::string what;     ///< what is so
  std::string why;      ///< why it matters
  std::string instead;  ///< what would do
};

/// Looks through a scene without playing it; the findings in the order of the file.
std::vector<Finding> check(const Scene& scene);

}  // namespace ambulon
