#pragma once

#include "ambulon/base/public.hpp"

#include "scene/scene.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A defect of a scene that would show when it is played.
struct Finding {
  FilePlace where;
  std::string npc;      ///< the NPC concerned; may be empty
  std::string what;     ///< the fact
  std::string why;      ///< why it matters
  std::string instead;  ///< what to do
};

/// Analyses a scene without playing it, and returns the findings in the order of the file.
std::vector<Finding> check(const Scene& scene);

}  // namespace ambulon
