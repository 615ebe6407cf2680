#include "ambulon/ground/mesh/mesh_search.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

namespace ambulon {
namespace {

constexpr double hair = 1e-5;  // millimetres: what lies closer to a line counts as on it

/// How far a point lies to the left of the ray from `from` through `by`, two points that are apart.
double left_of(dvec2 from, dvec2 by, dvec2 point) {
  return cross(by - from, point - from) / glm::distance(from, by);
}

/// The unit vector from point to point, which are apart.
dvec2 heading(dvec2 from, dvec2 to) { return (to - from) / glm::distance(from, to); }

bool same(dvec2 a, dvec2 b) { return glm::dot(a - b, a - b) < hair * hair; }

/// Where a stretch is cut whose ends lie so far to the left of a line, on different sides of it.
dvec2 cut(dvec2 a, double of_a, dvec2 b, double of_b) { return a + of_a / (of_a - of_b) * (b - a); }

}  // namespace

void MeshSearch::begin(const ConvexMesh& mesh, const Place& from, const Place& to) {
  mesh_ = &mesh, from_ = from, to_ = to;
  length_ = 0;
  expanded_ = 0;
  nodes_.clear(), open_.clear(), path_.clear();
  in_hand_.node = none;
  if (bends_.size() < mesh.corners().size()) bends_.resize(mesh.corners().size());
  if (turned_.size() < 2 * mesh.sides().size()) turned_.resize(2 * mesh.sides().size());
  if (++search_ == 0) {  // all numbers have been used
    std::ranges::fill(bends_, Best{});
    std::ranges::fill(turned_, Best{});
    search_ = 1;
  }
  const auto polygons = mesh.polygons();
  state_ = State::no_way;
  if (mesh.component(from.polygon) != mesh.component(to.polygon)) return;
  if (from.polygon == to.polygon) {
    length_ = glm::distance(from.at, to.at);
    path_.assign({bend_in(mesh, from), bend_in(mesh, to)});
    state_ = State::found;
    return;
  }
  state_ = State::searching;
  see_everything(polygons[from.polygon].first, polygons[from.polygon].count,
                 {.root = none, .to_root = 0, .parent = none});
}

MeshSearch::State MeshSearch::go_on(std::uint64_t expansions) {
  for (std::uint64_t done = 0; state_ == State::searching && done < expansions;) {
    const std::uint32_t next = take_best();
    if (next == none) return state_ = State::no_way;  // the polygons are joined, so this is never met
    const Node& node = nodes_[next];
    if (node.root != none && node.to_root > bends_[node.root].length + hair)
      continue;  // there is a shorter way to it
    ++done, ++expanded_;
    if (mesh_->sides()[node.side].polygon == to_.polygon)
      finish(next);
    else
      expand(next);
  }
  return state_;
}

/// The number of the open node with the least estimate; `none` when there is none. What comes in between two
/// calls is mostly one node that is the best of all, which need not go through the heap.
std::uint32_t MeshSearch::take_best() {
  if (in_hand_.node != none && (open_.empty() || !Later()(in_hand_, open_.front())))
    return std::exchange(in_hand_.node, none);
  if (in_hand_.node != none) put_off(in_hand_);
  in_hand_.node = none;
  if (open_.empty()) return none;
  std::ranges::pop_heap(open_, Later());
  const std::uint32_t best = open_.back().node;
  open_.pop_back();
  return best;
}

void MeshSearch::put_off(const Open& open) {
  open_.push_back(open);
  std::ranges::push_heap(open_, Later());
}

/// Where the shortest line from a root to the goal by way of a stretch passes it, if nothing else is in the
/// way.
dvec2 MeshSearch::passes(dvec2 root, dvec2 left, dvec2 right) const {
  const dvec2 along = right - left;
  const double of_root = cross(along, root - left), of_goal = cross(along, to_.at - left),
               square = glm::dot(along, along);
  if (of_root * of_root < hair * hair * square) return nearest_on(left, right, root);
  // A goal on the same side as the root is as far as its image beyond the line.
  const bool same_side = of_root * of_goal > 0;
  const dvec2 goal = same_side ? to_.at - 2 * of_goal / square * dvec2(-along.y, along.x) : to_.at;
  if (cross(left - root, goal - root) >= 0) return left;
  if (cross(right - root, goal - root) <= 0) return right;
  return cut(root, of_root, goal, same_side ? -of_goal : of_goal);
}

/// Whether to go on around a root that is an end of the next side: not when that has been done before, since
/// it may be surrounded by polygons.
bool MeshSearch::turns_on(std::size_t end, const Seen& seen) {
  Best& turned = turned_[end];
  if (turned.search == search_ && seen.to_root > turned.length - hair) return false;
  turned = {seen.to_root, search_};
  return true;
}

void MeshSearch::push(dvec2 left, dvec2 right, std::uint32_t side, const Seen& seen) {
  const std::uint32_t entered = mesh_->sides()[side].across;
  if (entered == ConvexMesh::none || same(left, right)) return;
  const std::uint32_t polygon = mesh_->sides()[entered].polygon;
  if (polygon != to_.polygon && mesh_->polygons()[polygon].ways == 1) return;  // nothing but the way back
  const dvec2 root = root_of(seen.root), by = passes(root, left, right);
  const bool about_left = same(left, root);
  if ((about_left || same(right, root)) && !turns_on(2 * entered + (about_left ? 1 : 0), seen)) return;
  nodes_.push_back({left, right, entered, seen.root, seen.to_root, seen.parent});
  Open open{seen.to_root + glm::distance(root, by) + glm::distance(by, to_.at),
            static_cast<std::uint32_t>(nodes_.size() - 1)};
  if (in_hand_.node == none || Later()(in_hand_, open)) std::swap(open, in_hand_);
  if (open.node != none) put_off(open);
}

/// From a root on the rim of a polygon: all its sides but the one before the first.
void MeshSearch::see_everything(std::uint32_t first, std::uint32_t count, const Seen& seen) {
  for (std::uint32_t side = first, i = 0; i < count; ++i, side = mesh_->after(side))
    push(mesh_->end_of(side), mesh_->start_of(side), side, seen);
}

/// The corner of the mesh that the end of a stretch is, when a way can bend round it; and no shorter one to
/// it is known. Then it is the root of what is seen from there.
bool MeshSearch::bends_at(dvec2 end, std::uint32_t corner, Seen& seen) {
  const ConvexMesh::Corner& at = mesh_->corners()[corner];
  if (!at.bend || at.at != end) return false;
  seen.to_root += glm::distance(root_of(seen.root), end);
  seen.root = corner;
  Best& bend = bends_[corner];
  if (bend.search == search_ && seen.to_root > bend.length + hair) return false;
  if (bend.search != search_ || seen.to_root < bend.length) bend = {seen.to_root, search_};
  return true;
}

void MeshSearch::expand(std::uint32_t number) {
  const Node node = nodes_[number];
  const dvec2 root = root_of(node.root);
  const Seen straight{node.root, node.to_root, number};
  Seen left = straight, right = straight;
  const std::uint32_t first = mesh_->after(node.side);
  if (left_of(mesh_->start_of(node.side), mesh_->end_of(node.side), root) <= -hair) {
    const bool round_left = bends_at(node.left, mesh_->sides()[node.side].corner, left),
               round_right = bends_at(node.right, mesh_->sides()[first].corner, right);
    look_through(node, straight, round_left ? &left : nullptr, round_right ? &right : nullptr);
    return;
  }
  // The root lies on the line of the side: on the stretch itself, or beyond one of its ends.
  const std::uint32_t count = mesh_->polygons()[mesh_->sides()[node.side].polygon].count - 1;
  const dvec2 nearest = nearest_on(node.left, node.right, root);
  if (glm::distance(nearest, root) < hair)
    see_everything(first, count, straight);
  else if (nearest == node.left ? bends_at(node.left, mesh_->sides()[node.side].corner, left)
                                : bends_at(node.right, mesh_->sides()[first].corner, right))
    see_everything(first, count, nearest == node.left ? left : right);
}

/// What of the polygon's other sides is seen through the stretch by which one enters: to the right of it what
/// lies behind the right end, when one may bend there, then what lies in sight, then what lies behind the
/// left end.
void MeshSearch::look_through(const Node& node, const Seen& straight, const Seen* left, const Seen* right) {
  const dvec2 root = root_of(node.root);
  const dvec2 by_left = heading(root, node.left), by_right = heading(root, node.right);
  const ConvexMesh::Polygon& polygon = mesh_->polygons()[mesh_->sides()[node.side].polygon];
  const auto after = [&](std::uint32_t at) {
    return at + 1 == polygon.first + polygon.count ? polygon.first : at + 1;
  };
  std::uint32_t side = after(node.side);
  // Each side from right to left; how far its ends lie to the left of the rays by both ends of the stretch.
  dvec2 b = mesh_->start_of(side);
  double left_b = cross(by_left, b - root), right_b = cross(by_right, b - root);
  for (std::uint32_t next = 0; side != node.side; side = next) {
    next = after(side);
    const dvec2 a = b;
    const double left_a = left_b, right_a = right_b;
    b = mesh_->start_of(next);
    left_b = cross(by_left, b - root), right_b = cross(by_right, b - root);
    if (mesh_->sides()[side].across == ConvexMesh::none) continue;
    dvec2 from = a;
    if (right_a < -hair || right_b < -hair) {
      from = right_b <= hair ? b : cut(a, right_a, b, right_b);
      if (right != nullptr) push(from, a, side, *right);
      if (right_b <= hair) continue;
    }
    if (left_a < -hair) {
      const dvec2 to = left_b <= hair ? b : cut(a, left_a, b, left_b);
      push(to, from, side, straight);
      if (left_b <= hair) continue;
      from = to;
    }
    if (left != nullptr)
      push(b, from, side, *left);
    else if (left_a <= hair && left_b <= hair)
      push(b, from, side, straight);  // it is seen along a wall
  }
}

MeshSearch::Bend MeshSearch::bend_of(std::uint32_t root) const {
  if (root == none) return bend_in(*mesh_, from_);
  return {mesh_->corners()[root].at, static_cast<double>(mesh_->corners()[root].height)};
}

/// The goal lies in the polygon that the way enters.
void MeshSearch::finish(std::uint32_t number) {
  const Node& last = nodes_[number];
  const dvec2 root = root_of(last.root), by = passes(root, last.left, last.right);
  length_ = last.to_root + glm::distance(root, by) + glm::distance(by, to_.at);
  path_.push_back(bend_in(*mesh_, to_));
  if (by != to_.at && (by == last.left || by == last.right))
    path_.push_back(bend_in(*mesh_, {by, to_.polygon}));
  std::uint32_t bend = last.root;
  for (std::uint32_t at = number; bend != none; at = nodes_[at].parent) {
    if (nodes_[at].root != bend) bend = nodes_[at].root;
    if (path_.back().at != root_of(bend)) path_.push_back(bend_of(bend));
  }
  if (path_.back().at != from_.at || path_.size() == 1) path_.push_back(bend_in(*mesh_, from_));
  std::ranges::reverse(path_);
  state_ = State::found;
}

}  // namespace ambulon
