#include "ground/mesh/cost_search.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/mesh_search.hpp"

namespace ambulon {
namespace {

constexpr double apart = 300;             // millimetres: maximum distance of points on a side
constexpr std::uint32_t max_points = 33;  // on a side
constexpr double never = std::numeric_limits<double>::infinity();
constexpr double nearest_apart = 20;  // millimetres, next to the place nearest to the start or the goal
constexpr double min_step = 0.1;      // millimetres, straight on
constexpr int rounds = 24;            // of moving points, maximum
constexpr int parts = 24;             // steps that narrow down the place on a side
constexpr double enough = 1e-5;       // of the cost: a smaller gain ends the rounds
constexpr double straight = 0.5;      // millimetres off a straight line that count as no bend

}  // namespace

/// Returns the lower number of a side and its twin, under which its points are kept.
std::uint32_t CostSearch::shared(std::uint32_t side) const {
  return std::min(side, mesh_->sides()[side].across);
}

/// Returns the points of a side, created at the first request: evenly spaced. Sides of the polygons of the
/// start and the goal get more points near these, since the exact place matters more there.
CostSearch::First CostSearch::points_of(std::uint32_t side) {
  First& points = first_[side];
  if (points.search == search_) return points;
  points = {static_cast<std::uint32_t>(points_.size()), search_};
  const dvec2 start = mesh_->start_of(side), end = mesh_->end_of(side);
  const std::uint32_t count =
      std::min(max_points, 2 + static_cast<std::uint32_t>(glm::distance(start, end) / apart));
  for (std::uint32_t i = 0; i < count; ++i)
    add_point(glm::mix(start, end, static_cast<double>(i) / (count - 1)), side);
  for (const MeshSearch::Place& place : {from_, to_})
    for (const std::uint32_t half : {side, mesh_->sides()[side].across})
      if (mesh_->sides()[half].polygon == place.polygon) add_points_near(place.at, side);
  points.count = static_cast<std::uint32_t>(points_.size()) - points.point;
  return points;
}

/// Adds a point to a side. A point on the closed line is left out, since a path could change sides there.
void CostSearch::add_point(dvec2 at, std::uint32_t side) {
  if (line_ == nullptr || !line_->touches(at)) points_.push_back({.at = at, .cost = never, .side = side});
}

/// Adds the place of a side nearest to `place`, and places at increasing distances on both sides of it.
void CostSearch::add_points_near(dvec2 place, std::uint32_t side) {
  const dvec2 start = mesh_->start_of(side), end = mesh_->end_of(side),
              nearest = nearest_on(start, end, place);
  const double length = glm::distance(start, end), middle = glm::distance(start, nearest);
  add_point(nearest, side);
  for (double off = nearest_apart; off < apart; off *= 2)
    for (const double at : {middle - off, middle + off})
      if (at > 0 && at < length) add_point(glm::mix(start, end, at / length), side);
}

bool CostSearch::find(const ConvexMesh& mesh, const MeshSearch::Place& from, const MeshSearch::Place& to,
                      const MeshCrossings& crossings) {
  line_ = nullptr, max_ = never;
  return search(mesh, from, to, crossings);
}

bool CostSearch::find_round(const ConvexMesh& mesh, const MeshSearch::Place& from,
                            const MeshSearch::Place& to, const MeshCrossings& crossings,
                            const ClosedLine& line, double max) {
  line_ = &line, max_ = max;
  return search(mesh, from, to, crossings);
}

/// Returns true if the closed line separates two places of a polygon.
bool CostSearch::parted(std::uint32_t polygon, dvec2 a, dvec2 b) const {
  return line_ != nullptr && (line_->left_of(a) < 0) != (line_->left_of(b) < 0) && line_->divides(polygon);
}

bool CostSearch::search(const ConvexMesh& mesh, const MeshSearch::Place& from, const MeshSearch::Place& to,
                        const MeshCrossings& crossings) {
  mesh_ = &mesh, crossings_ = &crossings, from_ = from, to_ = to;
  length_ = 0, expanded_ = 0;
  points_.clear(), open_.clear(), path_.clear(), crossed_.clear();
  if (first_.size() < mesh.sides().size()) first_.resize(mesh.sides().size());
  if (landed_.size() < crossings.all().size()) landed_.resize(crossings.all().size());
  if (++search_ == 0) {  // the numbers are used up
    std::ranges::fill(first_, First{});
    std::ranges::fill(landed_, First{});
    search_ = 1;
  }
  if (!crossings.reachable(mesh, from.polygon, to.polygon, reached_)) return false;
  points_.push_back({.at = from.at, .polygon = from.polygon});
  goal_ = 1;
  points_.push_back({.at = to.at, .cost = never, .polygon = to.polygon});
  open_.push_back({glm::distance(from.at, to.at), 0});
  while (!open_.empty()) {
    std::pop_heap(open_.begin(), open_.end());
    const std::uint32_t next = open_.back().point;
    open_.pop_back();
    if (points_[next].done) continue;
    points_[next].done = true;
    if (next == goal_) break;
    ++expanded_;
    const std::uint32_t side = points_[next].side;
    if (side == none) {
      look_over(next, points_[next].crossing == none ? from.polygon
                                                     : crossings.all()[points_[next].crossing].to.polygon);
      continue;
    }
    look_over(next, mesh.sides()[side].polygon);
    look_over(next, mesh.sides()[mesh.sides()[side].across].polygon);
  }
  if (!points_[goal_].done) return false;
  trace();
  move_points();
  write_path();
  return true;
}

void CostSearch::reach(std::uint32_t number, double cost, std::uint32_t polygon, std::uint32_t parent,
                       std::uint32_t crossing) {
  Point& point = points_[number];
  if (point.done || cost >= point.cost) return;
  const double estimate = cost + glm::distance(point.at, to_.at);
  if (estimate > max_) return;
  point.cost = cost, point.polygon = polygon, point.parent = parent, point.crossing = crossing;
  open_.push_back({estimate, number});
  std::push_heap(open_.begin(), open_.end());
}

/// Relaxes all points that can be reached over a polygon.
void CostSearch::look_over(std::uint32_t number, std::uint32_t polygon) {
  const Point from = points_[number];
  const double cost = static_cast<double>(mesh_->polygons()[polygon].cost);
  const auto there = [&](dvec2 at) { return from.cost + cost * glm::distance(from.at, at); };
  if (polygon == to_.polygon && !parted(polygon, from.at, to_.at))
    reach(goal_, there(to_.at), polygon, number);
  const ConvexMesh::Polygon& around = mesh_->polygons()[polygon];
  for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
    if (mesh_->sides()[side].across == ConvexMesh::none) continue;
    const First points = points_of(shared(side));
    for (std::uint32_t point = points.point; point < points.point + points.count; ++point)
      if (const dvec2 at = points_[point].at; !parted(polygon, from.at, at))
        reach(point, there(at), polygon, number);
  }
  look_straight(number, polygon);
  for (std::uint32_t i = crossings_->first_from(polygon); i != MeshCrossings::none; i = crossings_->next(i)) {
    const MeshCrossing& crossing = crossings_->all()[i];
    if (parted(polygon, from.at, crossing.from.at)) continue;
    First& landed = landed_[i];
    if (landed.search != search_) {
      landed = {static_cast<std::uint32_t>(points_.size()), search_};
      points_.push_back({.at = crossing.to.at, .cost = never});
    }
    reach(landed.point, there(crossing.from.at) + crossing.cost, polygon, number, i);
  }
}

/// Relaxes the point where the straight line to the goal leaves a polygon.
void CostSearch::look_straight(std::uint32_t number, std::uint32_t polygon) {
  const Point from = points_[number];
  const dvec2 way = to_.at - from.at;
  const ConvexMesh::Polygon& around = mesh_->polygons()[polygon];
  for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
    if (mesh_->sides()[side].across == ConvexMesh::none) continue;
    const dvec2 start = mesh_->start_of(side), along = mesh_->end_of(side) - start;
    const double slope = cross(along, way), inside = cross(along, from.at - start);
    if (slope >= 0 || inside <= 0) continue;  // it does not lead out there
    const double part = inside / -slope,
                 place = glm::dot(from.at + part * way - start, along) / glm::dot(along, along);
    if (part >= 1 || place <= 0 || place >= 1) continue;
    const dvec2 at = start + place * along;
    if (glm::distance(from.at, at) < min_step || parted(polygon, from.at, at)) return;
    points_.push_back({.at = at, .cost = never, .side = shared(side)});
    reach(static_cast<std::uint32_t>(points_.size() - 1),
          from.cost + static_cast<double>(around.cost) * glm::distance(from.at, at), polygon, number);
    return;
  }
}

/// Traces the points of the path, from its start.
void CostSearch::trace() {
  trail_.clear();
  for (std::uint32_t at = goal_; at != none; at = points_[at].parent) {
    trail_.push_back(points_[at]);
    if (points_[at].crossing == none) continue;
    const MeshCrossing& crossing = crossings_->all()[points_[at].crossing];
    trail_.push_back({.at = crossing.from.at, .polygon = points_[at].polygon});
  }
  std::ranges::reverse(trail_);
}

/// Returns the cost of the path's two legs at point `i` if that point is moved to `at`.
double CostSearch::cost_by(std::size_t i, dvec2 at) const {
  const auto cost = [&](std::size_t k) {
    return static_cast<double>(mesh_->polygons()[trail_[k].polygon].cost);
  };
  return cost(i) * glm::distance(trail_[i - 1].at, at) + cost(i + 1) * glm::distance(at, trail_[i + 1].at);
}

/// Moves each point along its side to the minimum of the cost (golden section; for fixed sides the cost is
/// convex). Points next to a closed line stay.
void CostSearch::move_points() {
  const double golden = 0.5 * (std::sqrt(5.0) - 1);
  for (int round = 0; round < rounds; ++round) {
    double better = 0;
    for (std::size_t i = 1; i + 1 < trail_.size(); ++i) {
      if (trail_[i].side == none || trail_[i + 1].crossing != none) continue;
      if (line_ != nullptr && (line_->divides(trail_[i].polygon) || line_->divides(trail_[i + 1].polygon)))
        continue;
      const dvec2 start = mesh_->start_of(trail_[i].side), along = mesh_->end_of(trail_[i].side) - start;
      double low = 0, high = 1;
      for (int part = 0; part < parts; ++part) {
        const double a = high - golden * (high - low), b = low + golden * (high - low);
        if (cost_by(i, start + a * along) < cost_by(i, start + b * along))
          high = b;
        else
          low = a;
      }
      const double before = cost_by(i, trail_[i].at);
      for (const double part : {0.0, 0.5 * (low + high), 1.0})  // also exactly the ends
        if (cost_by(i, start + part * along) < cost_by(i, trail_[i].at)) trail_[i].at = start + part * along;
      better += before - cost_by(i, trail_[i].at);
    }
    if (better < enough * points_[goal_].cost) break;
  }
}

/// Writes the bends of the path, without points on straight lines over ground of one cost.
void CostSearch::write_path() {
  const auto cost = [&](std::size_t i) { return mesh_->polygons()[trail_[i].polygon].cost; };
  std::size_t last = 0;  // point of the path at the last bend
  for (std::size_t i = 0; i < trail_.size(); ++i) {
    if (trail_[i].crossing != none) {
      crossed_.push_back({static_cast<std::uint32_t>(path_.size() - 1), trail_[i].crossing});
      length_ += crossings_->all()[trail_[i].crossing].cost;
    } else if (i > 0) {
      length_ += static_cast<double>(cost(i)) * glm::distance(trail_[i - 1].at, trail_[i].at);
    }
    const bool end = i == 0 || i + 1 == trail_.size() || trail_[i].crossing != none ||
                     trail_[i + 1].crossing != none || cost(i) != cost(i + 1);
    bool bend = end;
    for (std::size_t k = last + 1; !bend && k <= i; ++k)
      bend =
          glm::distance(nearest_on(trail_[last].at, trail_[i + 1].at, trail_[k].at), trail_[k].at) > straight;
    if (!bend) continue;
    last = i;
    const std::uint32_t polygon =
        trail_[i].crossing != none ? crossings_->all()[trail_[i].crossing].to.polygon : trail_[i].polygon;
    path_.push_back({trail_[i].at, mesh_->height(polygon, trail_[i].at)});
  }
}

}  // namespace ambulon
