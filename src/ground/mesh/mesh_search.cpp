#include "ground/mesh/mesh_search.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/platform.hpp"
#include "base/tolerance.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"

namespace ambulon {
namespace {

/// Returns a lower bound of the length of a vector, for tolerances. It is cheap, and at least a third of the
/// length.
double about_length(dvec2 v) { return 0.5 * std::max(std::abs(v.x), std::abs(v.y)); }

bool same(dvec2 a, dvec2 b) { return glm::dot(a - b, a - b) < tolerance::on_line_mm * tolerance::on_line_mm; }

/// Returns the point of a segment on a line; `of_a` and `of_b` are the signed distances of its ends.
dvec2 cut(dvec2 a, double of_a, dvec2 b, double of_b) { return a + of_a / (of_a - of_b) * (b - a); }

}  // namespace

const MeshCrossings& MeshSearch::no_crossings() {
  static const MeshCrossings none_at_all;
  return none_at_all;
}

/// Resets the search.
void MeshSearch::start(const ConvexMesh& mesh, const Place& from, const MeshCrossings& crossings) {
  mesh_ = &mesh, crossings_ = &crossings, from_ = from;
  length_ = 0, around_ = 0;
  line_ = nullptr, max_ = std::numeric_limits<double>::infinity(), side_ = 0;
  expanded_ = 0;
  nodes_.clear(), open_.clear(), path_.clear(), kinks_.clear(), crossed_.clear(), ends_.clear(),
      ends_by_polygon_.clear(), around_goal_.clear(), border_points_.clear();
  in_hand_.node = none;
  crossing_roots_ = static_cast<std::uint32_t>(mesh.corners().size());
  border_roots_ = crossing_roots_ + static_cast<std::uint32_t>(crossings.all().size());
  if (bends_.size() < border_roots_) bends_.resize(border_roots_);
  if (turned_.size() < 2 * mesh.sides().size()) turned_.resize(2 * mesh.sides().size());
  if (++search_ == 0) {  // the numbers are used up
    std::ranges::fill(bends_, Best{});
    std::ranges::fill(turned_, Best{});
    std::ranges::fill(points_on_, Points{});
    search_ = 1;
  }
}

void MeshSearch::begin(const ConvexMesh& mesh, const Place& from, const Place& to,
                       const MeshCrossings& crossings) {
  start(mesh, from, crossings);
  to_ = to;
  look_from_start();
}

bool MeshSearch::find_round(const ConvexMesh& mesh, const Place& from, const Place& to,
                            const MeshCrossings& crossings, const ClosedLine& line, double max) {
  start(mesh, from, crossings);
  to_ = to, line_ = &line, max_ = max;
  // Paths on both sides of an end of the line are independent: with NaN as the known length, neither prunes
  // the other.
  for (const std::uint32_t corner : line.corners())
    bends_[corner] = {std::numeric_limits<double>::quiet_NaN(), search_};
  look_from_start();
  const bool found = go_on(~std::uint64_t{0}) == State::found;
  line_ = nullptr;
  return found && length_ <= max;
}

void MeshSearch::look_from_start() {
  state_ = State::no_route;
  if (!crossings_->reachable(*mesh_, from_.polygon, to_.polygon, reached_)) return;
  side_ = side_of(from_.polygon, from_.at);
  const Seen seen{.root = none, .to_root = 0, .parent = none, .cost = cost_of(from_.polygon)};
  const bool straight = from_.polygon == to_.polygon && !beyond_line(to_.polygon, to_.at);
  if (straight && seen.cost <= 1.f) {
    length_ = glm::distance(from_.at, to_.at);
    path_.assign({bend_in(*mesh_, from_), bend_in(*mesh_, to_)});
    state_ = State::found;
    return;
  }
  mesh_->each_pocket_from(to_.polygon, [&](std::uint32_t pocket) { around_goal_.push_back(pocket); });
  std::ranges::sort(around_goal_);
  little_ = tolerance::estimate_part * glm::distance(from_.at, to_.at);
  state_ = State::searching;
  if (straight) go_straight_to_end(from_.at, from_.polygon, seen);
  see_everything(mesh_->polygons()[from_.polygon].first, mesh_->polygons()[from_.polygon].count, seen);
  see_crossings(from_.polygon, seen, nullptr);
}

MeshSearch::State MeshSearch::go_on(std::uint64_t expansions) {
  for (std::uint64_t done = 0; state_ == State::searching && done < expansions;) {
    const std::uint32_t next = take_best();
    if (next == none) return state_ = State::no_route;  // only if the closed line separates start and goal
    const Node& node = nodes_[next];
    if (overtaken(node) || shorter_on_foot(node)) continue;
    ++done, ++expanded_;
    if (line_ != nullptr) side_ = side_of(node);
    const bool straight = cost_after(node) <= 1.f || (node.side != none && node.left == node.right);
    if (straight && polygon_of(node) == to_.polygon && !beyond_line(to_.polygon, to_.at)) {
      finish(next, to_);
      state_ = State::found;
    } else if (node.side == none)
      land(next);
    else
      expand(next);
  }
  return state_;
}

/// Returns the polygon that the path enters at a node; `none` at a point on a border.
std::uint32_t MeshSearch::polygon_of(const Node& node) const {
  if (on_border(node)) return none;
  return node.side == none ? crossing_of(node.root).to.polygon : mesh_->sides()[node.side].polygon;
}

// --- A closed line ----------------------------------------------------------------------------
// It leads from edge to edge, so it divides each polygon that it crosses, and a path stays on the side on
// which it enters. An interval that the line crosses is cut there, so each node is on one side.

/// Returns the side of the line of a place in a polygon: > 0 or < 0; 0 if the line does not divide the
/// polygon.
double MeshSearch::side_of(std::uint32_t polygon, dvec2 at) const {
  if (line_ == nullptr || !line_->divides(polygon)) return 0;
  return line_->left_of(at) < 0 ? -1 : 1;
}

/// Returns the cost of the polygon that the path enters at a node.
float MeshSearch::cost_after(const Node& node) const {
  return node.side != none || on_border(node) ? node.cost : cost_of(polygon_of(node));
}

/// Returns the side on which the path enters a polygon.
double MeshSearch::side_of(const Node& node) const {
  if (on_border(node)) return 0;
  return side_of(polygon_of(node),
                 node.side == none ? crossing_of(node.root).to.at : 0.5 * (node.left + node.right));
}

/// Returns true if the line separates a place from the entry of the present polygon.
bool MeshSearch::beyond_line(std::uint32_t polygon, dvec2 at) const {
  return side_ != 0 && side_of(polygon, at) != side_;
}

/// Returns true if a shorter path to the root of a node is known.
bool MeshSearch::overtaken(const Node& node) const {
  return node.root != none && node.to_root > bends_[node.root].length + tolerance::on_line_mm;
}

/// Returns true if a shorter path to the far end of a crossing is known, by a corner of its polygon.
bool MeshSearch::shorter_on_foot(const Node& node) const {
  if (node.side != none || node.root < crossing_roots_ || node.root >= border_roots_) return false;
  const MeshCrossing::End& end = crossing_of(node.root).to;
  if (line_ != nullptr && line_->divides(end.polygon)) return false;
  const auto cost = static_cast<double>(cost_of(end.polygon));
  return std::ranges::any_of(mesh_->sides_of(end.polygon), [&](const ConvexMesh::Side& side) {
    const Best& corner = bends_[side.corner];
    return side.bend != 0 && corner.search == search_ &&
           node.to_root > corner.length + cost * glm::distance(side.start, end.at) + tolerance::on_line_mm;
  });
}

/// Returns true if a shorter path to the whole interval of a node is known, by a corner at an end of its
/// side. The gain decreases with the distance from the corner, so testing the far end suffices.
bool MeshSearch::shorter_by_corner(const Node& node) const {
  // The path known to a corner is valid on its side of a closed line.
  if (node.side == none || (line_ != nullptr && side_of(node) != 0)) return false;
  const dvec2 root = root_of(node.root);
  const auto cost = static_cast<double>(node.cost);
  const auto by = [&](std::uint32_t number, dvec2 far) {
    const ConvexMesh::Side& side = mesh_->sides()[number];
    if (side.bend == 0 || side.corner == node.root) return false;
    const Best& corner = bends_[side.corner];
    return corner.search == search_ &&
           node.to_root + cost * glm::distance(root, far) >
               corner.length + cost * glm::distance(side.start, far) + tolerance::on_line_mm;
  };
  return by(node.side, node.right) || by(mesh_->after(node.side), node.left);
}

/// Returns the best open node; `none` if there is none. A node pushed since the last call is usually among
/// the best, and bypasses the heap. When the goal is returned, no open node is better.
std::uint32_t MeshSearch::take_best() {
  if (in_hand_.node != none) {
    const bool best = open_.empty() || !Later()(in_hand_, open_.front());
    if (best || (in_hand_.estimate < open_.front().estimate + little_ &&
                 mesh_->sides()[nodes_[in_hand_.node].side].polygon != to_.polygon))
      return std::exchange(in_hand_.node, none);
    put_off(in_hand_);
    in_hand_.node = none;
  }
  while (!open_.empty())
    if (const std::uint32_t first = take_first(); !shorter_by_corner(nodes_[first])) return first;
  return none;
}

// A 4-ary heap.

std::uint32_t MeshSearch::take_first() {
  const std::uint32_t first = open_.front().node;
  const Open last = open_.back();
  open_.pop_back();
  for (std::size_t at = 0; at < open_.size();) {
    std::size_t min = 4 * at + 1;
    for (std::size_t below = min + 1; below < std::min(4 * at + 5, open_.size()); ++below)
      if (Later()(open_[min], open_[below])) min = below;
    if (min >= open_.size() || !Later()(last, open_[min])) {
      open_[at] = last;
      break;
    }
    open_[at] = open_[min];
    at = min;
  }
  return first;
}

void MeshSearch::put_off(const Open& open) {
  std::size_t at = open_.size();
  open_.push_back(open);
  for (; at > 0 && Later()(open_[(at - 1) / 4], open); at = (at - 1) / 4) open_[at] = open_[(at - 1) / 4];
  open_[at] = open;
}

/// Returns the length of the shortest line from a root over an interval to the goal, ignoring obstacles.
double MeshSearch::min_by(dvec2 root, dvec2 left, dvec2 right) const {
  const dvec2 along = right - left;
  const double of_root = cross(along, root - left), of_goal = cross(along, to_.at - left),
               square = glm::dot(along, along);
  if (of_root * of_root <
      tolerance::on_line_mm * tolerance::on_line_mm * square) {  // it lies on the line of the interval
    const dvec2 nearest = nearest_on(left, right, root);
    return glm::distance(root, nearest) + glm::distance(nearest, to_.at);
  }
  dvec2 goal = to_.at;
  if (of_root * of_goal > 0) goal -= 2 * of_goal / square * dvec2(-along.y, along.x);
  const dvec2 to_goal = goal - root;
  if (cross(left - root, to_goal) > 0) return glm::distance(root, left) + glm::distance(left, goal);
  if (cross(right - root, to_goal) < 0) return glm::distance(root, right) + glm::distance(right, goal);
  return glm::length(to_goal);
}

/// Returns where that line passes the interval.
dvec2 MeshSearch::passes(dvec2 root, dvec2 left, dvec2 right, dvec2 goal) {
  const dvec2 along = right - left;
  const double of_root = cross(along, root - left), of_goal = cross(along, goal - left),
               square = glm::dot(along, along);
  if (of_root * of_root < tolerance::on_line_mm * tolerance::on_line_mm * square)
    return nearest_on(left, right, root);
  // A goal on the same side as the root is reflected at the line.
  const bool same_side = of_root * of_goal > 0;
  if (same_side) goal -= 2 * of_goal / square * dvec2(-along.y, along.x);
  if (cross(left - root, goal - root) >= 0) return left;
  if (cross(right - root, goal - root) <= 0) return right;
  return cut(root, of_root, goal, same_side ? -of_goal : of_goal);
}

/// Returns whether to bend around a root that is an end of the next side. Only once, since the root may be
/// surrounded by polygons.
bool MeshSearch::turns_on(std::size_t end, const Seen& seen) {
  Best& turned = turned_[end];
  if (turned.search == search_ && seen.to_root > turned.length - tolerance::on_line_mm) return false;
  turned = {seen.to_root, search_};
  return true;
}

/// Returns true for a pocket without a goal and without crossings.
bool MeshSearch::leads_nowhere(std::uint32_t pocket) const {
  return !std::ranges::binary_search(around_goal_, pocket) && !crossings_->leads_from(pocket);
}

/// Pushes the part of an interval that is not beyond the closed line.
void MeshSearch::push_cut(dvec2 left, dvec2 right, std::uint32_t side, const Seen& seen) {
  const double of_left = side_ * line_->left_of(left), of_right = side_ * line_->left_of(right);
  if (std::max(of_left, of_right) < tolerance::on_line_mm) return;
  note(of_left < -tolerance::on_line_mm ? cut(left, of_left, right, of_right) : left,
       of_right < -tolerance::on_line_mm ? cut(right, of_right, left, of_left) : right, side, seen);
}

void MeshSearch::note(dvec2 left, dvec2 right, std::uint32_t side, const Seen& seen) {
  if (mesh_->sides()[side].border != 0) return meet_border(left, right, side, seen);
  const std::uint32_t entered = mesh_->sides()[side].across;
  if (entered == ConvexMesh::none || same(left, right)) return;
  if (mesh_->sides()[side].blind != 0 && leads_nowhere(mesh_->sides()[entered].polygon)) return;
  const dvec2 root = root_of(seen.root);
  const bool about_left = same(left, root);
  if ((about_left || same(right, root)) && !turns_on(2 * entered + (about_left ? 1 : 0), seen)) return;
  prefetch_line(&mesh_->sides()[entered]);  // usually expanded next
  nodes_.push_back({left, right, entered, seen.root, seen.to_root, seen.parent, seen.cost});
  double min = min_by(root, left, right);
  if (around_ > 0) min = std::max(min - around_, glm::distance(root, nearest_on(left, right, root)));
  if (seen.cost > 1.f) min = least_by(seen, left, right, min);
  if (seen.to_root + min > max_) return nodes_.pop_back();
  Open open{seen.to_root + min, static_cast<std::uint32_t>(nodes_.size() - 1)};
  if (in_hand_.node == none || Later()(in_hand_, open)) std::swap(open, in_hand_);
  if (open.node != none) put_off(open);
}

/// Pushes all sides of a polygon, for a root on its boundary.
void MeshSearch::see_everything(std::uint32_t first, std::uint32_t count, const Seen& seen) {
  for (std::uint32_t side = first, i = 0; i < count; ++i, side = mesh_->after(side))
    push(mesh_->end_of(side), mesh_->start_of(side), side, seen);
}

/// Returns true if a path can bend at an end of an interval and no shorter path to this corner is known. Then
/// it becomes the root of what is visible from there.
bool MeshSearch::bends_at(dvec2 end, std::uint32_t side, Seen& seen) {
  if (mesh_->start_of(side) != end) return false;
  if (mesh_->sides()[side].bend == 0) return false;
  const std::uint32_t corner = mesh_->sides()[side].corner;
  seen.to_root += static_cast<double>(seen.cost) * glm::distance(root_of(seen.root), end);
  seen.root = corner;
  Best& bend = bends_[corner];
  if (bend.search == search_ && seen.to_root > bend.length + tolerance::on_line_mm) return false;
  if (bend.search != search_ || seen.to_root < bend.length) bend = {seen.to_root, search_};
  return true;
}

void MeshSearch::expand(std::uint32_t number) {
  const Node node = nodes_[number];
  if (node.left == node.right) return;  // it only leads to an end
  const dvec2 root = root_of(node.root);
  const Seen straight{node.root, node.to_root, number, node.cost};
  if (node.cost > 1.f && polygon_of(node) == to_.polygon && !beyond_line(to_.polygon, to_.at))
    go_straight_to_end(passes(root, node.left, node.right, to_.at), to_.polygon, straight);
  Seen left = straight, right = straight;
  see_crossings(mesh_->sides()[node.side].polygon, straight, &node);
  const std::uint32_t first = mesh_->after(node.side);
  const dvec2 start = mesh_->start_of(node.side), along = mesh_->end_of(node.side) - start;
  if (cross(along, root - start) <= -tolerance::on_line_mm * about_length(along))
    return look_through(node, straight);
  // The root lies on the line of the side: on the interval, or beyond one of its ends.
  const std::uint32_t count = mesh_->polygons()[mesh_->sides()[node.side].polygon].count - 1;
  const dvec2 nearest = nearest_on(node.left, node.right, root);
  if (glm::distance(nearest, root) < tolerance::on_line_mm)
    see_everything(first, count, straight);
  else if (nearest == node.left ? bends_at(node.left, node.side, left) : bends_at(node.right, first, right))
    see_everything(first, count, nearest == node.left ? left : right);
}

/// Pushes the intervals of the polygon's other sides: those behind the right end, if the path can bend there,
/// then the visible ones, then those behind the left end.
void MeshSearch::look_through(const Node& node, const Seen& straight) {
  const dvec2 root = root_of(node.root);
  const dvec2 by_left = node.left - root, by_right = node.right - root;
  const double left_hair = tolerance::on_line_mm * about_length(by_left),
               right_hair = tolerance::on_line_mm * about_length(by_right);
  Seen left = straight, right = straight;
  const bool round_left = bends_at(node.left, node.side, left),
             round_right = bends_at(node.right, mesh_->after(node.side), right);
  // Visits the sides from right to left, with the signed distances of their ends from the rays through both
  // ends of the interval.
  for (std::uint32_t side = mesh_->sides()[node.side].next_open; side != node.side;
       side = mesh_->sides()[side].next_open) {
    const dvec2 a = mesh_->start_of(side), b = mesh_->end_of(side);
    const double left_a = cross(by_left, a - root), right_a = cross(by_right, a - root),
                 left_b = cross(by_left, b - root), right_b = cross(by_right, b - root);
    dvec2 from = a;
    if (right_a < -right_hair || right_b < -right_hair) {
      from = right_b <= right_hair ? b : cut(a, right_a, b, right_b);
      if (round_right) push(from, a, side, right);
      if (right_b <= right_hair) continue;
    }
    if (left_a < -left_hair) {
      const dvec2 to = left_b <= left_hair ? b : cut(a, left_a, b, left_b);
      push(to, from, side, straight);
      if (left_b <= left_hair) continue;
      from = to;
    }
    if (round_left)
      push(b, from, side, left);
    else if (left_a <= left_hair && left_b <= left_hair)
      push(b, from, side, straight);  // visible along a wall
  }
}

/// Pushes the crossings that begin in a polygon, from a root, through the interval of `by` unless that is
/// null.
void MeshSearch::see_crossings(std::uint32_t polygon, const Seen& seen, const Node* by) {
  for (std::uint32_t i = crossings_->first_from(polygon); i != MeshCrossings::none; i = crossings_->next(i)) {
    const MeshCrossing& crossing = crossings_->all()[i];
    if (beyond_line(polygon, crossing.from.at)) continue;
    const dvec2 root = root_of(seen.root),
                bend = by == nullptr ? crossing.from.at : passes(root, by->left, by->right, crossing.from.at);
    const double length =
        seen.to_root +
        static_cast<double>(seen.cost) * (glm::distance(root, bend) + glm::distance(bend, crossing.from.at)) +
        crossing.cost;
    const std::uint32_t landing = crossing_roots_ + i;
    Best& best = bends_[landing];
    if (length > max_ || (best.search == search_ && length >= best.length)) continue;
    best = {length, search_};
    nodes_.push_back({bend, bend, none, landing, length, seen.parent, seen.cost});
    put_off({length + glm::distance(crossing.to.at, to_.at), static_cast<std::uint32_t>(nodes_.size() - 1)});
  }
}

/// Expands a node at the far end of a crossing, or on a border.
void MeshSearch::land(std::uint32_t number) {
  if (on_border(nodes_[number])) return leave_border(number);
  const std::uint32_t polygon = crossing_of(nodes_[number].root).to.polygon;
  const Seen seen{nodes_[number].root, nodes_[number].to_root, number, cost_of(polygon)};
  if (seen.cost > 1.f && holds_an_end(polygon)) go_straight_to_end(root_of(seen.root), polygon, seen);
  see_everything(mesh_->polygons()[polygon].first, mesh_->polygons()[polygon].count, seen);
  see_crossings(polygon, seen, nullptr);
}

MeshSearch::Bend MeshSearch::bend_of(std::uint32_t root) const {
  if (root == none) return bend_in(*mesh_, from_);
  if (root >= border_roots_) {
    const BorderPoint& point = border_points_[root - border_roots_];
    return bend_in(*mesh_, {point.at, mesh_->sides()[point.side].polygon});
  }
  if (root >= crossing_roots_) return {crossing_of(root).to.at, crossing_of(root).to.height};
  return {mesh_->corners()[root].at, static_cast<double>(mesh_->corners()[root].height)};
}

/// Returns the length of the path to an end in the polygon of the last node, and the point where it enters
/// that polygon.
double MeshSearch::length_by(const Node& last, const Place& to, dvec2& by) const {
  const dvec2 root = root_of(last.root);
  by = last.side == none ? root : passes(root, last.left, last.right, to.at);
  return last.to_root +
         static_cast<double>(cost_after(last)) * (glm::distance(root, by) + glm::distance(by, to.at));
}

/// Completes the path to an end in the polygon of its last node.
void MeshSearch::finish(std::uint32_t number, const Place& to) {
  const Node& last = nodes_[number];
  dvec2 by;
  length_ = length_by(last, to, by);
  path_.assign(1, bend_in(*mesh_, to));
  kinks_.assign(1, Kink{});
  if (last.side != none && (by == last.left || by == last.right))
    add(bend_in(*mesh_, {by, to.polygon}), {none, last.cost});
  trace(number);
  if (!border_points_.empty()) move_kinks();
}

/// Traces the bends of the path, from its end to its start.
void MeshSearch::trace(std::uint32_t number) {
  float cost = 1.f;  // of the leg before the bend that was added last
  for (std::uint32_t at = number; at != none; at = nodes_[at].parent) {
    const Node& node = nodes_[at];
    if (node.side != none) cost = node.cost;
    if (node.root != none)
      add(bend_of(node.root),
          {node.root >= border_roots_ ? border_points_[node.root - border_roots_].side : none, cost});
    if (node.side != none) continue;
    cost = node.cost;  // before the root
    if (on_border(node)) continue;
    const MeshCrossing& crossing = crossing_of(node.root);
    crossed_.push_back({static_cast<std::uint32_t>(path_.size()), node.root - crossing_roots_});
    path_.push_back({crossing.from.at, crossing.from.height});
    kinks_.push_back({none, 0.f});
    add(bend_in(*mesh_, {node.left, crossing.from.polygon}), {none, cost});
  }
  if (path_.back().at != from_.at || path_.size() == 1) {
    path_.push_back(bend_in(*mesh_, from_));
    kinks_.push_back({none, cost});
  }
  std::ranges::reverse(path_);
  std::ranges::reverse(crossed_);
  std::ranges::reverse(kinks_);
  for (Crossed& each : crossed_) each.bend = static_cast<std::uint32_t>(path_.size()) - 1 - each.bend;
}

/// Adds a bend, unless it is the last one.
void MeshSearch::add(const Bend& bend, const Kink& kink) {
  if (path_.back().at == bend.at) return;
  path_.push_back(bend);
  kinks_.push_back(kink);
}

}  // namespace ambulon
