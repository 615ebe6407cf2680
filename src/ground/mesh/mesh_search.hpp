#pragma once

#include <cstdint>
#include <limits>
#include <memory_resource>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/public.hpp"

#include "ground/mesh/closed_line.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Finds shortest ways over a mesh of convex polygons: truly the shortest in the plane, not along middles of
/// polygons. It goes from polygon to polygon with those stretches of their sides that can be seen from the
/// latest bend: M. Cui, D. Harabor and A. Grastien, "Compromise-free Pathfinding on a Navigation Mesh"
/// (2017). Where there are crossings, their far ends are places from which it looks on, as a bend is. Its
/// memory is reused from one search to the next; one searcher serves one thread, and any number of them one
/// mesh.
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
        crossed_(memory) {}

  enum class State : std::uint8_t { searching, found, no_route };

  /// A point (millimetres) and a polygon that it lies in or on the rim of.
  struct Place {
    dvec2 at{0.0};
    std::uint32_t polygon = 0;
  };

  /// The whole search at once: true when there is a way. `crossings`, if any, are those of the mesh.
  bool find(const ConvexMesh& mesh, const Place& from, const Place& to,
            const MeshCrossings& crossings = no_crossings()) {
    begin(mesh, from, to, crossings);
    return go_on(~std::uint64_t{0}) == State::found;
  }

  /// The same, of the ways that do not cross a line and are at most `max` millimetres long.
  bool find_round(const ConvexMesh& mesh, const Place& from, const Place& to, const MeshCrossings& crossings,
                  const ClosedLine& line, double max);

  /// The shortest ways from one place to many, in one search: S. Zhao, D. Taniar and D. Harabor, "Fast
  /// k-Nearest Neighbor On A Navigation Mesh" (2018) look on from one place for many in the same manner. Not
  /// over crossings, which lead one way only: ways back are the same, then. `way_to` tells what was found.
  void find_all(const ConvexMesh& mesh, const Place& from, std::span<const Place> ends);
  /// Makes length, path and costs those of the way to one of the ends of `find_all`, by its number there;
  /// true when there is one.
  bool way_to(std::size_t end);

  /// Begins a search that is done in slices; mesh and crossings must not change until it has ended.
  void begin(const ConvexMesh& mesh, const Place& from, const Place& to,
             const MeshCrossings& crossings = no_crossings());
  /// Continues for at most that many expansions. The result does not depend on how it is sliced.
  State go_on(std::uint64_t expansions);

  /// Of the way found, in millimetres; crossings count as what they cost.
  double length() const { return length_; }
  /// A vertex of a way, millimetres.
  struct Bend {
    dvec2 at{0.0};
    double height = 0;
    friend bool operator==(const Bend&, const Bend&) = default;
  };
  /// The bends of the way found, the first being the start and the last the goal.
  std::span<const Bend> path() const { return path_; }
  /// A crossing on the way found, and the number of the bend at which it begins.
  struct Crossed {
    std::uint32_t bend;
    std::uint32_t crossing;
  };
  /// Those on it, in turn.
  std::span<const Crossed> crossed() const { return crossed_; }
  /// True when it goes over ground that costs more than its length, which the search does not heed.
  bool costly() const { return costly_; }
  /// Calls `visit(polygon)` for each polygon that the search has looked into; some come several times.
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

  /// A stretch of a polygon's side, seen from the latest bend of the way to it. Or the far end of a crossing,
  /// which is its root.
  struct Node {
    dvec2 left, right;     // its ends, seen from the root; of a crossing: where the way to it bends last
    std::uint32_t side;    // by which the way enters the polygon; `none`: by a crossing
    std::uint32_t root;    // corner of the latest bend, or a crossing after those; `none`: the start
    double to_root;        // length of the way to there
    std::uint32_t parent;  // node, the root of which comes before
  };
  struct Open {
    double estimate;  // of the whole way
    std::uint32_t node;
  };
  /// The length of the shortest way known to a root, of one search.
  struct Best {
    double length = 0;
    std::uint32_t search = 0;
  };

  /// From where stretches are seen.
  struct Seen {
    std::uint32_t root;
    double to_root;
    std::uint32_t parent;
  };

  /// One of many to which ways are looked for.
  struct End {
    Place place;
    double length = std::numeric_limits<double>::infinity();  // of the shortest way known
    std::uint32_t last = none;                                // the node that it came by
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
  std::uint32_t take_best();
  std::uint32_t take_first();
  void put_off(const Open& open);
  dvec2 root_of(std::uint32_t root) const {
    if (root == none) return from_.at;
    return root < crossing_roots_ ? mesh_->corners()[root].at : crossing_of(root).to.at;
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
  void add(const Bend& bend);
  Bend bend_of(std::uint32_t root) const;
  static Bend bend_in(const ConvexMesh& mesh, const Place& place) {
    return {place.at, mesh.height(place.polygon, place.at)};
  }

  const ConvexMesh* mesh_ = nullptr;
  const MeshCrossings* crossings_ = nullptr;
  std::uint32_t crossing_roots_ = 0;  // the first number of a root that is a crossing
  Place from_, to_;
  State state_ = State::no_route;
  double length_ = 0;
  bool costly_ = false;
  double little_ = 0;                                     // by which estimates may be out of order
  double around_ = 0;                                     // all ends lie within so much of the goal
  const ClosedLine* line_ = nullptr;                      // that is not to be crossed, if any
  double max_ = std::numeric_limits<double>::infinity();  // length of ways that count
  double side_ = 0;  // of that line, on which the way enters the polygon in hand; 0: it does not divide that
  std::uint64_t expanded_ = 0;
  std::uint32_t search_ = 0;
  MeshCrossings::Reached reached_;
  std::pmr::vector<End> ends_;
  std::pmr::vector<std::pair<std::uint32_t, std::uint32_t>> ends_by_polygon_;  // and their numbers, in order
  std::pmr::vector<std::uint32_t> around_goal_;  // pockets that one must go into, in order
  std::pmr::vector<Node> nodes_;
  std::pmr::vector<Open> open_;    // a heap
  Open in_hand_{0, none};          // open, too
  std::pmr::vector<Best> bends_;   // of corners, then of crossings
  std::pmr::vector<Best> turned_;  // of the right and the left end of each side, around which one has come
  std::pmr::vector<Bend> path_;
  std::pmr::vector<Crossed> crossed_;
};

}  // namespace ambulon
