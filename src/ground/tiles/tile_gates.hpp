#pragma once

#include <array>
#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ground/tiles/bucket_queue.hpp"
#include "ground/tiles/tile_search.hpp"

namespace ambulon {

/// A second level over a large tile map: clusters of cells, gates between them, and the distances between the
/// gates of each cluster. Distances are computed at the first search, and again after a change in the
/// cluster. Not thread-safe.
///
/// A. Botea, M. Müller, J. Schaeffer, "Near Optimal Hierarchical Path-Finding" (2004).
class TileGates {
 public:
  static constexpr int cluster_size = 64;  ///< cells: edge of a cluster

  /// `map` must outlive it.
  explicit TileGates(const TileMap& map,
                     std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// Call it after cells in `box` of the map have changed.
  void changed(CellBox box);
  /// Computes all clusters now.
  void build();

  const TileMap& map() const { return map_; }
  /// Returns the number of clusters whose distances are known.
  std::size_t measured() const { return measured_; }

 private:
  friend class TileFarSearch;

  /// A cell at the border of a cluster, and the cell beyond the border.
  struct Gate {
    Cell cell, beyond;
    std::uint32_t partner;  // number of the gate on the other side
  };
  struct Cluster {
    explicit Cluster(std::pmr::memory_resource* memory) : gates(memory), lengths(memory) {}
    std::pmr::vector<Gate> gates;  // by side: east, north, west, south; then corners from the north-east
    std::array<std::uint32_t, 8> first{};  // first gate of each side and corner
    std::pmr::vector<float> lengths;       // between the gates of the cluster, row by row
    bool listed = false, measured = false;
  };

  // A gate's number is its cluster, side and position on the side. The position is the same on both sides of
  // a border.
  static constexpr std::uint32_t gates_of_side = cluster_size, corners_from = 4 * gates_of_side,
                                 numbers = corners_from + 4;
  static std::size_t index_in(const Cluster& cluster, std::uint32_t gate) {
    const std::uint32_t number = gate % numbers;
    return number < corners_from ? cluster.first[number / gates_of_side] + number % gates_of_side
                                 : cluster.first[4 + number - corners_from];
  }

  std::uint32_t cluster_at(Cell cell) const {
    return static_cast<std::uint32_t>(cell.y / cluster_size * across_ + cell.x / cluster_size);
  }
  Cell corner_of(std::uint32_t cluster) const {
    const int number = static_cast<int>(cluster);
    return {number % across_ * cluster_size, number / across_ * cluster_size};
  }
  Cluster& listed(std::uint32_t number);
  const Cluster& measured(std::uint32_t number);
  void list_gates(Cluster& cluster, Cell corner);
  void list_side(Cluster& cluster, std::uint32_t side, Cell first);
  void list_diagonals(Cluster& cluster, std::uint32_t side, Cell first);
  void list_corner(Cluster& cluster, std::uint32_t corner, Cell cell);
  bool only_diagonal(Cell from, Cell to) const;
  /// Computes the distances from `from` to `goals`, cells of its cluster, within the cluster; read them with
  /// `length_to`.
  void flood(Cell from, std::span<const Gate> goals);
  double length_to(Cell cell) const;
  static std::size_t place_in(Cell cell) {
    return static_cast<std::size_t>(cell.y % cluster_size) * cluster_size +
           static_cast<std::size_t>(cell.x % cluster_size);
  }

  const TileMap& map_;
  int across_, up_;  // clusters
  std::pmr::vector<Cluster> clusters_;
  std::size_t measured_ = 0;
  std::array<double, std::size_t{cluster_size} * cluster_size> lengths_{};  // of the last flood
  BucketQueue open_;
};

/// Finds routes on large maps. Short ones are exact. Longer ones are planned over gates, and computed cell by
/// cell for one leg after the other, so the first leg is known early. They are up to 1 % longer than the
/// shortest (measured). Its memory is reused.
class TileFarSearch {
 public:
  explicit TileFarSearch(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : nodes_(memory), open_(memory), stations_(memory), exits_(memory), search_(memory) {}

  /// Plans a route. Returns false if there is none, or if a cell is blocked or outside. `exact`: expansions
  /// spent on an exact search first.
  bool plan(TileGates& gates, Cell from, Cell to, std::uint64_t exact = 16'384);
  /// Appends the next leg to `cells` without its first cell, which ends the previous leg (for the first leg:
  /// the start). The cells are those where the route turns, as in `TileSearch::path`. Returns false, and
  /// appends nothing, after the last leg.
  bool next_leg(std::pmr::vector<Cell>& cells);

  /// Returns the length of the legs so far in cells, as `TileSearch::length`.
  double length() const { return length_; }
  /// Returns the nodes expanded since the plan began: cells and gates.
  std::uint64_t expanded() const { return expanded_; }

 private:
  struct Node {
    double length = 0;
    std::uint32_t parent = 0;
    std::uint32_t search = 0;
  };
  static constexpr std::uint32_t none = ~std::uint32_t{0};

  Cell cell_of(std::uint32_t node);
  void relax(std::uint32_t node, std::uint32_t parent, double length, Cell cell);
  void expand(std::uint32_t node);
  bool plan_by_gates();
  void leave(const TileGates::Gate& out, std::uint32_t parent, double length);

  TileGates* gates_ = nullptr;
  Cell from_, to_, here_;
  std::pmr::vector<Node> nodes_;  // by gate, in the order of their discovery
  BucketQueue open_;
  std::uint32_t search_number_ = 0;
  double best_ = 0;
  std::uint32_t best_parent_ = none;
  std::pmr::vector<Cell> stations_;  // cells where the route enters clusters, then the goal
  std::pmr::vector<double> exits_;   // from the goal to the gates of its cluster
  std::size_t next_station_ = 0;
  TileSearch search_;
  double length_ = 0;
  std::uint64_t expanded_ = 0;
};

}  // namespace ambulon
