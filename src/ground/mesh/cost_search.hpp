#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>
#include <utility>
#include <vector>

#include "base/dvec2.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/mesh_search.hpp"

namespace ambulon {

/// Finds cheap paths over a mesh whose polygons have different costs. The cost exceeds the minimum by at most
/// 2 % and a few centimetres.
///
/// The search graph consists of points on the sides, at most 0.3 m apart (L. Aleksandrov, A. Maheshwari,
/// J.-R. Sack, "Determining Approximate Shortest Paths on Weighted Polyhedral Surfaces", 2005). There are
/// more points near the start and the goal, and where the straight line to the goal crosses a side. Then each
/// point of the path is moved along its side to the minimum of the total cost. Memory is reused; use one
/// object per thread.
class CostSearch {
 public:
  explicit CostSearch(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : points_(memory),
        first_(memory),
        open_(memory),
        landed_(memory),
        trail_(memory),
        path_(memory),
        crossed_(memory) {}

  /// Returns true if there is a path. `crossings` belong to the mesh.
  bool find(const ConvexMesh& mesh, const MeshSearch::Place& from, const MeshSearch::Place& to,
            const MeshCrossings& crossings);

  /// The same, for paths that do not cross a line and cost at most `max` millimetres.
  bool find_round(const ConvexMesh& mesh, const MeshSearch::Place& from, const MeshSearch::Place& to,
                  const MeshCrossings& crossings, const ClosedLine& line, double max);

  /// Returns the cost of the path: millimetres times the cost of the ground, plus the cost of crossings.
  double length() const { return length_; }
  std::span<const MeshSearch::Bend> path() const { return path_; }
  std::span<const MeshSearch::Crossed> crossed() const { return crossed_; }
  /// Search nodes (points) expanded.
  std::uint64_t expanded() const { return expanded_; }

 private:
  static constexpr std::uint32_t none = ~std::uint32_t{0};

  /// A node: a point on a side, an end of the path, or an end of a crossing.
  struct Point {
    dvec2 at{0.0};
    double cost = 0;               // of the path to it
    std::uint32_t side = none;     // `none`: it is inside `polygon`
    std::uint32_t polygon = none;  // over which it is reached
    std::uint32_t parent = none;
    std::uint32_t crossing = none;  // over which it is reached
    bool done = false;
  };
  struct Open {
    double estimate;
    std::uint32_t point;
    friend bool operator<(const Open& a, const Open& b) {  // for a min-heap
      return a.estimate != b.estimate ? a.estimate > b.estimate : a.point > b.point;
    }
  };
  /// The first point of an object, and the number of the search that created it.
  struct First {
    std::uint32_t point = 0, search = 0, count = 0;
  };

  bool search(const ConvexMesh& mesh, const MeshSearch::Place& from, const MeshSearch::Place& to,
              const MeshCrossings& crossings);
  bool parted(std::uint32_t polygon, dvec2 a, dvec2 b) const;
  std::uint32_t shared(std::uint32_t side) const;
  First points_of(std::uint32_t side);
  void add_point(dvec2 at, std::uint32_t side);
  void add_points_near(dvec2 place, std::uint32_t side);
  void reach(std::uint32_t point, double cost, std::uint32_t polygon, std::uint32_t parent,
             std::uint32_t crossing = none);
  void look_over(std::uint32_t point, std::uint32_t polygon);
  void look_straight(std::uint32_t point, std::uint32_t polygon);
  void trace();
  void move_points();
  double cost_by(std::size_t i, dvec2 at) const;
  void write_path();

  const ConvexMesh* mesh_ = nullptr;
  const MeshCrossings* crossings_ = nullptr;
  MeshSearch::Place from_, to_;
  const ClosedLine* line_ = nullptr;  // that must not be crossed, if any
  double max_ = 0;                    // upper bound of the cost
  MeshCrossings::Reached reached_;
  double length_ = 0;
  std::uint64_t expanded_ = 0;
  std::uint32_t search_ = 0, goal_ = 0;
  std::pmr::vector<Point> points_;
  std::pmr::vector<First> first_;   // by the lower number of a side and its twin
  std::pmr::vector<Open> open_;     // a heap
  std::pmr::vector<First> landed_;  // by crossing: its far end
  std::pmr::vector<Point> trail_;   // the path
  std::pmr::vector<MeshSearch::Bend> path_;
  std::pmr::vector<MeshSearch::Crossed> crossed_;
};

}  // namespace ambulon
