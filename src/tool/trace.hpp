#pragma once
// Traces: the positions of characters as JSON Lines, one line per character and sample.

#include <fstream>
#include <string>

#include "ambulon/world/world.hpp"

#include "scene/comparison.hpp"

namespace ambulon::tool {

/// Writes a trace.
class TraceWriter {
 public:
  /// Without a file name, nothing is written. `every`: seconds between samples.
  TraceWriter(const std::string& file, double every);

  bool failed() const { return stream_.fail(); }
  void close() { stream_.close(); }
  /// Call it after each tick.
  void sample(World& world);

 private:
  std::ofstream stream_;
  double every_, next_ = 0;
};

/// Reads the movement of character `npc` from a trace. Goals, arrival and overshoot are not known. Returns a
/// problem with the line if the file cannot be read, if a line is not a sample, or if the character has no
/// samples.
Expected<Trajectory> read_trajectory(const std::string& file, const std::string& npc);

}  // namespace ambulon::tool
