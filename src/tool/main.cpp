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

/// An option that is a point, "x,y".
template <class Point>
CLI::Option* add_point(CLI::App& command, const char* name, Point& target, const char* what) {
  return command
      .add_option_function<std::string>(
          name,
          [&target, name](const std::string& text) {
            ambulon::vec2 point(0.f);
            const auto comma = text.find(',');
            const bool read = comma != std::string::npos &&
                              CLI::detail::lexical_cast(text.substr(0, comma), point.x) &&
                              CLI::detail::lexical_cast(text.substr(comma + 1), point.y);
            if (!read || !ambulon::finite(ambulon::lift(point)))
              throw CLI::ValidationError(name, fmt::format("\"{}\" is not a point; write it as x,y", text));
            target = point;
          },
          what)
      ->type_name("X,Y");
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
  draw_command
      ->add_option(
          "--show", draw_request.show,
          "components, or the search from --from to --to; of tiles clearance, distance or flow to --to; of a "
          "plan polygons")
      ->check(CLI::IsMember({"clearance", "components", "distance", "flow", "polygons", "search"}))
      ->type_name("WHAT");
  add_point(*draw_command, "--from", draw_request.from, "where the search begins, metres");
  add_point(*draw_command, "--to", draw_request.to, "where it leads, metres");
  draw_command->add_option("--radius", draw_request.radius, "metres, of the body that it is shown for")
      ->check(number_between(0, 50))
      ->type_name("METRES")
      ->capture_default_str();
  add_size(*draw_command, draw_request.width, draw_request.height);
  draw_command->add_flag("--json", draw_request.json, "print one JSON document");

  RouteRequest route_request;
  CLI::App* route_command = app.add_subcommand(
      "route", "answer where a way leads, or how long many are; exits with 1 when one is not as asked");
  route_command
      ->add_option("ground", route_request.ground,
                   "scene file, plan file, octile .map, .png, or a text of tiles")
      ->required()
      ->type_name("GROUND");
  CLI::Option* from = add_point(*route_command, "--from", route_request.from, "where it begins, metres");
  CLI::Option* to = add_point(*route_command, "--to", route_request.to, "where it leads, metres");
  route_command->add_option("--shape", route_request.shape, "cells, taut, centred or rounded")
      ->check(CLI::IsMember({"cells", "taut", "centred", "rounded"}))
      ->type_name("SHAPE")
      ->capture_default_str();
  for (const auto& [name, value, what] :
       {std::tuple{"--radius", &route_request.radius, "metres, half the width of the body"},
        {"--clearance", &route_request.clearance, "metres that a centred route keeps from corners"},
        {"--rounding", &route_request.rounding, "metres, radius of the arcs of a rounded route"}})
    route_command->add_option(name, *value, what)
        ->check(number_between(0, 50))
        ->type_name("METRES")
        ->capture_default_str();
  route_command->add_flag("--four", route_request.four, "steps to the four sides only, not to corners");
  CLI::Option* scen = route_command
                          ->add_option("--scen", route_request.scens,
                                       "file of queries and their lengths; several may be given")
                          ->type_name("FILE")
                          ->excludes(from)
                          ->excludes(to);
  route_command
      ->add_option("--pairs", route_request.pairs, "file of points to go between, x,y,z,x,y,z a line")
      ->type_name("FILE")
      ->excludes(from)
      ->excludes(to)
      ->excludes(scen);
  route_command->add_flag("--json", route_request.json,
                          "print JSON; with --scen or --pairs a line for each query");

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
  if (*route_command) {
    if (scen->empty() && route_request.pairs.empty() && (from->empty() || to->empty())) {
      remark("route needs --from x,y and --to x,y, or --scen or --pairs FILE; see ambulon route --help");
      return exit_could_not;
    }
    return route(route_request);
  }
  if (*check_command) return check(check_request);
  if (*compare_command) return compare(compare_request);
  if (*schema_command) return schema();
  remark("no command is given; see ambulon --help");
  return exit_could_not;
}
