#include <algorithm>
#include <cstdio>
#include <iterator>

#include <fmt/format.h>

#include "base/written.hpp"
#include "commands.hpp"
#include "live/json.hpp"
#include "options.hpp"
#include "player.hpp"
#include "scene/scorecard.hpp"
#include "trace.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon run`.
struct RunRequest {
  std::string scene;
  std::optional<double> seconds;
  std::string trace;
  double every = 0.1;
  bool profile = false;
  bool json = false;
};

using live::json;
using live::outcomes_of;
using live::rounded;
using live::to_json;

double mean_speed(const Statistics& statistics) {
  return statistics.moving_seconds > 0 ? statistics.metres / statistics.moving_seconds : 0;
}

std::string counted(const Statistics& statistics, std::string_view separator) {
  std::string text;
  for (std::size_t i = 0; i < statistics.endings.size(); ++i)
    if (statistics.endings[i] > 0)
      text += fmt::format("{}{} {}", text.empty() ? "" : separator, statistics.endings[i],
                          name(static_cast<Ending>(i)));
  return text.empty() ? "-" : text;
}

void print_table(Player& player) {
  const Play& play = player.play();
  const auto npcs = play.npcs();
  std::size_t name_width = 9, orders_width = 12;
  for (std::size_t i = 0; i < npcs.size(); ++i) {
    name_width = std::max(name_width, player.scene().npcs[i].name.size());
    orders_width = std::max(orders_width, counted(play.statistics(i), ", ").size());
  }
  fmt::print("{}: {:.2f} s played in {} ticks\n\n",
             player.scene().title.empty() ? player.scene().file : player.scene().title, player.world().time(),
             player.world().ticks());
  const auto row = [&](auto... cells) {
    fmt::print("{:<{}}  {:>8}  {:>6}  {:>6}  {:>7}  {:<{}}  {:>17}  {}\n", cells...);
  };
  row("character", name_width, "walked", "mean", "top", "reached", "orders ended", orders_width, "at",
      "doing");
  row("", name_width, "m", "m/s", "m/s", "", "", orders_width, "m", "");
  for (std::size_t i = 0; i < npcs.size(); ++i) {
    const Statistics statistics = play.statistics(i);
    const vec3 at = play.motion(i).position;
    row(player.scene().npcs[i].name, name_width, fmt::format("{:.1f}", statistics.metres),
        fmt::format("{:.2f}", mean_speed(statistics)), fmt::format("{:.2f}", statistics.top_speed),
        statistics.arrivals, counted(statistics, ", "), orders_width, written(at), npcs[i].doing());
  }
}

/// Formats a ratio; a dash if there is none.
std::string times(double ratio) { return ratio > 0 ? fmt::format("{:.2f}", ratio) : "-"; }

/// Prints the scores.
void print_scores(Player& player, const Scorecard& scores) {
  const auto npcs = player.play().npcs();
  std::size_t name_width = 9;
  for (const SceneNpc& npc : player.scene().npcs) name_width = std::max(name_width, npc.name.size());
  const auto row = [&](auto... cells) {
    fmt::print(
        "{:<{}}  {:>5}  {:>7}  {:>7}  {:>8}  {:>7}  {:>7}  {:>7}  {:>6}  {:>6}  {:>5}  {:>5}  {:>5}  {:>5}\n",
        cells...);
  };
  fmt::print("\n");
  row("scorecard", name_width, "legs", "detour", "time", "overlaps", "deepest", "speed", "heading", "stuck",
      "bends", "slide", "rise", "turns", "short");
  row("", name_width, "", "x least", "x ideal", "", "m", "jitters", "jitters", "s", "-%", "%", "m/s", "deg/s",
      "m");
  for (std::size_t i = 0; i < npcs.size(); ++i) {
    const Score& score = scores.score(i);
    row(player.scene().npcs[i].name, name_width, score.legs, times(score.detour),
        times(score.time_over_ideal), score.overlaps,
        score.overlaps > 0 ? fmt::format("{:.2f}", score.deepest_overlap) : "-", score.speed_jitters,
        score.heading_jitters, fmt::format("{:.1f}", score.stuck_seconds),
        fmt::format("{:.0f}", 100 * score.bend_slowdown), fmt::format("{:.1f}", 100 * score.sliding),
        fmt::format("{:.1f}", score.vertical_speed), fmt::format("{:.0f}", score.jam_turning),
        fmt::format("{:.2f}", score.short_of_goal));
  }
}

/// Returns the seconds of each phase of a tick.
std::vector<std::pair<std::string_view, double>> phases(const Profile& profile) {
  return {{"sense", profile.sense},  {"decide", profile.decide}, {"route", profile.route},
          {"avoid", profile.avoid},  {"move", profile.move},     {"separate", profile.separate},
          {"notify", profile.notify}};
}

/// Returns the mean waiting time in seconds.
double mean_wait(const RouteFigures& ways) {
  return ways.answered > 0 ? ways.waited / static_cast<double>(ways.answered) : 0;
}

void print_profile(Player& player) {
  const Profile& profile = player.world().profile();
  const double ticks = std::max(1.0, static_cast<double>(profile.ticks)), total = profile.total();
  fmt::print("\nphase    ms/tick     us/character    %\n");
  const auto row = [&](std::string_view phase, double seconds) {
    fmt::print("{:<7}  {:>7.3f}     {:>12.3f}  {:>3.0f}\n", phase, 1e3 * seconds / ticks,
               1e6 * seconds / ticks / std::max<double>(1, static_cast<double>(player.world().size())),
               total > 0 ? 100 * seconds / total : 0);
  };
  for (const auto& [phase, seconds] : phases(profile)) row(phase, seconds);
  row("all", total);
  const RouteFigures& ways = player.world().route_figures();
  fmt::print("\nroutes   {} requested, {} found, {} shared a search; {} search nodes expanded\n", ways.asked,
             ways.answered, ways.shared, ways.work);
  fmt::print("waiting  {} now; mean {:.2f} s, maximum {:.2f} s\n", ways.waiting(), mean_wait(ways),
             ways.longest_wait);
  fmt::print("asleep   {} of {} now; {} decided in the last tick\n", player.world().sleeping(),
             player.world().size(), player.world().deciding());
}

json profile_json(const World& world) {
  const Profile& profile = world.profile();
  json document = {{"ticks", profile.ticks}};
  for (const auto& [phase, seconds] : phases(profile)) document[std::string(phase)] = seconds;
  const RouteFigures& ways = world.route_figures();
  document["ways"] = {{"asked", ways.asked},
                      {"answered", ways.answered},
                      {"withdrawn", ways.withdrawn},
                      {"shared", ways.shared},
                      {"work", ways.work},
                      {"mean_wait", rounded(mean_wait(ways))},
                      {"longest_wait", rounded(ways.longest_wait)}};
  document["asleep"] = world.sleeping();
  document["thought"] = world.deciding();
  return document;
}

/// Prints the limits of the scene that are exceeded.
void print_limits(Player& player, std::span<const BrokenLimit> broken) {
  fmt::print("\nlimits     {}\n", broken.empty() ? "all kept" : "broken");
  for (const BrokenLimit& each : broken)
    fmt::print("  {}: {:.4g} of {}, at most {:.4g}{}\n", each.limit, each.value,
               player.scene().npcs[each.npc].name, each.max,
               each.others > 0 ? fmt::format("; and {} more", each.others) : "");
}

json as_json(Player& player, std::span<const BrokenLimit> broken) {
  json all = json::array();
  for (const BrokenLimit& each : broken)
    all.push_back({{"limit", each.limit},
                   {"npc", player.scene().npcs[each.npc].name},
                   {"value", rounded(each.value)},
                   {"max", rounded(each.max)},
                   {"others", each.others}});
  return all;
}

void print_json(Player& player, const Scorecard& scores, bool profile) {
  const Play& play = player.play();
  json npcs = json::array();
  for (std::size_t i = 0; i < play.npcs().size(); ++i) {
    const Statistics statistics = play.statistics(i);
    const Motion motion = play.motion(i);
    npcs.push_back({{"name", player.scene().npcs[i].name},
                    {"at", to_json(motion.position)},
                    {"heading_deg", rounded(degrees(motion.heading()))},
                    {"walked", rounded(statistics.metres)},
                    {"mean_speed", rounded(mean_speed(statistics))},
                    {"top_speed", rounded(statistics.top_speed)},
                    {"arrivals", statistics.arrivals},
                    {"outcomes", outcomes_of(statistics)},
                    {"scorecard", to_json(scores.score(i))},
                    {"doing", play.npcs()[i].doing()}});
  }
  json document = {{"scene", player.scene().title.empty() ? player.scene().file : player.scene().title},
                   {"seconds", rounded(player.world().time())},
                   {"ticks", player.world().ticks()},
                   {"npcs", npcs}};
  document["broken_limits"] = as_json(player, scores.broken());
  if (profile) document["profile"] = profile_json(player.world());
  fmt::print("{}\n", document.dump(2));
}

int run(const RunRequest& request) {
  auto player = Player::open(request.scene, journal_size);
  if (!player) return exit_could_not;
  Scorecard scores(player->play());
  TraceWriter trace(request.trace, request.every);
  if (trace.failed()) {
    announce(fmt::format("{}: the trace cannot be written there; does the folder exist?", request.trace));
    return exit_could_not;
  }
  if (!player->play(request.seconds.value_or(player->scene().length), [&] {
        scores.see();
        trace.sample(player->world());
      }))
    remark_stopped(player->world().time());
  trace.close();
  if (trace.failed() && !request.trace.empty()) {
    announce(fmt::format("{}: the trace could not be written to the end; is the disk full?", request.trace));
    return exit_could_not;
  }
  if (request.json) {
    print_json(*player, scores, request.profile);
  } else {
    print_table(*player);
    print_scores(*player, scores);
    if (player->scene().limits != SceneLimits{}) print_limits(*player, scores.broken());
    if (request.profile) print_profile(*player);
  }
  return scores.broken().empty() ? exit_done : exit_not_so;
}

}  // namespace

void add_run(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<RunRequest>();
  CLI::App* run_command =
      add_command(app, "run", "play a scene and print a table of what each character did", request->scene);
  run_command->add_option("--duration", request->seconds, "duration to play; by default the scene's length")
      ->check(number_between(0.001, month))
      ->type_name("SECONDS");
  run_command->add_option("--trace", request->trace, "write positions as JSON Lines")->type_name("FILE");
  run_command->add_option("--every", request->every, "time between samples of the trace")
      ->check(number_between(0.001, 86'400))
      ->type_name("SECONDS")
      ->capture_default_str();
  run_command->add_flag("--profile", request->profile, "print the time of each phase of the ticks");
  run_command->add_flag("--json", request->json, "print one JSON document");
  run_command->callback([request, &exit_code] { exit_code = run(*request); });
}

}  // namespace ambulon::tool
