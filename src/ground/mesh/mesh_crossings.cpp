#include "ground/mesh/mesh_crossings.hpp"

#include <algorithm>
#include <utility>

#include "ground/mesh/convex_mesh.hpp"

namespace ambulon {

MeshCrossings::MeshCrossings(const ConvexMesh& mesh, std::vector<MeshCrossing> crossings)
    : crossings_(std::move(crossings)) {
  if (crossings_.empty()) return;
  first_.assign(mesh.polygons().size(), none);
  next_.resize(crossings_.size());
  for (std::uint32_t i = static_cast<std::uint32_t>(crossings_.size()); i-- > 0;)
    next_[i] = std::exchange(first_[crossings_[i].from.polygon], i);
  leads_.resize(mesh.polygons().size());
  for (const MeshCrossing& crossing : crossings_)
    mesh.each_pocket_from(crossing.from.polygon, [&](std::uint32_t pocket) { leads_[pocket] = true; });
  std::vector<std::pair<std::uint32_t, std::uint32_t>> links;
  for (const MeshCrossing& crossing : crossings_) {
    const std::uint32_t from = mesh.component(crossing.from.polygon),
                        to = mesh.component(crossing.to.polygon);
    if (from != to) links.emplace_back(from, to);
  }
  std::ranges::sort(links);
  links.erase(std::unique(links.begin(), links.end()), links.end());
  first_out_.assign(mesh.component_count() + 1, 0);
  for (const auto& [from, to] : links) {
    ++first_out_[from + 1];
    out_.push_back(to);
  }
  for (std::size_t i = 1; i < first_out_.size(); ++i) first_out_[i] += first_out_[i - 1];
  find_regions(mesh);
}

/// Strongly connected components, iteratively: R. Tarjan, "Depth-First Search and Linear Graph Algorithms"
/// (1972).
void MeshCrossings::find_regions(const ConvexMesh& mesh) {
  const auto count = static_cast<std::uint32_t>(mesh.component_count());
  region_of_.assign(count, none);
  std::vector<std::uint32_t> number(count, none), lowest(count), path, going;
  std::vector<std::uint32_t> at(count);  // the next outgoing link
  std::uint32_t numbered = 0;
  const auto enter = [&](std::uint32_t node) {
    number[node] = lowest[node] = numbered++;
    at[node] = first_out_[node];
    path.push_back(node), going.push_back(node);
  };
  for (std::uint32_t start = 0; start < count; ++start) {
    if (number[start] != none) continue;
    enter(start);
    while (!going.empty()) {
      const std::uint32_t node = going.back();
      if (at[node] < first_out_[node + 1]) {
        const std::uint32_t next = out_[at[node]++];
        if (number[next] == none)
          enter(next);
        else if (region_of_[next] == none)
          lowest[node] = std::min(lowest[node], number[next]);
        continue;
      }
      going.pop_back();
      if (!going.empty()) lowest[going.back()] = std::min(lowest[going.back()], lowest[node]);
      if (lowest[node] != number[node]) continue;
      for (std::uint32_t member = none; member != node;) {
        member = path.back();
        path.pop_back();
        region_of_[member] = node;
      }
    }
  }
}

bool MeshCrossings::reachable(const ConvexMesh& mesh, std::uint32_t from, std::uint32_t to,
                              Reached& reached) const {
  if (region(mesh, from) == region(mesh, to)) return true;
  if (crossings_.empty()) return false;
  reach_from(mesh, from, reached);
  return reached.components[mesh.component(to)];
}

void MeshCrossings::reach_from(const ConvexMesh& mesh, std::span<const std::uint32_t> polygons,
                               Reached& reached) const {
  reached.components.assign(mesh.component_count(), false);
  reached.open.clear();
  for (const std::uint32_t polygon : polygons) {
    const std::uint32_t component = mesh.component(polygon);
    if (reached.components[component]) continue;
    reached.components[component] = true;
    reached.open.push_back(component);
  }
  while (!reached.open.empty() && !crossings_.empty()) {
    const std::uint32_t component = reached.open.back();
    reached.open.pop_back();
    for (std::uint32_t i = first_out_[component]; i < first_out_[component + 1]; ++i) {
      if (reached.components[out_[i]]) continue;
      reached.components[out_[i]] = true;
      reached.open.push_back(out_[i]);
    }
  }
}

}  // namespace ambulon
