#include <fmt/format.h>

#include "commands.hpp"
#include "options.hpp"
#include "player.hpp"
#include "scene/scene.hpp"

namespace ambulon::tool {

void add_schema(CLI::App& app, int& exit_code) {
  app.add_subcommand("schema", "print the JSON Schema of scene files")->callback([&exit_code] {
    fmt::print("{}", scene_schema());
    exit_code = exit_done;
  });
}

}  // namespace ambulon::tool
