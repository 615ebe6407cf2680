#pragma once

#include <cstdint>
#include <memory_resource>
#include <span>
#include <utility>
#include <vector>

#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/mesh_search.hpp"

namespace ambulon {

/// Finds cheap ways over a mesh whose polygons cost differently: dearer than the cheapest by a fiftieth and a
/// few centimetres at most. It goes from point to point on the sides between polygons, 0.3 m apart where
/// they are short (L. Aleksandrov, A. Maheshwari and J.-R. Sack, "Determining Approximate Shortest Paths on
/// Weighted Polyhedral Surfaces", 2005), closer near start and goal, and where a straight line to the goal
/// crosses them; then it moves each point of the way along its side to where the whole costs least. Its
/// memory is reused; one searcher serves one thread, and any number of them one mesh.
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

  /// True when there is a way; `crossings` are those of the mesh.
  bool find(const ConvexMesh& mesh, const MeshSearch::Place& from, const MeshSearch::Place& to,
            const MeshCrossings& crossings);

  /// The same, of the ways that do not cross a line and cost at most `max` millimetres.
  bool find_round(const ConvexMesh& mesh, const MeshSearch::Place& from, const MeshSearch::Place& to,
                  const MeshCrossings& crossings, const ClosedLine& line, double max);

  /// What the way found costs: millimetres times the cost of where they lie, and crossings what they cost.
  double length() const { return length_; }
  std::span<const MeshSearch::Bend> path() const { return path_; }
  std::span<const MeshSearch::Crossed> crossed() const { return crossed_; }
  /// Search nodes (points) expanded.
  std::uint64_t expanded() const { return expanded_; }

 private:
  static constexpr std::uint32_t none = ~std::uint32_t{0};

  /// A point that the search may go by: on a side, or one of the ends or of a crossing's.
  struct Point {
    dvec2 at{0.0};
    double cost = 0;               // of the way to it
    std::uint32_t side = none;     // that it lies on; `none`: it lies in `polygon`
    std::uint32_t polygon = none;  // over which one comes to it
    std::uint32_t parent = none;
    std::uint32_t crossing = none;  // by which one comes to it
    bool done = false;
  };
  struct Open {
    double estimate;
    std::uint32_t point;
    friend bool operator<(const Open& a, const Open& b) {  // for a heap with the least on top
      return a.estimate != b.estimate ? a.estimate > b.estimate : a.point > b.point;
    }
  };
  /// Of something, the first of its points, in which search.
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
  const ClosedLine* line_ = nullptr;  // that is not to be crossed, if any
  double max_ = 0;                    // that ways cost that count
  MeshCrossings::Reached reached_;
  double length_ = 0;
  std::uint64_t expanded_ = 0;
  std::uint32_t search_ = 0, goal_ = 0;
  std::pmr::vector<Point> points_;
  std::pmr::vector<First> first_;   // of each side that is the first of two
  std::pmr::vector<Open> open_;     // a heap
  std::pmr::vector<First> landed_;  // of each crossing, its far end
  std::pmr::vector<Point> trail_;   // the way
  std::pmr::vector<MeshSearch::Bend> path_;
  std::pmr::vector<MeshSearch::Crossed> crossed_;
};

}  // namespace ambulon
