#include "find_crossings.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

#include <glm/common.hpp>

#include "ambulon/ground/mesh/plan.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "convex_part.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/millimetres.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

constexpr double apart = 1000;     // millimetres between samples of an edge
constexpr double shortest = 20;    // millimetres: shorter sides are ignored
constexpr double alike = 800;      // millimetres: of crossings with both ends within this, one is kept
constexpr double slack = 5;        // millimetres: tolerance of heights and widths
constexpr double effort_up = 2;    // metres of path per metre of height jumped up,
constexpr double effort_down = 1;  // and dropped down,
constexpr double effort = 500;     // and millimetres per crossing, so that walking is preferred

/// The body in millimetres.
struct Hopper {
  explicit Hopper(const BodySize& size)
      : radius(per_metre * size.radius),
        height(per_metre * size.height),
        step(per_metre * size.step_up),
        jump(per_metre * size.jump_up),
        drop(per_metre * size.drop_down),
        leap(per_metre * size.leap) {}

  double rise() const { return std::max(jump, step) + slack; }
  double fall() const { return std::max({jump, drop, step}) + slack; }
  /// Returns the maximum distance of a crossing's ends on the plan.
  double reach() const { return 2 * radius + std::max(leap, radius) + slack; }

  double radius, height, step, jump, drop, leap;
};

/// A range of heights that is obstructed.
struct Taken {
  double low, high;
};

class Finder {
 public:
  Finder(const ConvexMesh& mesh, const LevelIndex& level, std::span<const PlacedBarrier* const> barriers,
         const BodySize& size)
      : mesh_(mesh), level_(level), barriers_(barriers), body_(size) {}

  std::vector<MeshCrossing> from_edge_in(std::uint32_t patch) {
    const auto [first, count] = mesh_.sides_in(patch);
    for (std::uint32_t side = first; side < first + count; ++side)
      if (mesh_.sides()[side].across == ConvexMesh::none) look_out(side);
    return std::move(found_);
  }

 private:
  using End = MeshCrossing::End;

  /// Looks outwards from samples of a side at the edge of the ground.
  void look_out(std::uint32_t side) {
    const dvec2 a = mesh_.start_of(side), way = mesh_.end_of(side) - a;
    const double length = glm::length(way);
    if (length < shortest) return;
    const dvec2 out = dvec2(way.y, -way.x) / length;
    const int places = std::max(1, static_cast<int>(std::lround(length / apart)));
    const std::uint32_t polygon = mesh_.sides()[side].polygon;
    for (int i = 0; i < places; ++i) {
      const dvec2 at = a + (i + 0.5) / places * way;
      look_out({at, mesh_.height(polygon, at), polygon}, out);
    }
  }

  void look_out(const End& here, dvec2 out) {
    meet(here, out);
    std::ranges::sort(met_, {}, [](const Met& met) { return met.off; });
    for (std::size_t i = 0; i < met_.size(); ++i) {
      // One crossing for each height.
      const auto as_high = [&](const Met& met) {
        return met.taken && std::abs(met.end.height - met_[i].end.height) <= body_.step + slack;
      };
      if (std::none_of(met_.begin(), met_.begin() + static_cast<std::ptrdiff_t>(i), as_high))
        met_[i].taken = consider(here, met_[i].end, met_[i].off);
    }
  }

  /// Finds the ground met in a direction within reach: where the ray enters it, not where it goes on from
  /// polygon to polygon.
  void meet(const End& here, dvec2 out) {
    met_.clear();
    const dvec2 far = here.at + body_.reach() * out;
    mesh_.each_near(glm::min(here.at, far), glm::max(here.at, far), [&](std::uint32_t polygon) {
      double from = 2 * body_.radius - slack, to = body_.reach();
      bool goes_on = false;
      const auto sides = mesh_.sides_of(polygon);
      for (std::size_t i = 0; i < sides.size() && from <= to; ++i) {
        const dvec2 start = sides[i].start, along = sides[i + 1 == sides.size() ? 0 : i + 1].start - start;
        const double inside = cross(along, here.at - start), slope = cross(along, out);
        if (slope > 0) {
          if (const double entered = -inside / slope; entered > from)
            from = entered, goes_on = sides[i].across != ConvexMesh::none;
        } else if (slope < 0)
          to = std::min(to, inside / -slope);
        else if (inside < 0)
          to = -1;
      }
      if (from > to || goes_on) return;
      const dvec2 at = mesh_.nearest_in(polygon, here.at + from * out);
      const double height = mesh_.height(polygon, at);
      if (height > here.height + body_.fall() || height < here.height - body_.fall()) return;
      met_.push_back({{at, height, polygon}, from});
    });
  }

  /// Adds the crossings between two places, in one or both directions, if they are possible. Returns true if
  /// there is one.
  bool consider(const End& a, const End& b, double off) {
    const bool known = std::ranges::any_of(
        found_, [&](const MeshCrossing& other) { return near(other.from, a) && near(other.to, b); });
    if (known) return true;
    const auto over = height_over(a, b);
    if (!over) return false;
    const bool there = take(a, b, off, *over);
    return take(b, a, off, *over) || there;
  }

  static bool near(const End& a, const End& b) {
    return glm::distance(a.at, b.at) < alike && std::abs(a.height - b.height) < alike;
  }

  bool take(const End& from, const End& to, double off, double over) {
    const double up = over - from.height, down = over - to.height, gap = off - 2 * body_.radius;
    if (up > body_.rise() || down > body_.fall()) return false;
    Passage kind = Passage::leap;
    if (up > body_.step + slack)
      kind = Passage::jump_up;
    else if (from.height - to.height > body_.step + slack)
      kind = Passage::drop_down;
    if (gap > (kind == Passage::leap ? body_.leap : std::max(body_.leap, body_.radius)) + slack) return false;
    const double cost = effort + glm::distance(from.at, to.at) + effort_up * std::max(0.0, up) +
                        effort_down * std::max(0.0, down);
    found_.push_back({kind, from, to, over, cost});
    return true;
  }

  /// Returns the minimum height of a body between two places; nothing if it cannot jump as high.
  std::optional<double> height_over(const End& a, const End& b) {
    list_taken(a, b);
    std::ranges::sort(taken_, {}, &Taken::low);
    double over = std::max(a.height, b.height);
    const double stepped = over + body_.step + slack, max = std::min(a.height, b.height) + body_.fall();
    for (bool raised = true; raised;) {
      raised = false;
      for (const Taken& taken : taken_)
        if (taken.high > std::max(over, stepped) && taken.low < over + body_.height - slack)
          over = taken.high, raised = true;
      if (over > max) return {};
    }
    return over;
  }

  /// Collects the obstructed heights between two places, and around them as far as the body reaches.
  void list_taken(const End& a, const End& b) {
    taken_.clear();
    const SpacePoint ends[] = {{a.at, 0}, {b.at, 0}};
    // Slightly slimmer, so that walls parallel to the movement do not count.
    const std::vector<PlanPoint> around = grown(ends, std::max(1.0, body_.radius - 2 * slack));
    PlanPoint low = around[0], high = around[0];
    for (const PlanPoint p : around) {
      low = {std::min(low.x, p.x), std::min(low.y, p.y)};
      high = {std::max(high.x, p.x), std::max(high.y, p.y)};
    }
    for (const std::uint32_t number : level_.near(low, high)) {
      const LevelIndex::Facet& facet = level_.facets()[number];
      ConvexPart part;
      for (std::size_t i = 0; i < 3; ++i)
        part.push_back({to_vec(facet.corners[i]), static_cast<double>(facet.heights[i])});
      keep_inside(part, around);
      if (part.empty()) continue;
      const auto [min, max] = std::ranges::minmax(part, {}, &SpacePoint::height);
      taken_.push_back({min.height, max.height});
    }
    for (const PlacedBarrier* placed : barriers_)
      if (placed->barrier.cost() == 0.f && overlap(outlines_of(placed->barrier, 0.f), around))
        taken_.push_back({per_metre * placed->barrier.bottom(), per_metre * placed->barrier.top()});
  }

  /// Clips a part to a convex outline on the plan.
  static void keep_inside(ConvexPart& part, std::span<const PlanPoint> convex) {
    for (std::size_t i = 0; i < convex.size() && !part.empty(); ++i) {
      const dvec2 from = to_vec(convex[i]), way = to_vec(convex[(i + 1) % convex.size()]) - from;
      keep(part, [&](const SpacePoint& point) { return cross(way, point.at - from); });
    }
  }

  /// Returns true if a convex outline overlaps one of the others.
  static bool overlap(const Outlines& outlines, std::span<const PlanPoint> convex) {
    return std::ranges::any_of(outlines, [&](const auto& outline) {
      ConvexPart part;
      for (const PlanPoint corner : outline) part.push_back({to_vec(corner)});
      keep_inside(part, convex);
      return !part.empty();
    });
  }

  struct Met {
    End end;
    double off;  // distance from the sample
    bool taken = false;
  };

  const ConvexMesh& mesh_;
  const LevelIndex& level_;
  std::span<const PlacedBarrier* const> barriers_;
  Hopper body_;
  std::vector<Met> met_;
  std::vector<Taken> taken_;
  std::vector<MeshCrossing> found_;
};

}  // namespace

std::vector<MeshCrossing> find_crossings(const ConvexMesh& mesh, std::uint32_t patch, const LevelIndex& level,
                                         std::span<const PlacedBarrier* const> barriers,
                                         const BodySize& body) {
  return Finder(mesh, level, barriers, body).from_edge_in(patch);
}

bool hops(const BodySize& body) { return body.jump_up > 0.f || body.drop_down > 0.f || body.leap > 0.f; }

double crossing_reach(const BodySize& body) { return Hopper(body).reach(); }

}  // namespace ambulon
