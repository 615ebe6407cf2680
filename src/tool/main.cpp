// The program `ambulon`: what each command takes. What it does is in the command's own file.

#include <algorithm>

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include "ambulon/scene/scene.hpp"

#include "commands.hpp"
#include "player.hpp"

namespace {

using namespace ambulon::tool;

/// Accepts finite numbers from `least` to `most`.
CLI::Validator number_between(double least, double most) {
  const auto test = [least, most](const std::string& text) -> std::string {
    double value = 0;
    if (CLI::detail::lexical_cast(text, value) && value >= least && value <= most) return {};
    return fmt::format("\"{}\" is not a number between {} and {}", text, least, most);
  };
  return {test, ""};
}

constexpr double month = 30.0 * 86'400;  // the longest time played at once, seconds

CLI::App* add_command(CLI::App& app, const char* name, const char* what, std::string& scene) {
  CLI::App* command = app.add_subcommand(name, what);
  command->add_option("scene", scene, "scene file")->required()->type_name("SCENE");
  return command;
}

void add_size(CLI::App& command, int& width, int& height) {
  for (const auto& [name, value] : {std::pair{"--width", &width}, {"--height", &height}})
    command.add_option(name, *value, "pixels")
        ->check(number_between(16, 16'384))
        ->type_name("PIXELS")
        ->capture_default_str();
}

}  // namespace

int main(int argc, char** argv) {
  CLI::App app{"Plays, draws and explains scenes of characters that get around."};
  app.set_version_flag("--version", "ambulon " AMBULON_VERSION);

  RunRequest run_request;
  CLI::App* run_command =
      add_command(app, "run", "play a scene and print a table of what each character did", run_request.scene);
  run_command->add_option("--for", run_request.seconds, "seconds to play; by default the scene's length")
      ->check(number_between(0.001, month))
      ->type_name("SECONDS");
  run_command->add_option("--trace", run_request.trace, "write where everybody was, as JSON Lines")
      ->type_name("FILE");
  run_command->add_option("--every", run_request.every, "seconds between samples of the trace")
      ->check(number_between(0.001, 86'400))
      ->type_name("SECONDS")
      ->capture_default_str();
  run_command->add_flag("--json", run_request.json, "print one JSON document");

  JournalRequest journal_request;
  CLI::App* journal_command =
      add_command(app, "journal", "play a scene and tell what happened and why", journal_request.scene);
  journal_command->add_option("--npc", journal_request.npc, "only this character")->type_name("NAME");
  journal_command
      ->add_option("--for", journal_request.seconds, "seconds to play; by default the scene's length")
      ->check(number_between(0.001, month))
      ->type_name("SECONDS");
  journal_command->add_flag("--json", journal_request.json, "print JSON Lines");

  DrawRequest draw_request;
  CLI::App* draw_command = add_command(app, "draw", "make a chart of a scene", draw_request.scene);
  draw_command->add_option("-o,--output", draw_request.output, "picture, .png or .svg")
      ->required()
      ->type_name("FILE");
  draw_command->add_option("--at", draw_request.at, "seconds into the scene")
      ->check(number_between(0, month))
      ->type_name("SECONDS")
      ->capture_default_str();
  draw_command->add_flag("--trail", draw_request.trail, "draw the way walked so far");
  add_size(*draw_command, draw_request.width, draw_request.height);
  draw_command->add_flag("--json", draw_request.json, "print one JSON document");

  CheckRequest check_request;
  CLI::App* check_command =
      add_command(app, "check", "find what will look wrong in play; exits with 1 when there is something",
                  check_request.scene);
  check_command->add_flag("--json", check_request.json, "print one JSON document");

  CompareRequest compare_request;
  CLI::App* compare_command = app.add_subcommand(
      "compare", "set two characters of a scene, or one of each of two scenes, side by side");
  compare_command->add_option("scene", compare_request.scenes, "scene file, or two")
      ->required()
      ->expected(1, 2)
      ->type_name("SCENE");
  compare_command
      ->add_option("--npc", compare_request.npcs, "the characters: two, or one that both scenes have")
      ->required()
      ->expected(1, 2)
      ->type_name("NAME");
  compare_command
      ->add_option("--for", compare_request.seconds, "seconds to play; by default the longer scene's length")
      ->check(number_between(0.001, 86'400))
      ->type_name("SECONDS");
  compare_command->add_option("-o,--output", compare_request.output, "picture, .png or .svg")
      ->type_name("FILE");
  add_size(*compare_command, compare_request.width, compare_request.height);
  compare_command->add_flag("--json", compare_request.json, "print one JSON document");

  CLI::App* schema_command = app.add_subcommand("schema", "print the JSON Schema of scene files");

  std::vector<std::string> commands;
  for (const CLI::App* command : app.get_subcommands({})) commands.push_back(command->get_name());
  if (argc < 2 || (argv[1][0] != '-' && std::ranges::find(commands, argv[1]) == commands.end())) {
    const std::string what =
        argc < 2 ? "no command is given" : fmt::format("there is no command \"{}\"", argv[1]);
    remark(fmt::format("{}; it must be one of {}; see ambulon --help", what, fmt::join(commands, ", ")));
    return exit_could_not;
  }
  try {
    app.parse(argc, argv);
  } catch (const CLI::Success& wanted) {
    return app.exit(wanted);  // --help, --version
  } catch (const CLI::ParseError& error) {
    remark(fmt::format("{}; see ambulon --help", error.what()));
    return exit_could_not;
  }
  if (*run_command) return run(run_request);
  if (*journal_command) return journal(journal_request);
  if (*draw_command) return draw(draw_request);
  if (*check_command) return check(check_request);
  if (*compare_command) return compare(compare_request);
  if (*schema_command) return schema();
  remark("no command is given; see ambulon --help");
  return exit_could_not;
}
