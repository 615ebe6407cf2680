#include <algorithm>
#include <chrono>
#include <cmath>
#include <fstream>
#include <sstream>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "ambulon/route/shape.hpp"
#include "ambulon/scene/scene.hpp"
#include "ambulon/scene/tile_file.hpp"

#include "commands.hpp"
#include "player.hpp"

namespace ambulon::tool {
namespace {

using nlohmann::ordered_json;
using Clock = std::chrono::steady_clock;

constexpr float reach = 0.5f;  // metres off the ground that still count as on it

double microseconds_since(Clock::time_point began) {
  return std::chrono::duration<double, std::micro>(Clock::now() - began).count();
}

Expected<SceneGround> ground_of(const RouteRequest& request) {
  TileMapOptions options;
  if (request.four) options.rules.neighbours = Neighbours::four;
  auto ground = read_ground_file(request.ground, options);
  if (ground) ground->along_cells = request.shape == "cells";
  return ground;
}

// --- One route --------------------------------------------------------------------------------

struct Answer {
  std::string outcome;
  Route route;
  Snap off;  // of the point that is off the ground
  double microseconds = 0;
};

Answer answer(const Ground& ground, const RouteRequest& request) {
  const Body body{.radius = request.radius};
  const Snap from = ground.snap(lift(request.from), reach, body),
             to = ground.snap(lift(request.to), reach, body);
  Answer answer;
  for (const Snap& snap : {from, to})
    if (!snap) return {.outcome = "off_ground", .route = Route(), .off = snap};
  const auto began = Clock::now();
  ground.route(from.spot, to.spot, answer.route);
  answer.outcome = "complete";
  if (answer.route.bends.empty()) {
    const Snap nearest = ground.nearest_reachable(from.spot, lift(request.to));
    const bool gets_nearer =
        nearest.found && flat_distance(nearest.spot.position, from.spot.position) > 1e-3f;
    answer.outcome = gets_nearer ? "partial" : "no_way";
    if (gets_nearer) ground.route(from.spot, nearest.spot, answer.route);
  }
  if (!answer.route.bends.empty()) {
    if (request.shape == "centred") keep_clear(ground, body, request.clearance, answer.route);
    if (request.shape == "rounded") round_bends(ground, body, request.rounding, answer.route);
  }
  answer.microseconds = microseconds_since(began);
  return answer;
}

void print(const Answer& answer, const RouteRequest& request) {
  if (request.json) {
    ordered_json bends = ordered_json::array();
    for (const vec3 bend : answer.route.bends) bends.push_back({bend.x, bend.y, bend.z});
    ordered_json json{{"outcome", answer.outcome},
                      {"length", answer.route.length},
                      {"bends", bends},
                      {"expanded", answer.route.expanded},
                      {"microseconds", answer.microseconds}};
    if (answer.outcome == "off_ground" && answer.off.found)
      json["nearest"] = {answer.off.spot.position.x, answer.off.spot.position.y, answer.off.spot.position.z};
    fmt::print("{}\n", json.dump());
    return;
  }
  if (answer.outcome == "off_ground") {
    if (answer.off.found)
      fmt::print(
          "off_ground: the nearest spot for a body of {:g} m radius is ({:.2f}, {:.2f}), {:.2f} m off\n",
          request.radius, answer.off.spot.position.x, answer.off.spot.position.y, answer.off.off);
    else
      fmt::print("off_ground: there is no room for a body of {:g} m radius anywhere\n", request.radius);
    return;
  }
  const vec3 end = answer.route.bends.empty() ? lift(request.from) : answer.route.bends.back();
  if (answer.outcome == "no_way")
    fmt::print("no_way: no way leads on from ({:g}, {:g})\n", request.from.x, request.from.y);
  else if (answer.outcome == "partial")
    fmt::print("partial: {:.2f} m to the nearest spot that can be reached, {:.2f} m off\n",
               answer.route.length, glm::length(flat(end) - request.to));
  else
    fmt::print("complete: {:.2f} m\n", answer.route.length);
  for (std::size_t i = 0; i < answer.route.bends.size(); ++i)
    fmt::print("{:>4}  ({:.2f}, {:.2f})\n", i, answer.route.bends[i].x, answer.route.bends[i].y);
  fmt::print("{} pieces of the ground expanded in {:.1f} us\n", answer.route.expanded, answer.microseconds);
}

// --- Whole files of queries -------------------------------------------------------------------

struct Query {
  Cell from = {}, to = {};
  double length = 0;  // as the file says
  int line = 0;
};

/// Reads a `.scen` file: after the line "version 1", one query a line: bucket, map, its width and height,
/// from x and y, to x and y (counted from the north-west), and the length of the shortest way.
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
    microseconds_.push_back(microseconds_since(began));
    const double length = found ? search_.length() : std::numeric_limits<double>::infinity();
    total_ += found ? length : 0;
    expanded_ += search_.expanded();
    const bool wrong = !(std::abs(length - query.length) <= 1e-4 * (1 + query.length));
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
                                      {"microseconds", microseconds_.back()}}
                             .dump());
    else if (wrong)
      fmt::print("{}:{}: {}; the file says {:.8f}\n", file, query.line,
                 found ? fmt::format("the shortest way is {:.8f}", length) : "there is no way", query.length);
  }

  bool close() {
    std::ranges::sort(microseconds_);
    const auto count = microseconds_.size();
    double sum = 0;
    for (const double each : microseconds_) sum += each;
    const auto part = [&](double of) {
      return count == 0 ? 0.0
                        : microseconds_[std::min(count - 1,
                                                 static_cast<std::size_t>(of * static_cast<double>(count)))];
    };
    const double mean = count == 0 ? 0.0 : sum / static_cast<double>(count);
    if (json_)
      fmt::print("{}\n", ordered_json{{"queries", count},
                                      {"mismatches", mismatches_},
                                      {"mean_us", mean},
                                      {"p50_us", part(0.5)},
                                      {"p99_us", part(0.99)}}
                             .dump());
    else
      fmt::print(
          "{} queries, {} mismatch{}\n\n"
          "time of a query    mean     p50     p90     p99     max\n"
          "us             {:>8.1f}{:>8.1f}{:>8.1f}{:>8.1f}{:>8.1f}\n\n"
          "{:.1f} ms in all, {} cells expanded, ways of {:.1f} cells\n",
          count, mismatches_, mismatches_ == 1 ? "" : "es", mean, part(0.5), part(0.9), part(0.99), part(1.0),
          sum / 1000, expanded_, total_);
    return mismatches_ == 0;
  }

 private:
  const TileMap& map_;
  bool json_;
  TileSearch search_;
  std::vector<double> microseconds_;
  std::size_t mismatches_ = 0;
  std::uint64_t expanded_ = 0;
  double total_ = 0;
};

int ask_all(const TileMap& map, const RouteRequest& request) {
  Bulk bulk(map, request.json);
  for (const std::string& file : request.scens) {
    const auto queries = queries_of(file, map);
    if (!queries) {
      remark(queries.error().text);
      return exit_could_not;
    }
    for (const Query& query : *queries) bulk.ask(file, query);
  }
  return bulk.close() ? exit_done : exit_not_so;
}

}  // namespace

int route(const RouteRequest& request) {
  const auto ground = ground_of(request);
  if (!ground) {
    remark(ground.error().text);
    return exit_could_not;
  }
  if (!ground->tiles && (!request.scens.empty() || request.shape == "cells")) {
    remark(fmt::format("{}: its ground is {}; {} a ground of tiles", request.ground, ground->kind(),
                       request.scens.empty() ? "the shape cells needs" : "--scen needs"));
    return exit_could_not;
  }
  if (!request.scens.empty()) return ask_all(*ground->tiles, request);
  const Answer given = answer(*ground->make(), request);
  print(given, request);
  return given.outcome == "complete" ? exit_done : exit_not_so;
}

}  // namespace ambulon::tool
