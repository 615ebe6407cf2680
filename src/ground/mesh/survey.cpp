#include "ground/mesh/survey.hpp"

#include <algorithm>

#include "ambulon/ground/mesh/plan.hpp"

#include "ground/mesh/level_index.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "surveyor.hpp"

namespace ambulon {
namespace {

/// Returns the parts of a floor with a cost above 1.
std::vector<CostlyOutlines> costly_parts(const Region& region, Surveyor::Floor floor, const Square& square) {
  std::vector<CostlyOutlines> parts;
  std::vector<std::uint32_t> alike;
  for (const std::uint32_t i : floor) {
    const float cost = region.pieces[i].cost;
    if (cost == 1.f || std::ranges::find(parts, cost, &CostlyOutlines::cost) != parts.end()) continue;
    alike.clear();
    std::ranges::copy_if(floor, std::back_inserter(alike),
                         [&](std::uint32_t k) { return region.pieces[k].cost == cost; });
    parts.push_back({cost, cut_to_square(united(outline_of(region, alike)), square)});
  }
  std::erase_if(parts, [](const CostlyOutlines& each) { return each.outlines.empty(); });
  return parts;
}

void add_floor(Surveyor& surveyor, Surveyor::Floor floor, const Square& square,
               std::vector<FloorPart>& floors) {
  auto facets = surveyor.facets_of(floor, square);
  if (facets.empty()) return;
  const auto [whole, blocked] = surveyor.extent(floor);
  Outlines free = cut_to_square(blocked.empty() ? whole : without(whole, blocked), square);
  if (free.empty()) return;
  floors.push_back({std::move(free), std::make_shared<FloorSurface>(square, std::move(facets)),
                    costly_parts(surveyor.region(), floor, square)});
}

}  // namespace

std::vector<SurveyedSquare> survey(const LevelIndex& level, std::uint32_t cell, const Body& body) {
  std::vector<SurveyedSquare> surveyed;
  Surveyor surveyor(level, body);
  surveyor.look(level.grid().square(cell),
                [&](const Square& square, std::span<const Surveyor::Floor> floors) {
                  SurveyedSquare& found = surveyed.emplace_back();
                  found.square = square;
                  for (const Surveyor::Floor floor : floors) add_floor(surveyor, floor, square, found.floors);
                });
  return surveyed;
}

}  // namespace ambulon
