#pragma once
// Helpers of many tests: letting time pass, and reading the journal.

#include <functional>
#include <vector>

#include <gtest/gtest.h>

#include "ambulon/ambulon.hpp"

namespace ambulon {

inline const std::vector<vec3> lamps = {{6.5f, 3, 0}, {12, 3.5f, 0}, {17, 6, 0}, {13, 9.5f, 0}};

/// Ticks until `done()` or for at most `seconds`; returns the elapsed time.
inline double pass(
    World& world, double seconds, float tick = 1.f / 60.f,
    const std::function<bool()>& done = [] { return false; }) {
  const double from = world.time();
  while (world.time() - from < seconds - 1e-6 && !done()) EXPECT_TRUE(world.tick(tick));
  return world.time() - from;
}

/// Returns all sentences of the journal, one per line.
inline std::string told(const World& world) {
  std::string text;
  for (auto number = world.journal().first(); number < world.journal().next(); ++number)
    text += world.sentence(world.journal()[number]) + "\n";
  return text;
}

/// Returns how often an event is in the journal.
inline int count(const World& world, Event event) {
  int found = 0;
  for (auto number = world.journal().first(); number < world.journal().next(); ++number)
    found += world.journal()[number].event == event;
  return found;
}

inline bool contains(const std::string& text, const std::string& part) {
  return text.find(part) != std::string::npos;
}

}  // namespace ambulon
