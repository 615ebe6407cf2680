// The program `ambulon`: what each command takes. What it does is in the command's own file.

#include <algorithm>
#include <cmath>

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include "ambulon/scene/scene.hpp"

#include "base/geometry.hpp"
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

/// The numbers of a text, with commas between; none when it is not that, or when one is not finite.
std::vector<float> numbers_of(const std::string& text) {
  std::vector<float> numbers;
  for (const std::string& part : CLI::detail::split(text, ',')) {
    float number = 0.f;
    if (!CLI::detail::lexical_cast(part, number) || !std::isfinite(number)) return {};
    numbers.push_back(number);
  }
  return numbers;
}

/// The point that a text says, "x,y" or "x,y,z"; `name` is the option's.
ambulon::vec3 point_of(const std::string& name, const std::string& text) {
  const std::vector<float> numbers = numbers_of(text);
  if (numbers.size() != 2 && numbers.size() != 3)
    throw CLI::ValidationError(name, fmt::format("\"{}\" is not a point; write it as x,y or x,y,z", text));
  return {numbers[0], numbers[1], numbers.size() == 3 ? numbers[2] : 0.f};
}

/// An option that is a point, "x,y" or "x,y,z".
template <class Point>
CLI::Option* add_point(CLI::App& command, const char* name, Point& target, const char* what) {
  return command
      .add_option_function<std::string>(
          name, [&target, name](const std::string& text) { target = point_of(name, text); }, what)
      ->type_name("X,Y[,Z]");
}

/// The options that say which body it is about.
void add_body(CLI::App& command, ambulon::Body& body, bool& given) {
  command
      .add_option_function<float>(
          "--radius", [&body, &given](float metres) { body.radius = metres, given = true; },
          "metres, half the width of the body; by default 0.3, or that of the body that a saved ground is "
          "for")
      ->check(number_between(0, 50))
      ->type_name("METRES");
  command
      .add_option_function<std::vector<std::string>>(
          "--body",
          [&body, &given](const std::vector<std::string>& parts) {
            given = true;
            for (const std::string& part : parts) {
              const auto equals = part.find('=');
              const std::string key = part.substr(0, equals);
              struct Measure {
                std::string_view name;
                float* metres;
                float most;
              };
              const Measure measures[] = {
                  {"radius", &body.radius, 50.f},         {"height", &body.height, 100.f},
                  {"step_up", &body.step_up, 100.f},      {"jump_up", &body.jump_up, 100.f},
                  {"drop_down", &body.drop_down, 1000.f}, {"leap", &body.leap, 100.f}};
              const auto measure = std::ranges::find(measures, key, &Measure::name);
              float value = 0.f;
              const bool number = equals != std::string::npos &&
                                  CLI::detail::lexical_cast(part.substr(equals + 1), value) &&
                                  std::isfinite(value);
              const bool known = measure != std::end(measures);
              if (!known || !number || value < 0.f || value > measure->most)
                throw CLI::ValidationError(
                    "--body",
                    fmt::format("\"{}\" is none of radius, height, step_up, jump_up, drop_down and leap with "
                                "metres from 0 to {:g}; write radius=0.3,height=1.7,step_up=0.3",
                                part, known ? measure->most : 100.f));
              *measure->metres = value;
            }
          },
          "the body in metres, radius=0.3,height=1.7,step_up=0.3,jump_up=0,drop_down=0,leap=0; all but the "
          "radius counts on levels")
      ->delimiter(',')
      ->type_name("SIZE");
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
  run_command->add_flag("--profile", run_request.profile, "tell what each phase of the ticks took");
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
          "clearance, components, or the search from --from to --to; of tiles distance or flow to --to; of a "
          "plan or a level polygons, crossings or what is rejected and why; of a level heights")
      ->check(CLI::IsMember({"clearance", "components", "crossings", "distance", "flow", "heights",
                             "polygons", "rejected", "search"}))
      ->type_name("WHAT");
  add_point(*draw_command, "--from", draw_request.from, "where the search begins, metres");
  add_point(*draw_command, "--to", draw_request.to, "where it leads, metres");
  draw_command
      ->add_option_function<std::string>(
          "--between",
          [&draw_request](const std::string& text) {
            const std::vector<float> heights = numbers_of(text);
            if (heights.size() != 2 || heights[0] > heights[1])
              throw CLI::ValidationError(
                  "--between",
                  fmt::format("\"{}\" is not two heights, the lower one first; write -0.5,1.5", text));
            draw_request.between = ambulon::vec2(heights[0], heights[1]);
          },
          "of a level, only the floors between two heights, metres")
      ->type_name("LOW,HIGH");
  add_body(*draw_command, draw_request.body, draw_request.body_given);
  add_size(*draw_command, draw_request.width, draw_request.height);
  draw_command->add_flag("--json", draw_request.json, "print one JSON document");

  RouteRequest route_request;
  CLI::App* route_command = app.add_subcommand(
      "route", "answer where a way leads, or how long many are; exits with 1 when one is not as asked");
  route_command
      ->add_option("ground", route_request.ground,
                   "scene file, plan file, level (.gltf, .glb, .obj and more), .ground, octile .map, .png, "
                   "or a text of tiles")
      ->required()
      ->type_name("GROUND");
  CLI::Option* from = add_point(*route_command, "--from", route_request.from, "where it begins, metres");
  CLI::Option* to = add_point(*route_command, "--to", route_request.to, "where it leads, metres");
  route_command->add_option("--shape", route_request.shape, "cells, taut, centred or rounded")
      ->check(CLI::IsMember({"cells", "taut", "centred", "rounded"}))
      ->type_name("SHAPE")
      ->capture_default_str();
  add_body(*route_command, route_request.body, route_request.body_given);
  for (const auto& [name, value, what] :
       {std::tuple{"--clearance", &route_request.clearance,
                   "metres that a centred route keeps from corners and edges"},
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

  BuildRequest build_request;
  CLI::App* build_command =
      app.add_subcommand("build", "make the mesh of a level or a plan, and tell what has become of it");
  build_command
      ->add_option("ground", build_request.ground,
                   "level (.gltf, .glb, .obj, .ply, .stl and more), plan or scene file")
      ->required()
      ->type_name("LEVEL");
  build_command
      ->add_option(
          "-o,--output", build_request.output,
          "save the ground, for scenes to name (.ground), or what can be walked on, to look at (.obj, .gltf, "
          ".glb)")
      ->type_name("FILE");
  bool build_body_given = false;
  add_body(*build_command, build_request.body, build_body_given);
  build_command
      ->add_option_function<std::string>(
          "--up",
          [&build_request](const std::string& axis) {
            build_request.level.up =
                axis == "z" ? ambulon::LevelFileOptions::Up::z : ambulon::LevelFileOptions::Up::y;
          },
          "which axis of the level points up, y or z; by default z for .ply and .stl, y for all others")
      ->check(CLI::IsMember({"y", "z"}))
      ->type_name("AXIS");
  build_command->add_flag("--closed", build_request.closed,
                          "all pieces of the level are meant to be closed: name those that are not, and exit "
                          "with 1 if there are any");
  build_command
      ->add_option_function<float>(
          "--max-slope",
          [&build_request](float degrees) { build_request.max_slope = ambulon::radians(degrees); },
          "the steepest part of the level that is walked on; by default the scene's, or 45")
      ->check(number_between(0, 80))
      ->type_name("DEGREES");
  build_command
      ->add_option_function<std::vector<std::string>>(
          "--reach-from",
          [&build_request](const std::vector<std::string>& points) {
            for (const std::string& text : points)
              build_request.reach_from.push_back(point_of("--reach-from", text));
          },
          "keep only ground of the level that can be reached from this point, or from another one where it "
          "is "
          "given again; by default from the scene's")
      ->allow_extra_args(false)
      ->type_name("X,Y[,Z]");
  add_point(*build_command, "--shift", build_request.level.shift,
            "metres, added to all coordinates of the level's file, to bring one near the origin");
  build_command
      ->add_option("--decor", build_request.level.decor, "names of what is not there for those who walk")
      ->type_name("NAME");
  build_command->add_option("--barred", build_request.level.barred, "names of what is never walked on")
      ->type_name("NAME");
  build_command->add_flag("--json", build_request.json, "print one JSON document");

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

  LiveRequest live_request;
  CLI::App* live_command = add_command(
      app, "live", "show a scene as it is played, as a page to look at and to act on", live_request.scene);
  live_command
      ->add_option("--port", live_request.port, "of 127.0.0.1, on which it is served; 0: any that is free")
      ->check(number_between(0, 65'535))
      ->type_name("PORT")
      ->capture_default_str();
  live_command->add_flag("--json", live_request.json, "print where it is as one JSON document");

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
  if (*build_command) return build(build_request);
  if (*check_command) return check(check_request);
  if (*compare_command) return compare(compare_request);
  if (*live_command) return live(live_request);
  if (*schema_command) return schema();
  remark("no command is given; see ambulon --help");
  return exit_could_not;
}
