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
#include "scene/scorecard.hpp"
#include "trace.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon compare`: two characters of one scene or of two, or one and its recorded run.
struct CompareRequest {
  std::vector<std::string> scenes, npcs;
  std::string before;  // a trace
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

/// One of the compared characters.
struct Compared {
  std::string name, file;
  Trajectory trajectory;
  std::optional<Score> score;  // none of a recorded run
  const Scene* scene = nullptr;
  float radius = 0.3f;  // metres
};

using Number = std::optional<double>;

/// A compared value: name, unit and number.
struct Row {
  const char* name;
  const char* key;
  const char* unit;
  int digits;
  Number (*value)(const Compared&);
};

constexpr Row rows[] = {
    {"walked", "walked", "m", 2, [](const Compared& c) { return Number(c.trajectory.walked); }},
    {"arrived after", "arrived_after", "s", 2, [](const Compared& c) { return c.trajectory.arrived_after; }},
    {"overshoot", "overshoot", "m", 3,
     [](const Compared& c) { return c.trajectory.overshoot ? Number(*c.trajectory.overshoot) : Number(); }},
    {"mean speed", "mean_speed", "m/s", 2, [](const Compared& c) { return Number(c.trajectory.mean_speed); }},
    {"top speed", "top_speed", "m/s", 2, [](const Compared& c) { return Number(c.trajectory.top_speed); }},
    {"turned in all", "turned_deg", "degrees", 0,
     [](const Compared& c) { return Number(degrees(c.trajectory.turned)); }},
    {"speed changes", "speed_changes", "", 0,
     [](const Compared& c) { return Number(c.trajectory.speed_changes); }},
    {"detour", "detour", "x", 2,
     [](const Compared& c) { return c.score && c.score->detour > 0 ? Number(c.score->detour) : Number(); }},
    {"lost in bends", "bend_slowdown", "of speed", 2,
     [](const Compared& c) { return c.score ? Number(c.score->bend_slowdown) : Number(); }},
    {"sliding", "sliding", "m/m", 3,
     [](const Compared& c) { return c.score ? Number(c.score->sliding) : Number(); }},
    {"heading jitters", "heading_jitters", "", 0,
     [](const Compared& c) { return c.score ? Number(c.score->heading_jitters) : Number(); }},
    {"vertical speed", "vertical_speed", "m/s", 2,
     [](const Compared& c) { return c.score ? Number(c.score->vertical_speed) : Number(); }},
    {"turning in jams", "jam_turning", "degrees/s", 1,
     [](const Compared& c) { return c.score ? Number(c.score->jam_turning) : Number(); }},
};

void print_table(const Compared (&both)[2]) {
  const std::size_t width = std::max({both[0].name.size(), both[1].name.size(), std::size_t{10}});
  fmt::print("{:<26}  {:>{}}  {:>{}}  {:>12}\n", "", both[0].name, width, both[1].name, width, "difference");
  for (const Row& row : rows) {
    const std::string name = *row.unit == '\0' ? row.name : fmt::format("{}, {}", row.name, row.unit);
    const Number a = row.value(both[0]), b = row.value(both[1]);
    const auto text = [&](Number value) {
      return value ? fmt::format("{:.{}f}", *value, row.digits) : std::string("-");
    };
    fmt::print("{:<26}  {:>{}}  {:>{}}  {:>12}\n", name, text(a), width, text(b), width,
               a && b ? fmt::format("{:+.{}f}", *b - *a, row.digits) : "-");
  }
}

void print_json(const Compared (&both)[2], double seconds) {
  ordered_json list = ordered_json::array();
  for (const Compared& each : both) {
    ordered_json values = {{"file", each.file}, {"npc", each.trajectory.name}};
    for (const Row& row : rows) {
      const Number value = row.value(each);
      values[row.key] = value ? ordered_json(std::round(*value * 1e4) / 1e4) : ordered_json();
    }
    list.push_back(values);
  }
  fmt::print("{}\n", ordered_json{{"seconds", seconds}, {"compared", list}}.dump(2));
}

/// The lines of one character in each plot.
struct Lines {
  PlotLine over_time, along_way, distance;
};

Lines lines_of(const Compared& compared) {
  Lines lines{{compared.name, {}}, {compared.name, {}}, {compared.name, {}}};
  float walked = 0.f;  // metres
  const vec3* last = nullptr;
  for (const Trajectory::Sample& sample : compared.trajectory.samples) {
    if (last != nullptr) walked += glm::distance(*last, sample.position);
    last = &sample.position;
    const auto time = static_cast<float>(sample.time);
    lines.over_time.points.push_back({time, sample.speed});
    lines.along_way.points.push_back({walked, sample.speed});
    lines.distance.points.push_back(
        {time, sample.distance.value_or(std::numeric_limits<float>::quiet_NaN())});
  }
  return lines;
}

/// Returns the seconds after which it moves no more.
float rests_after(const Trajectory& trajectory) {
  float seconds = 0.f;
  for (const Trajectory::Sample& sample : trajectory.samples)
    if (sample.speed > 0.f) seconds = 1.05f * static_cast<float>(sample.time);
  return trajectory.samples.empty() ? seconds
                                    : std::min(seconds, static_cast<float>(trajectory.samples.back().time));
}

Comparison picture_of(const Compared (&both)[2], double seconds) {
  Comparison picture{
      .chart = {.title = fmt::format("{} and {}", both[0].name, both[1].name), .seconds = seconds},
      .plots = {{"speed, m/s", "seconds", 0.1f, {}},
                {"speed along the way, m/s", "metres", 0.1f, {}},
                {"distance to goal, m", "seconds", 0.1f, {}}}};
  const Scene& scene = *both[1].scene;
  picture.chart.ground = ChartBox{scene.ground.min(), scene.ground.max()};
  float rest = 0.f;
  std::vector<Place> places;
  for (const Compared& each : both) {
    const auto& samples = each.trajectory.samples;
    ChartNpc mark{.name = each.name, .at = samples.back().position, .radius = each.radius};
    for (const Trajectory::Sample& sample : samples) {
      if (!mark.trail.empty() && flat(mark.trail.back()) != flat(sample.position))
        mark.facing = direction(flat(sample.position - mark.trail.back()));
      mark.trail.push_back(sample.position);
    }
    Lines lines = lines_of(each);
    rest = std::max(rest, rests_after(each.trajectory));
    picture.plots[1].max = std::max(picture.plots[1].max, lines.along_way.points.back().x);
    // Places near the goals.
    for (const Place& place : each.scene->places)
      for (const vec3 goal : each.trajectory.goals)
        if (flat_distance(goal, place.at) < 0.01f &&
            std::ranges::find(places, place.name, &Place::name) == places.end()) {
          places.push_back(place);
          picture.chart.places.push_back({place.name, place.at});
        }
    picture.chart.npcs.push_back(std::move(mark));
    picture.plots[0].lines.push_back(std::move(lines.over_time));
    picture.plots[1].lines.push_back(std::move(lines.along_way));
    picture.plots[2].lines.push_back(std::move(lines.distance));
  }
  picture.plots[0].max = picture.plots[2].max = rest;
  return picture;
}

/// Plays a scene and records one of its characters.
std::optional<Compared> play_and_record(Player& player, const std::string& npc, double seconds) {
  const auto index = find_npc(player.scene(), npc);
  if (!index) return std::nullopt;
  PlayRecorder recorder(player.play(), *index);
  Scorecard scores(player.play());
  if (!player.play(seconds, [&] {
        if (player.world().ticks() == 0) return;
        recorder.see();
        scores.see();
      }))
    remark_stopped(player.world().time());
  return Compared{.name = npc,
                  .file = player.scene().file,
                  .trajectory = recorder.trajectory(),
                  .score = scores.score(*index),
                  .scene = &player.scene(),
                  .radius = player.scene().npcs[*index].body.radius};
}

/// Returns the recorded run of a character whose run of now is known.
std::optional<Compared> recorded_before(const std::string& file, const Compared& now) {
  auto trajectory = read_trajectory(file, now.name);
  if (!trajectory) {
    announce(trajectory.error().text);
    return std::nullopt;
  }
  return Compared{.name = now.name,
                  .file = file,
                  .trajectory = std::move(*trajectory),
                  .score = {},
                  .scene = now.scene,
                  .radius = now.radius};
}

int compare(const CompareRequest& request) {
  const bool with_before = !request.before.empty();
  if (with_before && (request.scenes.size() > 1 || request.npcs.size() > 1)) {
    announce("compare --before takes one scene and one character");
    return exit_could_not;
  }
  if (!with_before && request.scenes.size() == 1 && request.npcs.size() == 1) {
    announce("compare needs two characters: give --npc twice, two scenes, or --before");
    return exit_could_not;
  }
  std::vector<Player> players;
  for (std::size_t i = 0; i < (with_before ? 1U : 2U); ++i) {
    auto player = Player::open(request.scenes[std::min(i, request.scenes.size() - 1)], journal_size);
    if (!player) return exit_could_not;
    players.push_back(std::move(*player));
  }
  const double seconds =
      request.seconds.value_or(std::max(players.front().scene().length, players.back().scene().length));
  Compared both[2];
  for (std::size_t i = 0; i < 2; ++i) {
    if (i == 0 && with_before) continue;
    auto played = play_and_record(players[std::min(i, players.size() - 1)],
                                  request.npcs[std::min(i, request.npcs.size() - 1)], seconds);
    if (!played) return exit_could_not;
    both[i] = std::move(*played);
  }
  if (with_before) {
    auto before = recorded_before(request.before, both[1]);
    if (!before) return exit_could_not;
    both[0] = std::move(*before);
    both[0].name += " before";
    both[1].name += " now";
  } else if (both[0].name == both[1].name) {
    for (std::size_t i = 0; i < 2; ++i) both[i].name += i == 0 ? " (1)" : " (2)";
  }

  if (!request.output.empty()) {
    const Comparison picture = picture_of(both, players.front().world().time());
    const auto saved = save_picture(request.output, request.width, request.height,
                                    [&](Canvas& canvas) { paint(picture, canvas); });
    if (!saved) {
      announce(saved.error().text);
      return exit_could_not;
    }
  }
  if (request.json)
    print_json(both, seconds);
  else
    print_table(both);
  return exit_done;
}

}  // namespace

void add_compare(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<CompareRequest>();
  CLI::App* compare_command = app.add_subcommand(
      "compare", "compare two characters, of one scene or of two, or one with its recorded run");
  compare_command->add_option("scene", request->scenes, "scene file, or two")
      ->required()
      ->expected(1, 2)
      ->type_name("SCENE");
  compare_command->add_option("--npc", request->npcs, "the characters: two, or one that is in both scenes")
      ->required()
      ->expected(1, 2)
      ->type_name("NAME");
  compare_command->add_option("--before", request->before, "its recorded run, of `run --trace`")
      ->type_name("FILE");
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
