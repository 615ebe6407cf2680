#include "ambulon/ground/route.hpp"

namespace ambulon {

void Route::clear() {
  bends.clear();
  crossings.clear();
  length_xy = 0.f;
  complete = false;
  expanded = 0;
}

const CrossingLeg* Route::crossing_at(std::size_t i) const {
  for (const CrossingLeg& crossing : crossings)
    if (crossing.bend == i) return &crossing;
  return nullptr;
}

}  // namespace ambulon
