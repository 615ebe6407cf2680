#pragma once

#include <optional>
#include <string>
#include <vector>

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
  int width = 1280, height = 800;
  bool json = false;
};
int draw(const DrawRequest& request);

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
