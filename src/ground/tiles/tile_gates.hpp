#pragma once

#include <array>
#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ground/tiles/bucket_queue.hpp"
#include "ground/tiles/tile_search.hpp"

namespace ambulon {

/// A second, coarser level over a large tile map: clusters of cells, the gates between them, and how far
/// it is from gate to gate through each cluster. A cluster is measured when a search first comes by, and
/// again after a change in it. For one thread at a time.
/// A. Botea, M. Müller and J. Schaeffer, "Near Optimal Hierarchical Path-Finding" (2004).
class TileGates {
 public:
  static constexpr int cluster_size = 64;  ///< cells to a side of a cluster

  /// `map` must outlive it.
  explicit TileGates(const TileMap& map,
                     std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// To be called after cells in `box` of the map have changed.
  void changed(CellBox box);
  /// Measures all clusters now, so that no search has to.
  void build();

  const TileMap& map() const { return map_; }
  /// Clusters that are measured at present.
  std::size_t measured() const { return measured_; }

 private:
  friend class TileFarSearch;

  /// A cell of a cluster's border, from which one steps to the cell beyond.
  struct Gate {
    Cell cell, beyond;
    std::uint32_t partner;  // the number of the gate that one enters beyond
  };
  struct Cluster {
    explicit Cluster(std::pmr::memory_resource* memory) : gates(memory), lengths(memory) {}
    std::pmr::vector<Gate> gates;  // side by side: east, north, west, south; then the corners from north-east
    std::array<std::uint32_t, 8> first{};  // gate of each side and corner
    std::pmr::vector<float> lengths;       // from gate to gate through the cluster, row by row
    bool listed = false, measured = false;
  };

  // A gate is numbered by its cluster, its side and its place there, which are the same for both of its
  // sides.
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
  /// How far it is from `from` to `goals`, cells of its cluster, without leaving it; asked with `length_to`.
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
  std::array<double, std::size_t{cluster_size} * cluster_size> lengths_{};  // of the latest flood
  BucketQueue open_;
};

/// Finds ways through large maps. What a search can find with little work is found so, and exactly. A longer
/// way is planned from gate to gate, and laid through the cells leg by leg as one comes to them, so that the
/// first steps are known early; it is a little longer than the shortest, where it was measured by up to 1 %.
/// Its memory is reused.
class TileFarSearch {
 public:
  explicit TileFarSearch(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : nodes_(memory), open_(memory), stations_(memory), exits_(memory), search_(memory) {}

  /// Plans the way; true when there is one. Cells outside or blocked have none. `exact` is how many
  /// expansions are spent on finding it exactly.
  bool plan(TileGates& gates, Cell from, Cell to, std::uint64_t exact = 16'384);
  /// Appends the next leg to `cells`, without its first cell, which is the last of the leg before (the start,
  /// for the first leg); by turns, as `TileSearch::path`. False, and nothing appended, once all have been
  /// given.
  bool next_leg(std::pmr::vector<Cell>& cells);

  /// The length of the legs given so far, in cells, as of `TileSearch::length`.
  double length() const { return length_; }
  /// Cells and gates taken from open lists since the plan began.
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
  std::pmr::vector<Node> nodes_;  // of gates, as they are entered, by their numbers
  BucketQueue open_;
  std::uint32_t search_number_ = 0;
  double best_ = 0;
  std::uint32_t best_parent_ = none;
  std::pmr::vector<Cell> stations_;  // cells where clusters are entered, then the goal
  std::pmr::vector<double> exits_;   // from the goal to the gates of its cluster
  std::size_t next_station_ = 0;
  TileSearch search_;
  double length_ = 0;
  std::uint64_t expanded_ = 0;
};

}  // namespace ambulon
