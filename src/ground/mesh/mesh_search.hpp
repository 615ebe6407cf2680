#pragma once

#include <algorithm>
#include <cstdint>
#include <limits>
#include <memory_resource>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/public.hpp"

#include "base/dvec2.hpp"
#include "ground/mesh/closed_line.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Finds exact shortest paths over a mesh of convex polygons, any-angle and not through polygon centres.
///
/// A node is an interval of a side that is visible from the last bend: M. Cui, D. Harabor, A. Grastien,
/// "Compromise-free Pathfinding on a Navigation Mesh" (2017). The far ends of crossings are roots of nodes,
/// as bends are. Memory is reused; use one object per thread, and several may search one mesh.
///
/// Where the cost of the ground changes, paths cross the border at points at most 0.3 m apart (L.
/// Aleksandrov, A. Maheshwari, J.-R. Sack, "Determining Approximate Shortest Paths on Weighted Polyhedral
/// Surfaces", 2005), which are roots as well. At the end, each of them is moved along the border to the
/// minimum of the cost. So lengths are exact except across borders. "Length" is the length times the cost of
/// the ground.
class MeshSearch {
 public:
  explicit MeshSearch(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : ends_(memory),
        ends_by_polygon_(memory),
        around_goal_(memory),
        nodes_(memory),
        open_(memory),
        bends_(memory),
        turned_(memory),
        path_(memory),
        kinks_(memory),
        crossed_(memory),
        border_points_(memory),
        points_on_(memory) {}

  enum class State : std::uint8_t { searching, found, no_route };

  /// A point (millimetres) and a polygon that contains it.
  struct Place {
    dvec2 at{0.0};
    std::uint32_t polygon = 0;
  };

  /// Searches to the end. Returns true if there is a path. `crossings` belong to the mesh.
  bool find(const ConvexMesh& mesh, const Place& from, const Place& to,
            const MeshCrossings& crossings = no_crossings()) {
    begin(mesh, from, to, crossings);
    return go_on(~std::uint64_t{0}) == State::found;
  }

  /// The same, for paths that do not cross a line and are at most `max` millimetres long.
  bool find_round(const ConvexMesh& mesh, const Place& from, const Place& to, const MeshCrossings& crossings,
                  const ClosedLine& line, double max);

  /// Finds the shortest paths from one place to many in one search, without crossings. Similar: S. Zhao, D.
  /// Taniar, D. Harabor, "Fast k-Nearest Neighbor On A Navigation Mesh" (2018). `way_to` selects a result.
  /// Since crossings are not used, paths are valid in both directions.
  void find_all(const ConvexMesh& mesh, const Place& from, std::span<const Place> ends);
  /// Selects the path to end number `end` of `find_all`. Returns false if there is none.
  bool way_to(std::size_t end);

  /// Begins a search in slices. Mesh and crossings must not change until it has ended.
  void begin(const ConvexMesh& mesh, const Place& from, const Place& to,
             const MeshCrossings& crossings = no_crossings());
  /// Continues for at most `expansions`. The result does not depend on the slices.
  State go_on(std::uint64_t expansions);

  /// Returns the length of the path in millimetres times the cost of the ground, with that of its crossings.
  double length() const { return length_; }
  /// A vertex of a path, millimetres.
  struct Bend {
    dvec2 at{0.0};
    double height = 0;
    friend bool operator==(const Bend&, const Bend&) = default;
  };
  /// Returns the bends of the path with both ends.
  std::span<const Bend> path() const { return path_; }
  /// A crossing of the path, and the number of the bend at which it begins.
  struct Crossed {
    std::uint32_t bend;
    std::uint32_t crossing;
  };
  /// Returns them in order.
  std::span<const Crossed> crossed() const { return crossed_; }
  /// Returns true if the path leads over ground with a cost above 1. Then `find` is more exact than
  /// `find_all`, since it has more points near the goal.
  bool costly() const {
    return std::ranges::any_of(kinks_, [](const Kink& kink) { return kink.cost > 1.f; });
  }
  /// Calls `visit(polygon)` for each polygon that the search entered, possibly several times.
  template <class Visit>
  void each_noted(Visit&& visit) const {
    for (const Node& node : nodes_)
      if (node.side != none) visit(mesh_->sides()[node.side].polygon);
  }
  /// Search nodes (intervals on sides) expanded since the search began.
  std::uint64_t expanded() const { return expanded_; }

 private:
  static constexpr std::uint32_t none = ~std::uint32_t{0};

  static const MeshCrossings& no_crossings();

  /// A search node: an interval of a side that is visible from the root; or the far end of a crossing, or a
  /// point on a border, which is then its root.
  struct Node {
    dvec2 left, right;   // ends of the interval, seen from the root; of a crossing: the last bend before it
    std::uint32_t side;  // by which the path enters the polygon; `none`: by a crossing, or at a border
    // corner of the last bend; then crossings are numbered, then points on borders; `none`: the start
    std::uint32_t root;
    double to_root;        // length of the path to the root
    std::uint32_t parent;  // node with the previous root
    float cost;            // of the ground from the root on; of a crossing or at a border: before the root
  };
  struct Open {
    double estimate;  // lower bound of the whole length
    std::uint32_t node;
  };
  /// The length of the shortest known path to a root, and its search.
  struct Best {
    double length = 0;
    std::uint32_t search = 0;
  };

  /// A root, and the cost of the ground over which it looks.
  struct Seen {
    std::uint32_t root;
    double to_root;
    std::uint32_t parent;
    float cost;
  };

  /// A point on a border: the search may bend there.
  struct BorderPoint {
    dvec2 at{0.0};
    std::uint32_t side = 0;
  };
  /// The points on a side, and the search that created them.
  struct Points {
    std::uint32_t first = 0, count = 0, search = 0;
  };

  /// A vertex of a path: the border on which it lies, if any, and the cost of the leg after it (0: a
  /// crossing).
  struct Kink {
    std::uint32_t side = none;
    float cost = 1.f;
  };

  /// A goal of `find_all`.
  struct End {
    Place place;
    double length = std::numeric_limits<double>::infinity();  // of the shortest known path
    std::uint32_t last = none;                                // the node that reached it
  };

  struct Later {
    bool operator()(const Open& a, const Open& b) const {
      return a.estimate != b.estimate ? a.estimate > b.estimate : a.node < b.node;
    }
  };
  void start(const ConvexMesh& mesh, const Place& from, const MeshCrossings& crossings);
  void look_from_start();
  double side_of(std::uint32_t polygon, dvec2 at) const;
  double side_of(const Node& node) const;
  bool beyond_line(std::uint32_t polygon, dvec2 at) const;
  void reach_ends();
  bool come_to(std::uint32_t node);
  double min_open() const;
  std::uint32_t polygon_of(const Node& node) const;
  bool overtaken(const Node& node) const;
  bool shorter_by_corner(const Node& node) const;
  bool shorter_on_foot(const Node& node) const;
  std::uint32_t take_best();
  std::uint32_t take_first();
  void put_off(const Open& open);
  dvec2 root_of(std::uint32_t root) const {
    if (root == none) return from_.at;
    if (root < crossing_roots_) return mesh_->corners()[root].at;
    return root < border_roots_ ? crossing_of(root).to.at : border_points_[root - border_roots_].at;
  }
  bool on_border(const Node& node) const {
    return node.side == none && node.root != none && node.root >= border_roots_;
  }
  const MeshCrossing& crossing_of(std::uint32_t root) const {
    return crossings_->all()[root - crossing_roots_];
  }
  double min_by(dvec2 root, dvec2 left, dvec2 right) const;
  static dvec2 passes(dvec2 root, dvec2 left, dvec2 right, dvec2 goal);
  bool leads_nowhere(std::uint32_t pocket) const;
  bool turns_on(std::size_t end, const Seen& seen);
  void push(dvec2 left, dvec2 right, std::uint32_t side, const Seen& seen) {
    side_ == 0 ? note(left, right, side, seen) : push_cut(left, right, side, seen);
  }
  void push_cut(dvec2 left, dvec2 right, std::uint32_t side, const Seen& seen);
  void note(dvec2 left, dvec2 right, std::uint32_t side, const Seen& seen);
  void see_everything(std::uint32_t first, std::uint32_t count, const Seen& seen);
  bool bends_at(dvec2 end, std::uint32_t side, Seen& seen);
  void expand(std::uint32_t node);
  void look_through(const Node& node, const Seen& straight);
  void land(std::uint32_t node);
  void see_crossings(std::uint32_t polygon, const Seen& seen, const Node* by);
  double length_by(const Node& last, const Place& to, dvec2& by) const;
  void finish(std::uint32_t node, const Place& to);
  void trace(std::uint32_t node);
  void add(const Bend& bend, const Kink& kink);
  float cost_of(std::uint32_t polygon) const { return mesh_->polygons()[polygon].cost; }
  float cost_after(const Node& node) const;
  double least_by(const Seen& seen, dvec2 left, dvec2 right, double min) const;
  bool holds_an_end(std::uint32_t polygon) const;
  void go_straight_to_end(dvec2 at, std::uint32_t polygon, const Seen& seen);
  Points points_on(std::uint32_t side);
  void add_points_near(dvec2 place, std::uint32_t side);
  void add_point(dvec2 at, std::uint32_t side);
  void meet_border(dvec2 left, dvec2 right, std::uint32_t side, const Seen& seen);
  void come_to_point(std::uint32_t point, const Seen& seen);
  void leave_border(std::uint32_t node);
  void move_kinks();
  double move_kink(std::size_t i);
  bool straight_over_one_cost(dvec2 from, std::uint32_t polygon, dvec2 to) const;
  void drop_straight_kinks();
  Bend bend_of(std::uint32_t root) const;
  static Bend bend_in(const ConvexMesh& mesh, const Place& place) {
    return {place.at, mesh.height(place.polygon, place.at)};
  }

  const ConvexMesh* mesh_ = nullptr;
  const MeshCrossings* crossings_ = nullptr;
  std::uint32_t crossing_roots_ = 0;  // number of the first root that is a crossing
  std::uint32_t border_roots_ = 0;    // number of the first root that is a point on a border
  Place from_, to_;
  State state_ = State::no_route;
  double length_ = 0;
  double little_ = 0;                                     // tolerance of the order of estimates
  double around_ = 0;                                     // maximum distance of an end from the goal
  const ClosedLine* line_ = nullptr;                      // that must not be crossed, if any
  double max_ = std::numeric_limits<double>::infinity();  // upper bound of the length
  // of that line, on which the path enters the present polygon; 0: the line does not divide it
  double side_ = 0;
  std::uint64_t expanded_ = 0;
  std::uint32_t search_ = 0;
  MeshCrossings::Reached reached_;
  std::pmr::vector<End> ends_;
  std::pmr::vector<std::pair<std::uint32_t, std::uint32_t>> ends_by_polygon_;  // and their numbers, ascending
  std::pmr::vector<std::uint32_t> around_goal_;  // pockets that contain an end, ascending
  std::pmr::vector<Node> nodes_;
  std::pmr::vector<Open> open_;    // a heap
  Open in_hand_{0, none};          // also open
  std::pmr::vector<Best> bends_;   // by corner, then by crossing, then by point on a border
  std::pmr::vector<Best> turned_;  // by side: right and left end, around which a path has come
  std::pmr::vector<Bend> path_;
  std::pmr::vector<Kink> kinks_;  // by bend of the path
  std::pmr::vector<Crossed> crossed_;
  std::pmr::vector<BorderPoint> border_points_;
  std::pmr::vector<Points> points_on_;  // by the lower number of a side and its twin
};

}  // namespace ambulon
