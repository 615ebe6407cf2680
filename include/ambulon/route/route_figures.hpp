#pragma once

#include <cstdint>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Counts of a world's route requests since it began.
struct RouteFigures {
  std::uint64_t asked = 0;      ///< requests
  std::uint64_t answered = 0;   ///< requests answered, with a route or without
  std::uint64_t withdrawn = 0;  ///< requests withdrawn before their answer
  std::uint64_t shared = 0;     ///< requests answered by one search for several with the same goal
  std::uint64_t work = 0;       ///< search nodes expanded, plus 1 for each answer
  std::uint64_t looked_at = 0;  ///< requests examined to find the next ones to answer
  double waited = 0;            ///< seconds that the answered requests waited, summed
  double longest_wait = 0;      ///< seconds, of one request

  std::uint64_t waiting() const { return asked - answered - withdrawn; }
};

}  // namespace ambulon
