#include <array>
#include <cmath>
#include <fstream>
#include <map>
#include <sstream>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "base/geometry.hpp"
#include "base/tbb_jobs.hpp"
#include "base/written.hpp"
#include "commands.hpp"
#include "ground/tiles/tile_search.hpp"
#include "options.hpp"
#include "player.hpp"
#include "route/shape.hpp"
#include "scene/scene.hpp"
#include "scene/tile_file.hpp"
#include "times.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon route`: one route, or files of many.
struct RouteRequest {
  std::string ground;
  vec3 from{0.f}, to{0.f};
  std::string shape = "taut";  // or cells, centred, rounded
  Body body;
  bool body_given = false;  // otherwise a saved ground uses a body that it was built for
  float clearance = 0.5f, rounding = 0.5f;
  bool no_diagonals = false;
  std::vector<std::string> scens;
  std::string queries;  // file; empty: none
  bool json = false;
};

using nlohmann::ordered_json;
using Clock = Times::Clock;

constexpr float reach = 0.5f;  // metres off the ground that count as on it

Expected<SceneGround> ground_of(const RouteRequest& request) {
  TileMapOptions options;
  if (request.no_diagonals) options.rules.neighbours = Neighbours::four;
  auto ground = read_ground_file(request.ground, options);
  if (ground) ground->along_cells = request.shape == "cells";
  return ground;
}

// --- One route --------------------------------------------------------------------------------

struct Answer {
  std::string outcome;
  Route route;
  float along_ground = 0;  // metres
  Snap off;                // of the point that is off the ground
  double microseconds = 0;
};

Answer answer(const Ground& ground, const RouteRequest& request, vec3 start, vec3 goal) {
  const Body& body = request.body;
  const Snap from = ground.snap(start, reach, body), to = ground.snap(goal, reach, body);
  Answer answer;
  for (const Snap& snap : {from, to})
    if (!snap) return {.outcome = "off_ground", .route = Route(), .off = snap};
  const auto began = Clock::now();
  ground.route(from.spot, to.spot, answer.route);
  answer.outcome = "complete";
  if (answer.route.bends.empty()) {
    const Snap nearest = ground.nearest_reachable(from.spot, goal);
    const bool gets_nearer =
        nearest.found && flat_distance(nearest.spot.position, from.spot.position) > 1e-3f;
    answer.outcome = gets_nearer ? "partial" : "no_route";
    if (gets_nearer) ground.route(from.spot, nearest.spot, answer.route);
  }
  if (!answer.route.bends.empty()) {
    if (request.shape == "centred") keep_clear(ground, body, request.clearance, answer.route);
    if (request.shape == "rounded") round_bends(ground, body, request.rounding, answer.route);
  }
  answer.microseconds = Times::microseconds_since(began);
  answer.along_ground = length_along_ground(ground, body, answer.route);
  return answer;
}

void print_json(const Answer& answer, const RouteRequest& request) {
  ordered_json bends = ordered_json::array();
  for (const vec3 bend : answer.route.bends) bends.push_back({bend.x, bend.y, bend.z});
  ordered_json crossings = ordered_json::array();
  for (const CrossingLeg& leg : answer.route.crossings)
    crossings.push_back({{"bend", leg.bend}, {"kind", name(leg.kind)}});
  ordered_json json{{"outcome", answer.outcome},
                    {"body",
                     {{"radius", exact(request.body.radius)},
                      {"height", exact(request.body.height)},
                      {"step_up", exact(request.body.step_up)}}},
                    {"length_xy", answer.route.length_xy},
                    {"length_along_ground", answer.along_ground},
                    {"bends", bends},
                    {"crossings", crossings},
                    {"expanded", answer.route.expanded},
                    {"microseconds", answer.microseconds}};
  if (answer.outcome == "off_ground" && answer.off.found)
    json["nearest"] = {answer.off.spot.position.x, answer.off.spot.position.y, answer.off.spot.position.z};
  fmt::print("{}\n", json.dump());
}

/// Describes the crossing that begins at a bend, if any.
std::string leading_on(const Route& route, std::size_t bend) {
  const CrossingLeg* leg = route.crossing_at(bend);
  if (leg == nullptr) return "";
  return fmt::format("  {} to", verb(leg->kind, route.bends[bend + 1].z - route.bends[bend].z));
}

/// Returns both lengths if they differ.
std::string length_of(const Answer& answer) {
  const float xy = answer.route.length_xy, along = answer.along_ground;
  if (std::abs(along - xy) < 0.005f) return fmt::format("{:.2f} m", xy);
  return fmt::format("{:.2f} m seen from above, {:.2f} m along the ground", xy, along);
}

void print(const Answer& answer, const SceneGround& ground, const RouteRequest& request) {
  if (request.json) return print_json(answer, request);
  if (answer.outcome == "off_ground") {
    if (answer.off.found)
      fmt::print("off_ground: the nearest spot for a body of {:g} m radius is {}, {:.2f} m off\n",
                 request.body.radius, written(answer.off.spot.position), answer.off.off);
    else
      fmt::print("off_ground: there is no room for a body of {:g} m radius anywhere\n", request.body.radius);
    return;
  }
  const vec3 end = answer.route.bends.empty() ? request.from : answer.route.bends.back();
  if (answer.outcome == "no_route")
    fmt::print("no_route: no route leads on from {}\n", as_given(request.from));
  else if (answer.outcome == "partial")
    fmt::print("partial: {} to the nearest spot that can be reached, {:.2f} m off\n", length_of(answer),
               glm::distance(end, request.to));
  else
    fmt::print("complete: {}\n", length_of(answer));
  for (std::size_t i = 0; i < answer.route.bends.size(); ++i)
    fmt::print("{:>4}  {}{}\n", i, written(answer.route.bends[i]), leading_on(answer.route, i));
  fmt::print("for a body of {}; {} search nodes expanded in {:.1f} us\n", in_words(ground, request.body),
             answer.route.expanded, answer.microseconds);
}

// --- Files of pairs of points -----------------------------------------------------------------

struct Pair {
  vec3 from{0.f}, to{0.f};
};

/// Reads x, y and z of the start and of the goal from each line, six numbers with commas between, metres.
Expected<std::vector<Pair>> pairs_of(const std::string& file) {
  std::ifstream stream(file);
  if (!stream) return problem(fmt::format("{}: cannot be read; is it there?", file));
  std::vector<Pair> pairs;
  std::string text;
  for (int line = 1; std::getline(stream, text); ++line) {
    if (text.find_first_not_of(" \t\r") == std::string::npos) continue;
    std::istringstream fields(text);
    std::array<float, 6> numbers{};
    bool good = true;
    for (std::size_t i = 0; i < numbers.size() && good; ++i) {
      char comma = ',';
      if (i > 0) fields >> comma;
      good = (fields >> numbers[i]) && comma == ',' && std::isfinite(numbers[i]);
    }
    std::string rest;
    if (!good || fields >> rest)
      return problem(fmt::format("{}:{}: \"{:.60}\"; a line has six numbers, x,y,z,x,y,z", file, line, text));
    pairs.push_back({{numbers[0], numbers[1], numbers[2]}, {numbers[3], numbers[4], numbers[5]}});
  }
  return pairs;
}

int ask_pairs(const Ground& ground, const RouteRequest& request, std::span<const Pair> pairs) {
  Times times;
  std::map<std::string, std::size_t> outcomes{
      {"complete", 0}, {"partial", 0}, {"no_route", 0}, {"off_ground", 0}};
  for (const Pair& pair : pairs) {
    const Answer given = answer(ground, request, pair.from, pair.to);
    ++outcomes[given.outcome];
    times.add(given.microseconds);
    if (request.json)
      print_json(given, request);
    else
      fmt::print("{:<10} {:>10.2f} m {:>5} bends {:>10.1f} us\n", given.outcome, given.route.length_xy,
                 given.route.bends.size(), given.microseconds);
  }
  if (request.json) {
    ordered_json json{{"queries", times.count()}};
    for (const auto& [outcome, count] : outcomes) json[outcome] = count;
    json.update({{"mean_us", times.mean()}, {"p50_us", times.part(0.5)}, {"p99_us", times.part(0.99)}});
    fmt::print("{}\n", json.dump());
  } else {
    fmt::print("\n{} queries: {} complete, {} partial, {} no_route, {} off_ground\n", times.count(),
               outcomes["complete"], outcomes["partial"], outcomes["no_route"], outcomes["off_ground"]);
    fmt::print("us of a query: mean {:.1f}, p50 {:.1f}, p99 {:.1f}\n", times.mean(), times.part(0.5),
               times.part(0.99));
  }
  return outcomes["complete"] == times.count() ? exit_done : exit_not_so;
}

// --- Files of queries -------------------------------------------------------------------------

struct Query {
  Cell from = {}, to = {};
  double length = 0;  // as in the file
  int line = 0;
};

/// Reads a `.scen` file: the line "version 1", then one query per line with bucket, map, its width and
/// height, start x and y, goal x and y (from the north-west), and the length of the shortest path; negative:
/// none.
Expected<std::vector<Query>> queries_of(const std::string& file, const TileMap& map) {
  std::ifstream stream(file);
  std::string text;
  if (!stream || !std::getline(stream, text))
    return problem(fmt::format("{}: cannot be read; is it there?", file));
  if (!text.starts_with("version"))
    return problem(fmt::format("{}:1: \"{:.40}\"; it must be \"version 1\"", file, text));
  std::vector<Query> queries;
  for (int line = 2; std::getline(stream, text); ++line) {
    if (text.find_first_not_of(" \t\r") == std::string::npos) continue;
    std::istringstream fields(text);
    std::string bucket, name;
    int width = 0, height = 0;
    Query query{.line = line};
    if (!(fields >> bucket >> name >> width >> height >> query.from.x >> query.from.y >> query.to.x >>
          query.to.y >> query.length))
      return problem(fmt::format(
          "{}:{}: \"{:.60}\"; a query has nine parts: bucket, map, width, height, from x, y, to x, y, length",
          file, line, text));
    if (width != map.width() || height != map.height())
      return problem(fmt::format("{}:{}: is about a map of {} by {} cells; this one has {} by {}", file, line,
                                 width, height, map.width(), map.height()));
    query.from.y = height - 1 - query.from.y;
    query.to.y = height - 1 - query.to.y;
    queries.push_back(query);
  }
  return queries;
}

class Bulk {
 public:
  Bulk(const TileMap& map, bool json) : map_(map), json_(json) {}

  void ask(const std::string& file, const Query& query) {
    const auto began = Clock::now();
    const bool found = search_.find(map_, query.from, query.to);
    const double microseconds = Times::microseconds_since(began);
    times_.add(microseconds);
    const double length = found ? search_.length() : std::numeric_limits<double>::infinity();
    total_ += found ? length : 0;
    expanded_ += search_.expanded();
    // A negative length means that there is no path.
    const bool wrong =
        query.length < 0 ? found : !(std::abs(length - query.length) <= 1e-4 * (1 + query.length));
    mismatches_ += wrong ? 1 : 0;
    const auto north_west = [&](Cell cell) { return ordered_json{cell.x, map_.height() - 1 - cell.y}; };
    if (json_)
      fmt::print("{}\n", ordered_json{{"file", file},
                                      {"line", query.line},
                                      {"from", north_west(query.from)},
                                      {"to", north_west(query.to)},
                                      {"length", found ? ordered_json(length) : ordered_json(nullptr)},
                                      {"expected", query.length},
                                      {"expanded", search_.expanded()},
                                      {"microseconds", microseconds}}
                             .dump());
    else if (wrong)
      fmt::print("{}:{}: {}; the file says {}\n", file, query.line,
                 found ? fmt::format("the shortest route is {:.8f}", length) : "there is no route",
                 query.length < 0 ? "there is none" : fmt::format("{:.8f}", query.length));
  }

  bool close() {
    if (json_)
      fmt::print("{}\n", ordered_json{{"queries", times_.count()},
                                      {"mismatches", mismatches_},
                                      {"mean_us", times_.mean()},
                                      {"p50_us", times_.part(0.5)},
                                      {"p99_us", times_.part(0.99)}}
                             .dump());
    else
      fmt::print(
          "{} queries, {} mismatch{}\n\n"
          "time of a query    mean     p50     p90     p99     max\n"
          "us             {:>8.1f}{:>8.1f}{:>8.1f}{:>8.1f}{:>8.1f}\n\n"
          "{:.1f} ms in total, {} search nodes expanded, routes of {:.1f} cells\n",
          times_.count(), mismatches_, mismatches_ == 1 ? "" : "es", times_.mean(), times_.part(0.5),
          times_.part(0.9), times_.part(0.99), times_.part(1.0), times_.sum() / 1000, expanded_, total_);
    return mismatches_ == 0;
  }

 private:
  const TileMap& map_;
  bool json_;
  TileSearch search_;
  Times times_;
  std::size_t mismatches_ = 0;
  std::uint64_t expanded_ = 0;
  double total_ = 0;
};

int ask_all(const TileMap& map, const RouteRequest& request) {
  Bulk bulk(map, request.json);
  for (const std::string& file : request.scens) {
    const auto queries = queries_of(file, map);
    if (!queries) {
      announce(queries.error().text);
      return exit_could_not;
    }
    for (const Query& query : *queries) bulk.ask(file, query);
  }
  return bulk.close() ? exit_done : exit_not_so;
}

int route(const RouteRequest& asked) {
  RouteRequest request = asked;
  auto ground = ground_of(request);
  if (!ground) {
    announce(ground.error().text);
    return exit_could_not;
  }
  if (!ground->tiles && (!request.scens.empty() || request.shape == "cells")) {
    announce(fmt::format("{}: its ground is {}; {} a ground of tiles", request.ground, ground->kind(),
                         request.scens.empty() ? "the shape cells needs" : "--scen needs"));
    return exit_could_not;
  }
  if (!request.scens.empty()) return ask_all(*ground->tiles, request);
  std::vector<Pair> pairs{{request.from, request.to}};
  if (!request.queries.empty()) {
    auto read = pairs_of(request.queries);
    if (!read) {
      announce(read.error().text);
      return exit_could_not;
    }
    pairs = std::move(*read);
  }
  for (const Pair& pair : pairs) keep_around(*ground, std::array{pair.from, pair.to});
  const auto made = ground->make(tbb_jobs());
  request.body = body_for(*ground, *made, asked.body, asked.body_given);
  if (!request.queries.empty()) return ask_pairs(*made, request, pairs);
  const Answer given = answer(*made, request, request.from, request.to);
  print(given, *ground, request);
  return given.outcome == "complete" ? exit_done : exit_not_so;
}

}  // namespace

void add_route(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<RouteRequest>();
  CLI::App* route_command = app.add_subcommand(
      "route", "find one route, or measure many; exits with 1 if there is none or a length differs");
  route_command
      ->add_option(
          "ground", request->ground,
          "scene, plan, level (.gltf, .glb, .obj and more), .ground, octile .map, .png, or text of tiles")
      ->required()
      ->type_name("GROUND");
  CLI::Option* from = add_point(*route_command, "--from", request->from, "start");
  CLI::Option* to = add_point(*route_command, "--to", request->to, "goal of the search");
  route_command->add_option("--shape", request->shape, "shape of the route: cells, taut, centred or rounded")
      ->check(CLI::IsMember({"cells", "taut", "centred", "rounded"}))
      ->type_name("SHAPE")
      ->capture_default_str();
  add_body(*route_command, request->body, &request->body_given);
  for (const auto& [name, value, what] :
       {std::tuple{"--clearance", &request->clearance, "distance of a centred route from corners and edges"},
        {"--rounding", &request->rounding, "radius of the arcs of a rounded route"}})
    route_command->add_option(name, *value, what)
        ->check(number_between(0, 50))
        ->type_name("METRES")
        ->capture_default_str();
  route_command->add_flag("--no-diagonals", request->no_diagonals, "no diagonal steps on tiles");
  CLI::Option* scen =
      route_command->add_option("--scen", request->scens, "file of queries with their lengths; repeatable")
          ->type_name("FILE")
          ->excludes(from)
          ->excludes(to);
  route_command->add_option("--queries", request->queries, "file of queries, x,y,z,x,y,z per line")
      ->type_name("FILE")
      ->excludes(from)
      ->excludes(to)
      ->excludes(scen);
  route_command->add_flag("--json", request->json,
                          "print JSON; with --scen or --queries a line for each query");
  route_command->callback([request, from, to, scen, &exit_code] {
    if (scen->empty() && request->queries.empty() && (from->empty() || to->empty()))
      throw CLI::ValidationError("route needs --from x,y and --to x,y, or --scen or --queries FILE");
    exit_code = route(*request);
  });
}

}  // namespace ambulon::tool
