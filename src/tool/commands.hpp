#pragma once

#include <optional>
#include <string>

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

/// Prints the JSON Schema of scene files.
int schema();

}  // namespace ambulon::tool
