#pragma once

#include <optional>
#include <string>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/ground/mesh/level.hpp"
#include "ambulon/scene/level_file.hpp"

namespace ambulon::tool {

/// What `ambulon run` was asked.
struct RunRequest {
  std::string scene;
  std::optional<double> seconds;
  std::string trace;
  double every = 0.1;
  bool profile = false;
  bool json = false;
};
int run(const RunRequest& request);

/// What `ambulon journal` was asked.
struct JournalRequest {
  std::string scene;
  std::string npc;
  std::optional<double> seconds;
  bool json = false;
};
int journal(const JournalRequest& request);

/// What `ambulon draw` was asked.
struct DrawRequest {
  std::string scene;
  std::string output;
  double at = 0;
  bool trail = false;
  std::string show;  // clearance, components, distance, flow, heights, polygons or search; or nothing
  std::optional<vec3> from, to;
  std::optional<vec2> between;  // heights, metres: of a level only what lies there
  Body body;
  bool body_given = false;  // else a saved ground is asked about a body that it was built for
  int width = 1280, height = 800;
  bool json = false;
};
int draw(const DrawRequest& request);

/// What `ambulon route` was asked: one route, or files of many.
struct RouteRequest {
  std::string ground;
  vec3 from{0.f}, to{0.f};
  std::string shape = "taut";  // or cells, centred, rounded
  Body body;
  bool body_given = false;  // else a saved ground is asked about a body that it was built for
  float clearance = 0.5f, rounding = 0.5f;
  bool four = false;
  std::vector<std::string> scens;
  std::string pairs;  // file; empty: none
  bool json = false;
};
int route(const RouteRequest& request);

/// What `ambulon build` was asked.
struct BuildRequest {
  std::string ground;
  std::string output;  // file; empty: none
  Body body;
  LevelFileOptions level;
  bool closed = false;             // all pieces of the level should be
  std::optional<float> max_slope;  // radians
  std::vector<vec3> reach_from;    // instead of the scene's
  bool json = false;
};
int build(const BuildRequest& request);

/// What `ambulon check` was asked.
struct CheckRequest {
  std::string scene;
  bool json = false;
};
int check(const CheckRequest& request);

/// What `ambulon compare` was asked: two characters of one scene, or of two.
struct CompareRequest {
  std::vector<std::string> scenes, npcs;
  std::optional<double> seconds;
  std::string output;
  int width = 1280, height = 800;
  bool json = false;
};
int compare(const CompareRequest& request);

/// What `ambulon live` was asked.
struct LiveRequest {
  std::string scene;
  int port = 7420;  // 0: any that is free
  bool json = false;
};
int live(const LiveRequest& request);

/// Prints the JSON Schema of scene files.
int schema();

}  // namespace ambulon::tool
