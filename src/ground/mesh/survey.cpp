#include "ambulon/ground/mesh/survey.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <glm/vector_relational.hpp>

#include "ambulon/ground/mesh/plan.hpp"

#include "region.hpp"

namespace ambulon {
namespace {

using Facet = FloorSurface::Facet;

constexpr int smallest = 250;      // millimetres: squares are not divided further
constexpr double least_reach = 1;  // millimetres: of bodies without a radius, so that ledges part floors

/// Surveys a square, or when a floor lies above itself in it, its quarters.
class Surveyor {
 public:
  Surveyor(const LevelIndex& level, const Body& body) : level_(level), gap_(level.gap()) {
    region_.radius = std::max(least_reach, body.radius * 1000.0);
    region_.step = body.step_up * 1000.0 + 1;
    region_.tall = std::max(body.height * 1000.0, region_.step + 1) - 1;
  }

  void look(const Square& square, std::vector<SurveyedSquare>& surveyed) {
    square_ = square;
    find_pieces();
    Places places(region_.pieces, region_.low, region_.high.x - region_.low.x);
    region_.places = &places;
    find_groups();
    if (square.size / 2 >= smallest && above_itself()) {
      const int half = square.size / 2;
      for (const PlanPoint off : {PlanPoint{0, 0}, {half, 0}, {0, half}, {half, half}})
        look({{square.low.x + off.x, square.low.y + off.y}, half}, surveyed);
      return;
    }
    SurveyedSquare& found = surveyed.emplace_back();
    found.square = square;
    std::vector<std::uint32_t> order;  // floors, group by group
    for (std::uint32_t i = 0; i < region_.pieces.size(); ++i)
      if (region_.pieces[i].floor) order.push_back(i);
    std::ranges::sort(order, {}, [&](std::uint32_t i) { return std::pair(region_.group[i], i); });
    for (std::size_t i = 0, end = 0; i < order.size(); i = end) {
      while (end < order.size() && region_.group[order[end]] == region_.group[order[i]]) ++end;
      survey_floor(std::span(order).subspan(i, end - i), found.floors);
    }
  }

 private:
  void find_pieces() {
    const double margin = region_.radius + gap_ + 10;
    region_.low = dvec2(square_.low.x, square_.low.y) - margin;
    region_.high = dvec2(square_.low.x, square_.low.y) + static_cast<double>(square_.size) + margin;
    const auto whole = [](dvec2 at) {
      return PlanPoint{static_cast<int>(std::floor(at.x)), static_cast<int>(std::floor(at.y))};
    };
    region_.pieces.clear();
    for (const std::uint32_t number : level_.near(whole(region_.low), whole(region_.high + 1.0))) {
      const LevelIndex::Facet& facet = level_.facets()[number];
      ConvexPart part;
      for (std::size_t i = 0; i < 3; ++i)
        part.push_back(
            {dvec2(facet.corners[i].x, facet.corners[i].y), static_cast<double>(facet.heights[i])});
      Box box = box_of(part);
      if (glm::any(glm::lessThan(box.low, region_.low)) ||
          glm::any(glm::greaterThan(box.high, region_.high))) {
        keep_in_box(part, region_.low, region_.high);
        if (part.empty()) continue;
        box = box_of(part);
      }
      region_.pieces.push_back(
          {{facet.corners, facet.heights}, facet.floor, facet.up, facet.cost, std::move(part), box});
    }
  }

  /// Which floors belong together.
  void find_groups() {
    region_.group.resize(region_.pieces.size());
    std::iota(region_.group.begin(), region_.group.end(), 0U);
    gaps_ = false;
    for (std::uint32_t i = 0; i < region_.pieces.size(); ++i) {
      if (!region_.pieces[i].floor) continue;
      region_.places->each_near(region_.pieces[i].box, gap_ + rounding, [&](std::uint32_t j) {
        if (j >= i || !region_.pieces[j].floor || root(i) == root(j)) return;
        if (share_side(region_.pieces[i].facet, region_.pieces[j].facet) ||
            joined(region_.pieces[i], region_.pieces[j], rounding)) {
          unite(i, j);
        } else if (gap_ > 0 && joined(region_.pieces[i], region_.pieces[j], gap_ + rounding)) {
          unite(i, j);
          gaps_ = true;
        }
      });
    }
    for (std::uint32_t i = 0; i < region_.pieces.size(); ++i) region_.group[i] = root(i);
  }

  std::uint32_t root(std::uint32_t piece) {
    while (region_.group[piece] != piece) piece = region_.group[piece] = region_.group[region_.group[piece]];
    return piece;
  }
  void unite(std::uint32_t i, std::uint32_t j) {
    i = root(i), j = root(j);
    region_.group[std::max(i, j)] = std::min(i, j);
  }

  static bool share_side(const Facet& a, const Facet& b) {
    int shared = 0;
    for (std::size_t i = 0; i < 3; ++i)
      for (std::size_t j = 0; j < 3; ++j)
        shared += a.corners[i] == b.corners[j] && a.heights[i] == b.heights[j];
    return shared >= 2;
  }

  /// True when somewhere one can step from one floor to the other.
  bool joined(const Piece& a, const Piece& b, double aside) const {
    if (!a.box.near(b.box, aside) || a.box.lowest > b.box.highest + region_.step + aside ||
        b.box.lowest > a.box.highest + region_.step + aside)
      return false;
    ConvexPart shared = a.part;
    keep_over(shared, b.facet, aside);
    keep_between(shared, b.facet, -region_.step, region_.step);
    return !shared.empty();
  }

  /// True when two pieces of the same floor lie above each other so that one can stand on both.
  bool above_itself() {
    for (std::uint32_t i = 0; i < region_.pieces.size(); ++i) {
      if (!region_.pieces[i].floor) continue;
      bool found = false;
      region_.places->each_near(region_.pieces[i].box, -rounding, [&](std::uint32_t j) {
        if (found || !region_.pieces[j].floor || region_.group[i] != region_.group[j] ||
            region_.pieces[i].box.highest < region_.pieces[j].box.lowest + region_.tall)
          return;
        ConvexPart shared = region_.pieces[i].part;
        keep_over(shared, region_.pieces[j].facet, -rounding);
        keep_between(shared, region_.pieces[j].facet, region_.tall, 1e12);
        found = !shared.empty();
      });
      if (found) return true;
    }
    return false;
  }

  void survey_floor(std::span<const std::uint32_t> members, std::vector<FloorPart>& floors) {
    const Box inside{dvec2(square_.low.x, square_.low.y),
                     dvec2(square_.low.x, square_.low.y) + static_cast<double>(square_.size)};
    std::vector<Facet> facets;
    for (const std::uint32_t i : members)
      if (region_.pieces[i].box.near(inside, gap_ + rounding)) facets.push_back(region_.pieces[i].facet);
    if (facets.empty()) return;
    Outlines blocked;
    add_ledges(region_, members, gap_, blocked);
    add_obstacles(region_, members, blocked);
    if (level_.closed()) add_insides(region_, members, blocked);
    Outlines free = united(outline_of(region_, members));
    if (gaps_) free = closed(free, gap_);
    std::ranges::sort(blocked);
    blocked.erase(std::unique(blocked.begin(), blocked.end()), blocked.end());
    if (!blocked.empty()) free = without(free, united(blocked));
    free = cut_to_square(free, square_);
    if (free.empty()) return;
    floors.push_back(
        {std::move(free), std::make_shared<FloorSurface>(square_, std::move(facets)), costly_parts(members)});
  }

  /// What of a floor costs more.
  std::vector<CostlyOutlines> costly_parts(std::span<const std::uint32_t> members) const {
    std::vector<CostlyOutlines> parts;
    std::vector<std::uint32_t> alike;
    for (const std::uint32_t i : members) {
      const float cost = region_.pieces[i].cost;
      if (cost == 1.f || std::ranges::find(parts, cost, &CostlyOutlines::cost) != parts.end()) continue;
      alike.clear();
      std::ranges::copy_if(members, std::back_inserter(alike),
                           [&](std::uint32_t k) { return region_.pieces[k].cost == cost; });
      parts.push_back({cost, cut_to_square(united(outline_of(region_, alike)), square_)});
    }
    std::erase_if(parts, [](const CostlyOutlines& each) { return each.outlines.empty(); });
    return parts;
  }

  const LevelIndex& level_;
  int gap_;
  Square square_;
  Region region_;
  bool gaps_ = false;  // between pieces that belong together
};

}  // namespace

std::vector<SurveyedSquare> survey(const LevelIndex& level, std::uint32_t cell, const Body& body) {
  std::vector<SurveyedSquare> surveyed;
  Surveyor(level, body).look(level.grid().square(cell), surveyed);
  return surveyed;
}

}  // namespace ambulon
