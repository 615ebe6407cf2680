// `MeshSearch` over borders, where the cost of the ground changes.

#include <algorithm>
#include <cmath>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_search.hpp"

namespace ambulon {
namespace {

constexpr double apart = 300;             // millimetres: maximum distance of points on a border
constexpr std::uint32_t max_points = 55;  // on a side: as many as on the edge of a patch
constexpr double nearest_apart = 20;      // millimetres, next to the place nearest to the start or the goal
constexpr double near_part = 0.1;         // of the distance of that place
constexpr double rim = 0.1;               // millimetres by which a point may lie beside an interval
constexpr int rounds = 16;                // of moving points, maximum
constexpr int parts = 24;                 // steps that narrow down the place on a side
constexpr int halvings = 3;               // of a move that would leave the ground of one cost
constexpr int max_at_corner = 8;          // polygons at one corner: more are a cycle
constexpr double enough = 1e-5;           // of the length: a smaller gain ends the rounds
constexpr double straight = 0.5;          // millimetres off a straight line that count as no bend

}  // namespace

/// Returns a lower bound of the length over an interval to the goal, from that for ground of cost 1: up to
/// the interval the cost is higher.
double MeshSearch::least_by(const Seen& seen, dvec2 left, dvec2 right, double min) const {
  const dvec2 root = root_of(seen.root);
  return min + (static_cast<double>(seen.cost) - 1) * glm::distance(root, nearest_on(left, right, root));
}

/// Returns true if a polygon contains an end, on the side of a closed line on which the path is.
bool MeshSearch::holds_an_end(std::uint32_t polygon) const {
  if (polygon == to_.polygon) return !beyond_line(polygon, to_.at);
  const auto end = std::ranges::lower_bound(ends_by_polygon_, std::pair(polygon, std::uint32_t{0}));
  return end != ends_by_polygon_.end() && end->first == polygon;
}

/// Pushes a node that only leads over `at` straight to the ends in a polygon. It is apart from the node that
/// goes on from there: leaving the polygon may be cheaper where its ground costs more than other ground.
void MeshSearch::go_straight_to_end(dvec2 at, std::uint32_t polygon, const Seen& seen) {
  const auto cost = static_cast<double>(seen.cost);
  const double rest = glm::distance(at, to_.at);
  const double length = seen.to_root + cost * glm::distance(root_of(seen.root), at) +
                        (around_ > 0 ? std::max(0.0, rest - around_) : cost * rest);
  nodes_.push_back(
      {at, at, mesh_->polygons()[polygon].first, seen.root, seen.to_root, seen.parent, seen.cost});
  put_off({length, static_cast<std::uint32_t>(nodes_.size() - 1)});
}

/// Returns the points of a side and its twin, created at the first request: evenly spaced, and more near the
/// start and the goal, since the exact place matters more there.
MeshSearch::Points MeshSearch::points_on(std::uint32_t side) {
  const std::uint32_t across = mesh_->sides()[side].across;
  if (points_on_.size() < mesh_->sides().size()) points_on_.resize(mesh_->sides().size());
  Points& points = points_on_[std::min(side, across)];
  if (points.search == search_) return points;
  points = {static_cast<std::uint32_t>(border_points_.size()), 0, search_};
  const dvec2 start = mesh_->start_of(side), end = mesh_->end_of(side);
  const std::uint32_t count =
      std::min(max_points, 2 + static_cast<std::uint32_t>(glm::distance(start, end) / apart));
  for (std::uint32_t i = 0; i < count; ++i)
    add_point(glm::mix(start, end, static_cast<double>(i) / (count - 1)), side);
  add_points_near(from_.at, side);
  if (ends_.empty()) add_points_near(to_.at, side);
  points.count = static_cast<std::uint32_t>(border_points_.size()) - points.first;
  bends_.resize(std::max(bends_.size(), border_roots_ + border_points_.size()));
  return points;
}

/// Adds the point of a side nearest to `place`, and points at increasing distances on both sides of it.
void MeshSearch::add_points_near(dvec2 place, std::uint32_t side) {
  const dvec2 start = mesh_->start_of(side), end = mesh_->end_of(side),
              nearest = nearest_on(start, end, place);
  const double length = glm::distance(start, end), middle = glm::distance(start, nearest);
  double off = std::max(nearest_apart, near_part * glm::distance(place, nearest));
  if (off > 0.5 * apart) return;
  add_point(nearest, side);
  for (; off < apart; off *= 2)
    for (const double at : {middle - off, middle + off})
      if (at > 0 && at < length) add_point(glm::mix(start, end, at / length), side);
}

/// Adds a point to a side. A path could change sides at a point on the closed line, so that one is left out.
void MeshSearch::add_point(dvec2 at, std::uint32_t side) {
  if (line_ == nullptr || !line_->touches(at)) border_points_.push_back({at, side});
}

/// Pushes the points of a border that are visible in an interval. If there are none, and the root is not on a
/// border, it is the place where the straight line to the goal passes it. From one such place to the next the
/// search would not end.
void MeshSearch::meet_border(dvec2 left, dvec2 right, std::uint32_t side, const Seen& seen) {
  const Points points = points_on(side);
  const dvec2 along = glm::normalize(left - right);
  const double width = glm::distance(left, right);
  bool any = false;
  for (std::uint32_t i = points.first; i < points.first + points.count; ++i) {
    const double at = glm::dot(border_points_[i].at - right, along);
    if (at < -rim || at > width + rim) continue;
    come_to_point(i, seen);
    any = true;
  }
  if (any || (seen.root != none && seen.root >= border_roots_)) return;
  const dvec2 at = passes(root_of(seen.root), left, right, to_.at);
  if (line_ != nullptr && line_->touches(at)) return;
  border_points_.push_back({at, side});
  bends_.resize(std::max(bends_.size(), border_roots_ + border_points_.size()));
  come_to_point(static_cast<std::uint32_t>(border_points_.size() - 1), seen);
}

/// Pushes a point on a border, if the path to it is shorter than the known one.
void MeshSearch::come_to_point(std::uint32_t point, const Seen& seen) {
  const dvec2 at = border_points_[point].at;
  const double length = seen.to_root + static_cast<double>(seen.cost) * glm::distance(root_of(seen.root), at);
  const std::uint32_t root = border_roots_ + point;
  Best& best = bends_[root];
  if (best.search == search_ && length >= best.length - tolerance::on_line_mm) return;
  const double estimate = length + std::max(0.0, glm::distance(at, to_.at) - around_);
  if (estimate > max_) return;
  best = {length, search_};
  std::uint32_t parent = seen.parent;
  if (seen.root != (parent == none ? none : nodes_[parent].root)) {  // it looks from a new bend
    parent = static_cast<std::uint32_t>(nodes_.size());
    nodes_.push_back({at, at, border_points_[point].side, seen.root, seen.to_root, seen.parent, seen.cost});
  }
  nodes_.push_back({at, at, none, root, length, parent, seen.cost});
  put_off({estimate, static_cast<std::uint32_t>(nodes_.size() - 1)});
}

/// Expands a node on a border: over the polygons on both sides of it, and along it.
void MeshSearch::leave_border(std::uint32_t number) {
  const Node node = nodes_[number];
  const BorderPoint point = border_points_[node.root - border_roots_];
  const std::uint32_t across = mesh_->sides()[point.side].across;
  const bool first_is_cheaper =
      cost_of(mesh_->sides()[point.side].polygon) < cost_of(mesh_->sides()[across].polygon);
  for (const std::uint32_t half : {point.side, across}) {
    const std::uint32_t polygon = mesh_->sides()[half].polygon;
    side_ = side_of(polygon, point.at);
    const Seen seen{node.root, node.to_root, number, cost_of(polygon)};
    if (holds_an_end(polygon)) go_straight_to_end(point.at, polygon, seen);
    see_crossings(polygon, seen, nullptr);
    see_everything(mesh_->after(half), mesh_->polygons()[polygon].count - 1, seen);
    if ((half == point.side) != first_is_cheaper) continue;
    const Points points = points_on(half);
    for (std::uint32_t i = points.first; i < points.first + points.count; ++i)
      if (!beyond_line(polygon, border_points_[i].at)) come_to_point(i, seen);
  }
}

// --- The path ---------------------------------------------------------------------------------

/// Moves each point of the path on a border to the minimum of the length. With fixed borders the length is
/// convex.
void MeshSearch::move_kinks() {
  const auto jumps = [&](std::size_t i) { return kinks_[i].cost == 0.f; };
  for (int round = 0; line_ == nullptr && round < rounds; ++round) {
    double gained = 0;
    for (std::size_t i = 1; i + 1 < path_.size(); ++i)
      if (kinks_[i].side != none && !jumps(i) && !jumps(i - 1)) gained += move_kink(i);
    length_ -= gained;
    if (gained < enough * length_) break;
  }
  drop_straight_kinks();
}

/// Returns by how much that shortens the path.
double MeshSearch::move_kink(std::size_t i) {
  const std::uint32_t side = kinks_[i].side, across = mesh_->sides()[side].across;
  const dvec2 start = mesh_->start_of(side), along = mesh_->end_of(side) - start, before = path_[i - 1].at,
              after = path_[i + 1].at, old = path_[i].at;
  const auto cost_before = static_cast<double>(kinks_[i - 1].cost),
             cost_after = static_cast<double>(kinks_[i].cost);
  const auto length_by = [&](dvec2 at) {
    return cost_before * glm::distance(before, at) + cost_after * glm::distance(at, after);
  };
  // Golden section.
  const double golden = 0.5 * (std::sqrt(5.0) - 1);
  double low = 0, high = 1;
  for (int part = 0; part < parts; ++part) {
    const double a = high - golden * (high - low), b = low + golden * (high - low);
    if (length_by(start + a * along) < length_by(start + b * along))
      high = b;
    else
      low = a;
  }
  dvec2 at = start + 0.5 * (low + high) * along;
  for (const dvec2 end : {start, start + along})  // also exactly the ends
    if (length_by(end) < length_by(at)) at = end;
  const auto free = [&](dvec2 to, float cost) {
    const std::uint32_t half = cost_of(mesh_->sides()[side].polygon) == cost ? side : across;
    const std::uint32_t polygon = mesh_->sides()[half].polygon;
    return cost_of(polygon) == cost && straight_over_one_cost(at, polygon, to);
  };
  for (int tries = 0; tries <= halvings; ++tries, at = 0.5 * (at + old)) {
    const double gain = length_by(old) - length_by(at);
    if (gain <= 0) return 0;
    if (!free(before, kinks_[i - 1].cost) || !free(after, kinks_[i].cost)) continue;
    path_[i] = bend_in(*mesh_, {at, mesh_->sides()[side].polygon});
    return gain;
  }
  return 0;
}

/// Returns true if a straight line from a polygon stays on ground of its cost.
bool MeshSearch::straight_over_one_cost(dvec2 from, std::uint32_t polygon, dvec2 to) const {
  double gone = 0;
  for (int at_corner = 0; at_corner < max_at_corner;) {
    const ConvexMesh::Exit exit = mesh_->exit_of(polygon, from, to - from, gone);
    if (exit.side == none) return true;
    const ConvexMesh::Side& side = mesh_->sides()[exit.side];
    if (side.across == none || side.border != 0) return false;
    at_corner = exit.part > gone ? 0 : at_corner + 1;
    polygon = mesh_->sides()[side.across].polygon, gone = exit.part;
  }
  return false;
}

/// Removes points on borders from straight lines over ground of one cost.
void MeshSearch::drop_straight_kinks() {
  std::size_t last = 0, kept = 1;  // the last bend, and the number of bends
  auto crossed = crossed_.begin();
  for (std::size_t i = 1; i < path_.size(); ++i) {
    bool bends = kinks_[i].side == none || i + 1 == path_.size() || kinks_[i].cost != kinks_[i - 1].cost;
    for (std::size_t k = last + 1; !bends && k <= i; ++k)
      bends = glm::distance(nearest_on(path_[last].at, path_[i + 1].at, path_[k].at), path_[k].at) > straight;
    if (!bends) continue;
    for (; crossed != crossed_.end() && crossed->bend == i; ++crossed)
      crossed->bend = static_cast<std::uint32_t>(kept);
    last = i;
    path_[kept] = path_[i];
    kinks_[kept++] = kinks_[i];
  }
  path_.resize(kept);
  kinks_.resize(kept);
}

}  // namespace ambulon
