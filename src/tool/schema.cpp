#include <fmt/format.h>

#include "ambulon/scene/scene.hpp"

#include "commands.hpp"
#include "player.hpp"

namespace ambulon::tool {

int schema() {
  fmt::print("{}", scene_schema());
  return exit_done;
}

}  // namespace ambulon::tool
