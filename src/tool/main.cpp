// The program `ambulon`. Each command, with its options, is in a file of its own.

#include <algorithm>

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include "commands.hpp"
#include "player.hpp"

int main(int argc, char** argv) {
  using namespace ambulon::tool;
  CLI::App app{"Plays, draws and checks scenes of moving characters."};
  app.set_version_flag("--version", "ambulon " AMBULON_VERSION);
  int exit_code = exit_could_not;
  for (const auto add :
       {add_run, add_journal, add_draw, add_route, add_build, add_check, add_compare, add_live, add_schema})
    add(app, exit_code);

  std::vector<std::string> commands;
  for (const CLI::App* command : app.get_subcommands({})) commands.push_back(command->get_name());
  if (argc < 2 || (argv[1][0] != '-' && std::ranges::find(commands, argv[1]) == commands.end())) {
    const std::string what =
        argc < 2 ? "no command is given" : fmt::format("there is no command \"{}\"", argv[1]);
    announce(fmt::format("{}; it must be one of {}; see ambulon --help", what, fmt::join(commands, ", ")));
    return exit_could_not;
  }
  try {
    app.parse(argc, argv);
  } catch (const CLI::Success& wanted) {
    return app.exit(wanted);  // --help, --version
  } catch (const CLI::ParseError& error) {
    announce(fmt::format("{}; see ambulon --help", error.what()));
    return exit_could_not;
  }
  if (app.get_subcommands().empty()) announce("no command is given; see ambulon --help");
  return exit_code;
}
