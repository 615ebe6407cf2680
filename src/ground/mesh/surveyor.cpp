#include "surveyor.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>
#include <utility>

#include <glm/vector_relational.hpp>

#include "ambulon/ground/mesh/plan.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

using Facet = FloorSurface::Facet;

constexpr int smallest = 250;     // millimetres: smallest square
constexpr double min_radius = 1;  // millimetres: radius of a point-sized body, so that edges separate floors

/// Returns true if an outline has a crack of zero width: it returns along itself, up to rounding.
bool has_cracks(const Outlines& outlines) {
  return std::ranges::any_of(outlines, [](const auto& outline) {
    for (std::size_t i = 0; i < outline.size(); ++i) {
      const dvec2 tip = to_vec(outline[i]);
      dvec2 one = to_vec(outline[i == 0 ? outline.size() - 1 : i - 1]) - tip,
            other = to_vec(outline[i + 1 == outline.size() ? 0 : i + 1]) - tip;
      if (glm::dot(one, one) > glm::dot(other, other)) std::swap(one, other);
      if (glm::dot(one, other) > 0 && std::abs(cross(one, other)) <= survey_mm * glm::length(other))
        return true;
    }
    return false;
  });
}

}  // namespace

Surveyor::Surveyor(const LevelIndex& level, const Body& body, double around)
    : level_(level), gap_(level.gap()), around_(around) {
  region_.radius = std::max(min_radius, body.radius * 1000.0);
  region_.step = body.step_up * 1000.0 + 1;
  region_.tall = std::max(body.height * 1000.0, region_.step + 1) - 1;
  region_.slit = gap_ + 2 * survey_mm;
}

void Surveyor::look(const Square& square,
                    const std::function<void(const Square&, std::span<const Floor>)>& visit) {
  find_pieces(square);
  const auto places_of_pieces = [&] {
    return Places(region_.pieces, region_.low, region_.high.x - region_.low.x);
  };
  std::optional<Places> places(places_of_pieces());
  region_.places = &*places;
  if (leave_out_insides(region_)) places.emplace(places_of_pieces());
  find_groups();
  if (square.size / 2 >= smallest && above_itself()) {
    const int half = square.size / 2;
    for (const PlanPoint off : {PlanPoint{0, 0}, {half, 0}, {0, half}, {half, half}})
      look({{square.low.x + off.x, square.low.y + off.y}, half}, visit);
    return;
  }
  std::vector<std::uint32_t> order;  // floors, by group
  for (std::uint32_t i = 0; i < region_.pieces.size(); ++i)
    if (region_.pieces[i].floor) order.push_back(i);
  std::ranges::sort(order, {}, [&](std::uint32_t i) { return std::pair(region_.group[i], i); });
  std::vector<Floor> floors;
  for (std::size_t i = 0, end = 0; i < order.size(); i = end) {
    while (end < order.size() && region_.group[order[end]] == region_.group[order[i]]) ++end;
    floors.push_back(Floor(order).subspan(i, end - i));
  }
  visit(square, floors);
}

void Surveyor::find_pieces(const Square& square) {
  const double margin = std::max(region_.radius, around_) + region_.slit + 10;
  region_.low = dvec2(square.low.x, square.low.y) - margin;
  region_.high = dvec2(square.low.x, square.low.y) + static_cast<double>(square.size) + margin;
  const auto whole = [](dvec2 at) {
    return PlanPoint{static_cast<int>(std::floor(at.x)), static_cast<int>(std::floor(at.y))};
  };
  region_.pieces.clear();
  for (const std::uint32_t number : level_.near(whole(region_.low), whole(region_.high + 1.0))) {
    const LevelIndex::Facet& facet = level_.facets()[number];
    ConvexPart part;
    for (std::size_t i = 0; i < 3; ++i)
      part.push_back({dvec2(facet.corners[i].x, facet.corners[i].y), static_cast<double>(facet.heights[i])});
    Box box = box_of(part);
    if (glm::any(glm::lessThan(box.low, region_.low)) || glm::any(glm::greaterThan(box.high, region_.high))) {
      keep_in_box(part, region_.low, region_.high);
      if (part.empty()) continue;
      box = box_of(part);
    }
    region_.pieces.push_back({{facet.corners, facet.heights},
                              facet.floor,
                              facet.up,
                              facet.cost,
                              facet.shell,
                              std::move(part),
                              box});
  }
}

/// Groups the pieces into floors.
void Surveyor::find_groups() {
  region_.group.resize(region_.pieces.size());
  std::iota(region_.group.begin(), region_.group.end(), 0U);
  for (std::uint32_t i = 0; i < region_.pieces.size(); ++i) {
    if (!region_.pieces[i].floor) continue;
    region_.places->each_near(region_.pieces[i].box, region_.slit, [&](std::uint32_t j) {
      if (j < i && region_.pieces[j].floor && root(i) != root(j) &&
          joined(region_.pieces[i], region_.pieces[j]))
        unite(i, j);
    });
  }
  for (std::uint32_t i = 0; i < region_.pieces.size(); ++i) region_.group[i] = root(i);
}

std::uint32_t Surveyor::root(std::uint32_t piece) {
  while (region_.group[piece] != piece) piece = region_.group[piece] = region_.group[region_.group[piece]];
  return piece;
}
void Surveyor::unite(std::uint32_t i, std::uint32_t j) {
  i = root(i), j = root(j);
  region_.group[std::max(i, j)] = std::min(i, j);
}

/// Returns true if a body can step from one piece to the other somewhere in the region, also over a slit.
bool Surveyor::joined(const Piece& a, const Piece& b) const {
  if (!a.box.near(b.box, region_.slit) || a.box.lowest > b.box.highest + region_.step + region_.slit ||
      b.box.lowest > a.box.highest + region_.step + region_.slit)
    return false;
  ConvexPart shared = a.part;
  keep_over(shared, b.facet, region_.slit);
  keep_in_box(shared, b.box.low - region_.slit, b.box.high + region_.slit);
  keep_between(shared, b.facet, -region_.step, region_.step);
  return !shared.empty();
}

/// Returns true if two pieces of a floor overlap on the plan so that a body can stand on both.
bool Surveyor::above_itself() {
  for (std::uint32_t i = 0; i < region_.pieces.size(); ++i) {
    if (!region_.pieces[i].floor) continue;
    bool found = false;
    region_.places->each_near(region_.pieces[i].box, -survey_mm, [&](std::uint32_t j) {
      if (found || !region_.pieces[j].floor || region_.group[i] != region_.group[j] ||
          region_.pieces[i].box.highest < region_.pieces[j].box.lowest + region_.tall)
        return;
      ConvexPart shared = region_.pieces[i].part;
      keep_over(shared, region_.pieces[j].facet, -survey_mm);
      keep_between(shared, region_.pieces[j].facet, region_.tall, 1e12);
      found = !shared.empty();
    });
    if (found) return true;
  }
  return false;
}

std::vector<Facet> Surveyor::facets_of(Floor floor, const Square& square) const {
  const dvec2 low = to_vec(square.low);
  const Box inside{low, low + static_cast<double>(square.size)};
  std::vector<Facet> facets;
  for (const std::uint32_t i : floor)
    if (region_.pieces[i].box.near(inside, region_.slit)) facets.push_back(region_.pieces[i].facet);
  return facets;
}

Surveyor::Extent Surveyor::extent(Floor floor) const {
  Extent extent{.whole = united(outline_of(region_, floor)), .blocked = {}};
  Outlines& blocked = extent.blocked;
  if (add_ledges(region_, floor, blocked) || has_cracks(extent.whole))
    extent.whole = ambulon::closed(extent.whole, region_.slit);
  add_obstacles(region_, floor, blocked);
  // Most occur several times.
  std::ranges::sort(blocked);
  blocked.erase(std::unique(blocked.begin(), blocked.end()), blocked.end());
  blocked = united(blocked);
  return extent;
}

Outlines Surveyor::covered(Floor floor) {
  const double radius = std::exchange(region_.radius, min_radius);
  Outlines covered;
  add_obstacles(region_, floor, covered);
  region_.radius = radius;
  return united(covered);
}

}  // namespace ambulon
