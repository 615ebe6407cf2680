#include "rings.hpp"

#include <algorithm>

#include "ground/mesh/patch.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {

Outlines rings_of(std::vector<std::pair<PlanPoint, PlanPoint>> edges) {
  using Edge = std::pair<PlanPoint, PlanPoint>;
  std::ranges::sort(edges);
  const auto first_from = [&](PlanPoint point) {
    return static_cast<std::size_t>(std::ranges::lower_bound(edges, point, {}, &Edge::first) - edges.begin());
  };
  std::vector<std::size_t> used(edges.size());  // at the first edge of a point: number of its used edges
  Outlines rings;
  for (std::size_t start = 0; start < edges.size(); ++start) {
    const PlanPoint begin = edges[start].first;
    if (const std::size_t first = first_from(begin); start - first < used[first]) continue;
    std::vector<PlanPoint>& ring = rings.emplace_back();
    for (PlanPoint point = begin; ring.empty() || point != begin;) {
      ring.push_back(point);
      const std::size_t first = first_from(point);
      point = edges[first + used[first]++].second;
    }
  }
  return rings;
}

}  // namespace ambulon
