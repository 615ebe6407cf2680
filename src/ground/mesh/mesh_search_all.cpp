// `MeshSearch::find_all`: one search for the paths from one place to many.

#include <algorithm>
#include <utility>

#include <glm/common.hpp>
#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_search.hpp"

namespace ambulon {
namespace {

constexpr std::uint64_t looks_every = 32;  // expansions between two tests that all ends are reached

}  // namespace

/// The heuristic aims at a circle that contains all ends.
void MeshSearch::find_all(const ConvexMesh& mesh, const Place& from, std::span<const Place> ends) {
  start(mesh, from, no_crossings());
  dvec2 low(std::numeric_limits<double>::infinity()), high = -low;
  for (std::uint32_t i = 0; i < ends.size(); ++i) {
    ends_.push_back({.place = ends[i]});
    if (mesh.component(ends[i].polygon) != mesh.component(from.polygon)) continue;
    if (ends[i].polygon == from.polygon) {
      ends_[i].length = static_cast<double>(cost_of(from.polygon)) * glm::distance(from.at, ends[i].at);
      if (cost_of(from.polygon) <= 1.f) continue;
    }
    ends_by_polygon_.emplace_back(ends[i].polygon, i);
    low = glm::min(low, ends[i].at), high = glm::max(high, ends[i].at);
    mesh.each_pocket_from(ends[i].polygon, [&](std::uint32_t pocket) { around_goal_.push_back(pocket); });
  }
  if (ends_by_polygon_.empty()) return;
  std::ranges::sort(ends_by_polygon_);
  std::ranges::sort(around_goal_);
  around_goal_.erase(std::ranges::unique(around_goal_).begin(), around_goal_.end());
  to_ = {0.5 * (low + high), none};
  around_ = 0.5 * glm::distance(low, high);
  little_ = 0;
  see_everything(mesh.polygons()[from.polygon].first, mesh.polygons()[from.polygon].count,
                 {.root = none, .to_root = 0, .parent = none, .cost = cost_of(from.polygon)});
  reach_ends();
}

/// Expands until no open node can improve the path to any end.
void MeshSearch::reach_ends() {
  double longest = std::numeric_limits<double>::infinity();  // upper bound of the known lengths
  bool shorter = false;
  while (min_open() < longest) {
    const std::uint32_t next = take_best();
    if (next == none) return;
    if (overtaken(nodes_[next])) continue;
    if (on_border(nodes_[next])) {
      ++expanded_;
      leave_border(next);
      continue;
    }
    shorter |= come_to(next);
    if (++expanded_ % looks_every == 0 && std::exchange(shorter, false)) {
      longest = 0;
      for (const auto& [polygon, end] : ends_by_polygon_) longest = std::max(longest, ends_[end].length);
    }
    expand(next);
  }
}

/// Records the paths to the ends in the polygon of a node. Returns true if one became shorter.
bool MeshSearch::come_to(std::uint32_t number) {
  const Node& node = nodes_[number];
  const std::uint32_t polygon = mesh_->sides()[node.side].polygon;
  bool shorter = false;
  for (auto each = std::ranges::lower_bound(ends_by_polygon_, std::pair(polygon, std::uint32_t{0}));
       each != ends_by_polygon_.end() && each->first == polygon; ++each) {
    End& end = ends_[each->second];
    dvec2 by;
    const double length = length_by(node, end.place, by);
    if (length >= end.length) continue;
    end.length = length;
    end.last = number;
    shorter = true;
  }
  return shorter;
}

/// Returns the lowest estimate of all open nodes.
double MeshSearch::min_open() const {
  double min = std::numeric_limits<double>::infinity();
  if (in_hand_.node != none) min = in_hand_.estimate;
  return open_.empty() ? min : std::min(min, open_.front().estimate);
}

bool MeshSearch::way_to(std::size_t number) {
  const End& end = ends_[number];
  path_.clear(), kinks_.clear();
  if (end.length == std::numeric_limits<double>::infinity()) return false;
  if (end.last != none) {
    finish(end.last, end.place);
  } else {
    length_ = end.length;
    path_.assign({bend_in(*mesh_, from_), bend_in(*mesh_, end.place)});
    kinks_.assign({Kink{none, cost_of(from_.polygon)}, Kink{}});
  }
  return true;
}

}  // namespace ambulon
