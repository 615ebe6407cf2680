#include "shells.hpp"

#include <algorithm>
#include <numeric>
#include <optional>
#include <tuple>
#include <utility>

#include <glm/ext/vector_double3.hpp>

#include "ground/mesh/level_index.hpp"
#include "ground/mesh/millimetres.hpp"

namespace ambulon {
namespace {

constexpr std::uint32_t no_shell = LevelIndex::Facet::no_shell;

/// An undirected edge of a triangle.
struct Edge {
  std::uint32_t low, high;  // corners
  std::uint32_t triangle;
  int way;  // direction of the triangle's edge: 1 from `low` to `high`, -1 reversed
};

class Pieces {
 public:
  explicit Pieces(std::span<const SolidTriangle> triangles) : triangles_(triangles) {
    number_corners();
    list_edges();
    parent_.resize(triangles.size());
    std::iota(parent_.begin(), parent_.end(), 0U);
    each_edge([&](std::span<const Edge> same) {
      if (same.size() == 2) unite(same[0].triangle, same[1].triangle);
    });
    find_faults();
    each_edge([&](std::span<const Edge> same) {
      if (same.size() == 2) return;
      std::uint32_t other = no_shell;
      for (const Edge& edge : same) {
        if (!fault_[root(edge.triangle)]) continue;
        if (other != no_shell) unite(other, edge.triangle);
        other = edge.triangle;
      }
    });
    find_faults();
  }

  Shells shells() {
    Shells shells;
    std::vector<double> volume(triangles_.size());
    std::vector<std::uint32_t> count(triangles_.size());
    for (std::uint32_t i = 0; i < triangles_.size(); ++i) {
      volume[root(i)] += volume_over(i, triangles_[root(i)][0]);
      ++count[root(i)];
    }
    std::vector<std::uint32_t> number(triangles_.size(), no_shell);
    std::uint32_t next = 0;
    shells.of.resize(triangles_.size(), no_shell);
    for (std::uint32_t i = 0; i < triangles_.size(); ++i) {
      const std::uint32_t piece = root(i);
      if (!fault_[piece] && volume[piece] > 0) {
        if (number[piece] == no_shell) number[piece] = next++;
        shells.of[i] = number[piece];
      } else if (count[piece] > 0) {
        shells.open.push_back({.first_triangle = i,
                               .triangles = std::exchange(count[piece], 0U),
                               .fault = fault_[piece].value_or(
                                   volume[piece] < 0 ? OpenPiece::Fault::inside_out : OpenPiece::Fault::flat),
                               .at = place_of(piece, i)});
      }
    }
    return shells;
  }

 private:
  void number_corners() {
    std::vector<std::uint32_t> order(3 * triangles_.size());
    std::iota(order.begin(), order.end(), 0U);
    const auto at = [&](std::uint32_t corner) { return triangles_[corner / 3][corner % 3]; };
    std::ranges::sort(order, {}, at);
    corners_.resize(order.size());
    for (std::size_t i = 0; i < order.size(); ++i)
      corners_[order[i]] = i > 0 && at(order[i]) == at(order[i - 1]) ? corners_[order[i - 1]] : order[i];
  }

  void list_edges() {
    edges_.reserve(corners_.size());
    for (std::uint32_t i = 0; i < triangles_.size(); ++i) {
      const std::array<std::uint32_t, 3> corners = {corners_[3 * i], corners_[3 * i + 1],
                                                    corners_[3 * i + 2]};
      if (corners[0] == corners[1] || corners[1] == corners[2] || corners[2] == corners[0]) continue;
      for (std::size_t k = 0; k < 3; ++k) {
        const std::uint32_t a = corners[k], b = corners[(k + 1) % 3];
        edges_.push_back({std::min(a, b), std::max(a, b), i, a < b ? 1 : -1});
      }
    }
    std::ranges::sort(edges_, {},
                      [](const Edge& edge) { return std::tuple(edge.low, edge.high, edge.triangle); });
  }

  /// Calls `visit(edges)` for all edges between the same corners.
  template <class Visit>
  void each_edge(Visit&& visit) const {
    for (std::size_t i = 0, end = 0; i < edges_.size(); i = end) {
      while (end < edges_.size() && edges_[end].low == edges_[i].low && edges_[end].high == edges_[i].high)
        ++end;
      visit(std::span(edges_).subspan(i, end - i));
    }
  }

  std::uint32_t root(std::uint32_t triangle) {
    while (parent_[triangle] != triangle) triangle = parent_[triangle] = parent_[parent_[triangle]];
    return triangle;
  }
  void unite(std::uint32_t a, std::uint32_t b) {
    a = root(a), b = root(b);
    parent_[std::max(a, b)] = std::min(a, b);
  }

  /// Finds the first unbalanced edge of each piece.
  void find_faults() {
    fault_.assign(triangles_.size(), {});
    faulty_edge_.assign(triangles_.size(), {});
    std::vector<std::pair<std::uint32_t, int>> ways;  // piece and direction
    each_edge([&](std::span<const Edge> same) {
      ways.clear();
      for (const Edge& edge : same) ways.emplace_back(root(edge.triangle), edge.way);
      std::ranges::sort(ways);
      for (std::size_t i = 0, end = 0; i < ways.size(); i = end) {
        int sum = 0;
        for (; end < ways.size() && ways[end].first == ways[i].first; ++end) sum += ways[end].second;
        const std::uint32_t piece = ways[i].first;
        if (sum == 0 || fault_[piece]) continue;
        fault_[piece] = same.size() % 2 == 1 ? OpenPiece::Fault::hole : OpenPiece::Fault::winding;
        faulty_edge_[piece] = {same[0].low, same[0].high};
      }
    });
  }

  /// Returns six times the volume between a triangle and a point near it.
  double volume_over(std::uint32_t triangle, const std::array<int, 3>& point) const {
    std::array<std::array<double, 3>, 3> off{};
    for (std::size_t i = 0; i < 3; ++i)
      for (std::size_t axis = 0; axis < 3; ++axis)
        off[i][axis] = static_cast<double>(triangles_[triangle][i][axis]) - point[axis];
    const auto& [a, b, c] = off;
    return a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) +
           a[2] * (b[0] * c[1] - b[1] * c[0]);
  }

  /// Returns the centre of the faulty edge, or a corner.
  vec3 place_of(std::uint32_t piece, std::uint32_t triangle) const {
    const auto metres = [&](std::uint32_t corner) {
      const auto& at = triangles_[corner / 3][corner % 3];
      return glm::dvec3(at[0], at[1], at[2]) / per_metre;
    };
    if (!fault_[piece]) return metres(3 * triangle);
    return 0.5 * (metres(faulty_edge_[piece].first) + metres(faulty_edge_[piece].second));
  }

  std::span<const SolidTriangle> triangles_;
  std::vector<std::uint32_t> corners_;  // three per triangle; equal positions have one number
  std::vector<Edge> edges_;
  std::vector<std::uint32_t> parent_;  // union-find of triangles; the root is the first one
  std::vector<std::optional<OpenPiece::Fault>> fault_;
  std::vector<std::pair<std::uint32_t, std::uint32_t>> faulty_edge_;
};

}  // namespace

Shells find_shells(std::span<const SolidTriangle> triangles) { return Pieces(triangles).shells(); }

std::string_view name(OpenPiece::Fault fault) {
  switch (fault) {
    case OpenPiece::Fault::hole:
      return "an edge has only one triangle";
    case OpenPiece::Fault::winding:
      return "triangles at an edge face opposite ways";
    case OpenPiece::Fault::inside_out:
      return "its triangles face inwards";
    case OpenPiece::Fault::flat:
      break;
  }
  return "it encloses no volume";
}

}  // namespace ambulon
