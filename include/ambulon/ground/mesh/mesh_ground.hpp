#pragma once

#include <cstddef>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "ambulon/base/jobs.hpp"
#include "ambulon/base/pool.hpp"
#include "ambulon/ground/barrier_ground.hpp"
#include "ambulon/ground/edits.hpp"
#include "ambulon/ground/mesh/convex_mesh.hpp"
#include "ambulon/ground/mesh/cost_search.hpp"
#include "ambulon/ground/mesh/mesh_crossings.hpp"
#include "ambulon/ground/mesh/mesh_part.hpp"
#include "ambulon/ground/mesh/mesh_search.hpp"
#include "ambulon/ground/mesh/plan.hpp"
#include "ambulon/ground/mesh/rejected.hpp"
#include "ambulon/ground/mesh/survey.hpp"
#include "ambulon/ground/widths.hpp"

namespace ambulon {

class ByteReader;
class ByteWriter;

/// What the making of a mesh goes through, in turn.
enum class MeshPhase : std::uint8_t {
  surveying,  ///< where the middle of a body can be
  dividing,   ///< that, into convex polygons, patch by patch
  joining,    ///< the patches
  crossing,   ///< looking for what a body can jump, drop down and leap
};

/// In a word, as in "surveying".
std::string_view name(MeshPhase phase);

/// The part of a phase that is done, 0 to 1; to go on with, or false to give it up.
using MeshProgress = std::function<bool(MeshPhase, float)>;

/// A plan at z = 0, or the floors of a level, to walk on, as a navigation mesh: convex polygons for the
/// middle of a body, one mesh for each size of bodies, made when first asked for and kept. Routes are the
/// shortest there are, seen from above. A barrier makes anew only the patches of up to 16 m (more where the
/// ground is above 4 km) that it touches.
///
/// Crossings lead from place to place where one cannot walk: those placed by hand for everybody, and on
/// levels for each body what it can jump up, drop down and leap. Those found there begin at the edge of the
/// ground, about a metre apart. Routes take them where that is shorter; a crossing counts as its length, and
/// 0.5 m, 2 m for each metre up and 1 m for each metre down when it was found, or its `cost`.
///
/// Where parts of the ground cost more than others, routes are the cheapest there are, but for a fiftieth.
///
/// Any number of threads may ask at the same time, as long as none changes it. A spot's piece is the number
/// of a polygon, its layer stands for the size of the body; after a change it is found again by its position.
/// Up to 64 sizes are told apart: radii by half a centimetre, and on levels all else by a centimetre; one
/// more is taken for the next wider, which must be there already, or else for the widest.
class MeshGround final : public BarrierGround {
 public:
  /// The problem, with its place, when the plan makes no sense. Nobody finds a spot on a plan without any
  /// room.
  static Expected<std::unique_ptr<MeshGround>> make(Plan plan);
  /// Of a level, on which `jobs` is called to survey it; without, that is done by the thread that first asks.
  /// The result does not depend on it.
  static Expected<std::unique_ptr<MeshGround>> make(const Level& level, const LevelRules& rules = {},
                                                    Jobs jobs = {});

  /// The ground with all meshes made so far, to be kept in a file. `source` and `source_sum` are of one's
  /// own, to tell later what it was made of. The problem when there are barriers on it.
  Expected<std::vector<std::byte>> save(std::string_view source = {}, std::uint64_t source_sum = 0) const;
  /// What `save` was told.
  struct SavedFrom {
    std::string source = {};
    std::uint64_t source_sum = 0;
  };
  /// A ground that was saved. The problem when the bytes were damaged or are none of a ground.
  static Expected<std::unique_ptr<MeshGround>> restore(std::span<const std::byte> bytes, Jobs jobs = {},
                                                       SavedFrom* saved_from = nullptr);

  /// Makes the mesh for bodies of that size, when there is none yet, so that nobody waits for it later.
  /// `progress` is called at the beginning of each phase and as it goes on, from any thread but one at a
  /// time. When it is given up, there is none, and the problem says so.
  Expected<const ConvexMesh*> prepare(const Body& body, const MeshProgress& progress = {}) const;
  /// The mesh as such bodies see it (radius 0 to 50 m); made when first asked for.
  const ConvexMesh& mesh(const Body& body) const { return mesh_of(number_for(body)); }
  /// The bodies that meshes have been made for so far, in turn, by the measures that decide where they can
  /// walk.
  std::vector<Body> bodies() const;
  /// Its crossings, as such bodies see them.
  const MeshCrossings& crossings(const Body& body) const { return layers_[number_for(body)].made->crossings; }
  /// Ground of a level that is left out of the mesh, since no place of its `LevelRules::reach_from` leads to
  /// it.
  struct LeftOut {
    std::size_t components = 0;  ///< pieces of ground that are not connected
    double area = 0;             ///< square metres, of all of them
  };
  /// What is left out for such bodies.
  LeftOut left_out(const Body& body) const { return layers_[number_for(body)].made->left_out; }
  /// True when it is made of a level: then heights count.
  bool of_level() const { return level_.has_value(); }
  const Plan& plan() const { return plan_; }
  /// The pieces of a level that are not closed, when its rules say that all should be; none of a restored
  /// one.
  std::span<const OpenPiece> open_pieces() const {
    return level_ ? level_->open_pieces() : std::span<const OpenPiece>();
  }
  /// The corners of the upright rectangle that holds it, metres.
  vec2 least() const;
  vec2 most() const;

  /// On a level the spot that is nearest in space.
  Snap snap(vec3 point, float reach, const Body& body = {}) const override;
  Snap snap_near(const Spot& known, vec3 point, float reach, const Body& body) const override;
  /// How far from a point a spot may lie, metres (0 to 1e6).
  struct Reach {
    float aside = 0.5f;  ///< seen from above
    float up = 1e6f;     ///< above it
    float down = 1e6f;   ///< below it
  };
  /// The nearest spot that is neither higher nor lower than allowed, if there is one.
  Snap snap(vec3 point, const Reach& reach, const Body& body) const;
  void route(const Spot& from, const Spot& to, Route& route) const override;
  void route_round(const Spot& from, const Spot& to, const Bottleneck& jam, float most,
                   Route& route) const override;
  /// Those of some dozens who come from one place, and of some hundreds from anywhere, where there are no
  /// crossings.
  bool shares_routes(const Spot& to, std::span<const Spot> from) const override;
  void routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  Stretch straight(const Spot& from, vec2 way) const override;
  Clearance clearance(const Spot& spot, float most) const override;
  /// Within `radius` metres of walking, among the spots from which one can come back.
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  Snap nearest_reachable(const Spot& from, vec3 goal) const override;
  float distance(const Spot& from, const Spot& to) const override;
  /// Known without a search.
  bool reachable(const Spot& from, const Spot& to) const override;

  /// Where the ground ends, for the middle of a body.
  struct Edge {
    vec3 at{0.f};      ///< metres
    float off = 0.f;   ///< metres from the spot
    vec2 inward{0.f};  ///< unit vector from the edge towards the ground
  };
  /// The edge of the ground that is nearest to a spot, as the crow flies, of the ground that can be reached
  /// from it; nothing when none is within `reach` metres (0 to 1e6).
  std::optional<Edge> nearest_edge(const Spot& spot, float reach) const;
  /// Calls `visit(corners)` for each convex piece of the ground (metres, counter-clockwise) of which some
  /// lies within `radius` metres (0 to 1e6) of a spot, seen from above, and to which one can walk within that
  /// circle.
  void each_piece_around(const Spot& middle, float radius,
                         const std::function<void(std::span<const vec3>)>& visit) const;
  /// Where a ray first meets a triangle of the level that is no decor, from either side, or a barrier that
  /// has heights and is in the way; or height 0 of a plan.
  std::optional<vec3> first_met(const Ray& ray, float reach = 1e6f) const override;

  /// Where a body cannot be, though there is something to stand on, and why; as long as there are no
  /// barriers.
  std::vector<RejectedPart> rejected(const Body& body) const;

  /// Places a crossing, open to everybody. Each of its ends is taken to the nearest spot of each body, if
  /// that is at most 0.5 m and the body's radius away. The problem when a number is out of range.
  Expected<CrossingId> place(const Crossing& crossing);
  /// Shuts a crossing, or opens it again; or takes it away. The problem when there is no such one (any more).
  Expected<CrossingId> shut(CrossingId id) { return set_shut(id, true); }
  Expected<CrossingId> open(CrossingId id) { return set_shut(id, false); }
  Expected<CrossingId> remove(CrossingId id);
  using BarrierGround::remove;
  /// Metres that an end may be away from the nearest spot of a body.
  static float end_reach(const Body& body) { return 0.5f + body.radius; }
  struct PlacedCrossing {
    CrossingId id;
    Crossing crossing;
    bool shut = false;
  };
  /// Those placed by hand, in turn.
  std::span<const PlacedCrossing> placed_crossings() const { return placed_; }

  std::uint64_t revision() const override { return edits_.revision(); }
  bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const override;
  bool may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const override;

 private:
  /// How bodies of one size see the ground.
  struct Layer {
    std::vector<std::vector<FloorPart>> free;  // of each patch, without barriers
    ConvexMesh mesh;
    std::vector<std::vector<MeshCrossing>> found{};  // crossings, of each patch
    MeshCrossings crossings{};                       // and those placed by hand
    LeftOut left_out{};
  };
  /// What a thread needs to answer.
  struct Helper {
    MeshSearch search;
    CostSearch by_cost;
    MeshPart part;
    MeshCrossings::Reached reached;
    ClosedLine line;
    /// A patch, and the area that can be reached in it and all those before it, square millimetres.
    struct Share {
      std::uint32_t patch;
      double until;
    };
    std::vector<Share> shares;
  };
  struct Edit {
    vec2 low{0.f}, high{0.f};  // metres
  };

  using Barriers = std::vector<const PlacedBarrier*>;

  explicit MeshGround(Plan plan);
  MeshGround(LevelIndex level, Jobs jobs);
  BodySize size_of(const Body& body) const;
  std::uint16_t number_for(const Body& body) const;
  std::unique_ptr<Layer> make_layer(const BodySize& size, const MeshProgress& progress) const;
  std::unique_ptr<Layer> make_whole_layer(const BodySize& size, bool with_barriers,
                                          const MeshProgress& progress) const;
  std::unique_ptr<Layer> reached_part(const Layer& whole, const BodySize& size) const;
  std::vector<RejectedPart> out_of_reach(const BodySize& size) const;
  std::vector<bool> reached_components(const Layer& whole, const BodySize& size) const;
  bool survey_all(const BodySize& size, PatchGrid& grid, std::vector<std::vector<SurveyedSquare>>& cells,
                  const MeshProgress& progress) const;
  static void put_layer(ByteWriter& out, const BodySize& size, const Layer& layer);
  std::unique_ptr<Layer> layer_from(ByteReader& in, BodySize& size) const;
  double step_between(const BodySize& size) const;
  static bool find_again(const ConvexMesh& mesh, MeshCrossing& crossing);
  std::vector<CostlyOutlines> costly_in(const FloorPart& floor, const Square& square, const BodySize& size,
                                        const Barriers& barriers) const;
  Barriers barriers_in(const Square& square, const BodySize& size) const;
  bool stands_in(const PlacedBarrier& placed, const FloorPart& floor, const Square& square,
                 const BodySize& size) const;
  std::vector<SurveyedSquare> squares_of_plan(const PatchGrid& grid, const Outlines& outlines) const;
  bool for_all(std::size_t count, const std::function<void(std::size_t)>& job, MeshPhase phase,
               const MeshProgress& progress) const;
  PatchPolygons polygons(const std::vector<FloorPart>& floors, const Square& square, const BodySize& size,
                         const Barriers& barriers) const;
  std::optional<PatchPolygons> polygons(const FloorPart& floor, const Square& square, const BodySize& size,
                                        const Barriers& barriers) const;
  std::optional<double> into_level(const Ray& ray, double reach) const;
  Expected<CrossingId> set_shut(CrossingId id, bool shut);
  Expected<std::vector<PlacedCrossing>::iterator> find(CrossingId id);
  void crossing_changed(const Crossing& crossing, bool opens);
  bool find_crossings_of(Layer& layer, const BodySize& size, bool with_barriers,
                         const MeshProgress& progress) const;
  std::vector<MeshCrossing> find_crossings_in(const ConvexMesh& mesh, std::uint32_t patch,
                                              const BodySize& size, bool with_barriers) const;
  void find_crossings_near(Layer& layer, const BodySize& size, const Barrier& barrier) const;
  std::vector<MeshCrossing> all_crossings(const Layer& layer, const BodySize& size, bool with_shut) const;
  void put_together(Layer& layer, const BodySize& size) const;
  const Layer& layer_of(std::uint16_t number) const;
  const ConvexMesh& mesh_of(std::uint16_t number) const { return layer_of(number).mesh; }
  ConvexMesh::Wanted near_height(float z) const;
  std::optional<MeshSearch::Place> place_of(const Spot& spot, std::uint16_t layer) const;
  std::optional<MeshSearch::Place> place_of(const Spot& spot) const { return place_of(spot, spot.layer); }
  Spot spot_at(const MeshSearch::Place& place, std::uint16_t number) const;
  Snap snap_to(const ConvexMesh::Nearest& nearest, std::uint16_t number, vec3 point, float reach) const;
  /// What a search has found, in millimetres.
  struct Found {
    double length = 0;
    std::span<const MeshSearch::Bend> path = {};
    std::span<const MeshSearch::Crossed> crossed = {};
    std::uint64_t expanded = 0;
  };
  bool search(const Spot& from, const Spot& to, Helper& helper, Found& found) const;
  static void lay(const Found& found, const Layer& layer, Route& route);
  void barrier_changed(const Barrier& barrier, bool gone) override;

  Plan plan_;  // when there is no level
  std::optional<LevelIndex> level_;
  Jobs jobs_;
  std::vector<PlacedCrossing> placed_;
  std::uint32_t next_crossing_ = 1;
  Edits<Edit> edits_;
  float dearest_ = 1.f;  // cost of any part of the ground so far
  mutable Widths<std::unique_ptr<Layer>> layers_;
  mutable Pool<Helper> helpers_;
};

}  // namespace ambulon
