#include <algorithm>
#include <limits>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "base/geometry.hpp"
#include "commands.hpp"
#include "draw/comparison.hpp"
#include "draw/picture.hpp"
#include "options.hpp"
#include "player.hpp"
#include "scene/comparison.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon compare`: two characters of one scene, or of two.
struct CompareRequest {
  std::vector<std::string> scenes, npcs;
  std::optional<double> seconds;
  std::string output;
  int width = 1280, height = 800;
  bool json = false;
};

using nlohmann::ordered_json;

/// Returns the index of an NPC; prints an error if there is none.
std::optional<std::size_t> find_npc(const Scene& scene, const std::string& name) {
  const auto npc = std::ranges::find(scene.npcs, name, &SceneNpc::name);
  if (npc != scene.npcs.end()) return static_cast<std::size_t>(npc - scene.npcs.begin());
  std::vector<std::string> known;
  for (const SceneNpc& each : scene.npcs) known.push_back(each.name);
  announce(fmt::format("{} has no character \"{}\"; it has {}", scene.file, name, fmt::join(known, ", ")));
  return std::nullopt;
}

/// A compared value: name, unit and number.
struct Row {
  const char* name;
  const char* key;
  const char* unit;
  int digits;
  std::optional<double> (*value)(const Trajectory&);
};

constexpr Row rows[] = {
    {"walked", "walked", "m", 2, [](const Trajectory& c) { return std::optional<double>(c.walked); }},
    {"arrived after", "arrived_after", "s", 2, [](const Trajectory& c) { return c.arrived_after; }},
    {"overshoot", "overshoot", "m", 3,
     [](const Trajectory& c) { return std::optional<double>(c.overshoot); }},
    {"mean speed", "mean_speed", "m/s", 2,
     [](const Trajectory& c) { return std::optional<double>(c.mean_speed); }},
    {"top speed", "top_speed", "m/s", 2,
     [](const Trajectory& c) { return std::optional<double>(c.top_speed); }},
    {"turned in all", "turned_deg", "degrees", 0,
     [](const Trajectory& c) { return std::optional<double>(degrees(c.turned)); }},
    {"speed changes", "speed_changes", "", 0,
     [](const Trajectory& c) { return std::optional<double>(c.speed_changes); }},
};

void print_table(const Trajectory (&trajectories)[2], const std::string (&names)[2]) {
  const std::size_t width = std::max({names[0].size(), names[1].size(), std::size_t{10}});
  fmt::print("{:<22}  {:>{}}  {:>{}}  {:>12}\n", "", names[0], width, names[1], width, "difference");
  for (const Row& row : rows) {
    const std::string name = *row.unit == '\0' ? row.name : fmt::format("{}, {}", row.name, row.unit);
    const auto a = row.value(trajectories[0]), b = row.value(trajectories[1]);
    const auto text = [&](std::optional<double> value) {
      return value ? fmt::format("{:.{}f}", *value, row.digits) : std::string("-");
    };
    fmt::print("{:<22}  {:>{}}  {:>{}}  {:>12}\n", name, text(a), width, text(b), width,
               a && b ? fmt::format("{:+.{}f}", *b - *a, row.digits) : "-");
  }
}

void print_json(const Trajectory (&trajectories)[2], const CompareRequest& request, double seconds) {
  ordered_json list = ordered_json::array();
  for (std::size_t i = 0; i < 2; ++i) {
    ordered_json course = {{"scene", request.scenes[std::min(i, request.scenes.size() - 1)]},
                           {"npc", trajectories[i].name}};
    for (const Row& row : rows) {
      const auto value = row.value(trajectories[i]);
      course[row.key] = value ? ordered_json(std::round(*value * 1e4) / 1e4) : ordered_json();
    }
    list.push_back(course);
  }
  fmt::print("{}\n", ordered_json{{"seconds", seconds}, {"compared", list}}.dump(2));
}

Comparison picture_of(const Trajectory (&trajectories)[2], const std::string (&names)[2],
                      Player (&players)[2], const std::size_t (&indices)[2]) {
  Comparison comparison{
      .chart = {.title = fmt::format("{} and {}", names[0], names[1]), .seconds = players[0].world().time()},
      .plots = {{"speed, m/s", {}}, {"distance to goal, m", {}}}};
  comparison.chart.ground = ChartBox{players[0].scene().ground.min(), players[0].scene().ground.max()};
  std::vector<Place> places;
  for (std::size_t i = 0; i < 2; ++i) {
    const Npc npc = players[i].play().npcs()[indices[i]];
    ChartNpc mark{.name = names[i],
                  .at = players[i].play().motion(indices[i]).position,
                  .facing = players[i].play().motion(indices[i]).facing,
                  .radius = npc.body().radius};
    PlotLine speed{names[i], {}}, distance{names[i], {}};
    for (const Trajectory::Sample& sample : trajectories[i].samples) {
      mark.trail.push_back(sample.position);
      const auto time = static_cast<float>(sample.time);
      speed.points.push_back({time, sample.speed});
      if (sample.speed > 0.f) comparison.seconds = std::max(comparison.seconds, 1.05f * time);
      distance.points.push_back({time, sample.distance.value_or(std::numeric_limits<float>::quiet_NaN())});
    }
    // Places near the goals.
    for (const Place& place : players[i].scene().places)
      for (const vec3 goal : trajectories[i].goals)
        if (flat_distance(goal, place.at) < 0.01f &&
            std::ranges::find(places, place.name, &Place::name) == places.end()) {
          places.push_back(place);
          comparison.chart.places.push_back({place.name, place.at});
        }
    comparison.chart.npcs.push_back(std::move(mark));
    comparison.plots[0].lines.push_back(std::move(speed));
    comparison.plots[1].lines.push_back(std::move(distance));
  }
  // Ends when both have come to rest.
  comparison.seconds = std::min(comparison.seconds, static_cast<float>(players[0].world().time()));
  return comparison;
}

int compare(const CompareRequest& request) {
  if (request.scenes.size() == 1 && request.npcs.size() == 1) {
    announce("compare needs two characters: give --npc twice, or two scenes");
    return exit_could_not;
  }
  auto first = Player::open(request.scenes.front(), 0), second = Player::open(request.scenes.back(), 0);
  if (!first || !second) return exit_could_not;
  Player players[2] = {std::move(*first), std::move(*second)};
  std::size_t indices[2];
  for (std::size_t i = 0; i < 2; ++i) {
    const auto index = find_npc(players[i].scene(), request.npcs[std::min(i, request.npcs.size() - 1)]);
    if (!index) return exit_could_not;
    indices[i] = *index;
  }
  const double seconds =
      request.seconds.value_or(std::max(players[0].scene().length, players[1].scene().length));
  Trajectory trajectories[2];
  std::string names[2];
  for (std::size_t i = 0; i < 2; ++i) {
    TrajectoryRecorder taker(players[i].play(), indices[i]);
    if (!players[i].play(seconds, [&] {
          if (players[i].world().ticks() > 0) taker.see();
        }))
      remark_stopped(players[i].world().time());
    trajectories[i] = taker.course();
    names[i] = trajectories[i].name;
  }
  if (names[0] == names[1])
    for (std::size_t i = 0; i < 2; ++i) names[i] += i == 0 ? " (1)" : " (2)";

  if (!request.output.empty()) {
    const Comparison picture = picture_of(trajectories, names, players, indices);
    const auto saved = save_picture(request.output, request.width, request.height,
                                    [&](Canvas& canvas) { paint(picture, canvas); });
    if (!saved) {
      announce(saved.error().text);
      return exit_could_not;
    }
  }
  if (request.json)
    print_json(trajectories, request, seconds);
  else
    print_table(trajectories, names);
  return exit_done;
}

}  // namespace

void add_compare(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<CompareRequest>();
  CLI::App* compare_command = app.add_subcommand("compare", "compare two characters, of one scene or of two");
  compare_command->add_option("scene", request->scenes, "scene file, or two")
      ->required()
      ->expected(1, 2)
      ->type_name("SCENE");
  compare_command->add_option("--npc", request->npcs, "the characters: two, or one that is in both scenes")
      ->required()
      ->expected(1, 2)
      ->type_name("NAME");
  compare_command
      ->add_option("--duration", request->seconds,
                   "duration to play; by default the length of the longer scene")
      ->check(number_between(0.001, 86'400))
      ->type_name("SECONDS");
  compare_command->add_option("-o,--output", request->output, "output file, .png or .svg")->type_name("FILE");
  add_size(*compare_command, request->width, request->height);
  compare_command->add_flag("--json", request->json, "print one JSON document");
  compare_command->callback([request, &exit_code] { exit_code = compare(*request); });
}

}  // namespace ambulon::tool
