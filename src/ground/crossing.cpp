#include "ambulon/ground/crossing.hpp"

#include <fmt/format.h>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/range.hpp"

#include "base/geometry.hpp"

namespace ambulon {

std::string_view name(Passage passage) {
  switch (passage) {
    case Passage::jump_up:
      return "jump_up";
    case Passage::drop_down:
      return "drop_down";
    case Passage::leap:
      return "leap";
    case Passage::ladder:
      return "ladder";
    case Passage::door:
      return "door";
  }
  return "";
}

std::string_view verb(Passage passage, float up) {
  constexpr float level = 0.05f;  // metres
  switch (passage) {
    case Passage::jump_up:
      return up > level ? "jumps up" : up < -level ? "jumps down" : "jumps over";
    case Passage::drop_down:
      return "drops down";
    case Passage::leap:
      return "leaps";
    case Passage::ladder:
      return "takes the ladder";
    case Passage::door:
      return "goes through the door";
  }
  return "";
}

Expected<void> validate(const Crossing& crossing) {
  if (!finite(crossing.from) || !finite(crossing.to))
    return problem("an end of a crossing has a coordinate that is not a number");
  if (!Range{0.f, 1000.f}.holds(crossing.cost))
    return problem(
        fmt::format("a crossing with a cost of {}; it must lie between 0 and 1000 m", crossing.cost));
  if (glm::distance(crossing.from, crossing.to) < 0.01f)
    return problem(
        fmt::format("a crossing whose ends both lie at ({}, {}, {}); they must be 1 cm apart or more",
                    crossing.from.x, crossing.from.y, crossing.from.z));
  return {};
}

}  // namespace ambulon
