#pragma once

#include <optional>
#include <string>
#include <vector>

#include "ambulon/base/vec.hpp"

namespace ambulon::tool {

/// What `ambulon run` was asked.
struct RunRequest {
  std::string scene;
  std::optional<double> seconds;
  std::string trace;
  double every = 0.1;
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
  std::string show;  // what over tiles: clearance, components, distance, flow or search; or nothing
  std::optional<vec2> from, to;
  float radius = 0.3f;
  int width = 1280, height = 800;
  bool json = false;
};
int draw(const DrawRequest& request);

/// What `ambulon route` was asked: one route, or files of many.
struct RouteRequest {
  std::string ground;
  vec2 from{0.f}, to{0.f};
  std::string shape = "taut";  // or cells, centred, rounded
  float radius = 0.3f, clearance = 0.5f, rounding = 0.5f;
  bool four = false;
  std::vector<std::string> scens;
  std::string pairs;  // file; empty: none
  bool json = false;
};
int route(const RouteRequest& request);

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

/// Prints the JSON Schema of scene files.
int schema();

}  // namespace ambulon::tool
