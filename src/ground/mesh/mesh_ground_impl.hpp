#pragma once

#include <cstddef>
#include <memory>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/pool.hpp"
#include "ground/edits.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/mesh_builder.hpp"
#include "ground/mesh/mesh_layer.hpp"
#include "ground/mesh/mesh_part.hpp"
#include "ground/mesh/mesh_search.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/widths.hpp"

namespace ambulon {

class ByteReader;
class ByteWriter;

/// Returns a problem, with its place, if a plan is invalid.
Expected<void> check_plan(const Plan& plan);

/// The implementation of `MeshGround`. `Spot::piece` is the number of a polygon, `Spot::layer` the number of
/// a body size.
class MeshGroundImpl final : public MeshGround {
 public:
  explicit MeshGroundImpl(Plan plan);
  MeshGroundImpl(LevelIndex level, Jobs jobs);

  Expected<std::vector<std::byte>> save(std::string_view source, std::uint64_t source_sum) const override;
  Expected<const ConvexMesh*> prepare(const Body& body, const MeshProgress& progress) const override;
  const ConvexMesh& mesh(const Body& body) const override { return mesh_of(number_for(body)); }
  std::vector<Body> bodies() const override;
  const MeshCrossings& crossings(const Body& body) const override {
    return layers_[number_for(body)].made->crossings;
  }
  LeftOut left_out(const Body& body) const override { return layers_[number_for(body)].made->left_out; }
  bool of_level() const override { return level_.has_value(); }
  const Plan& plan() const override { return plan_; }
  std::span<const OpenPiece> open_pieces() const override {
    return level_ ? level_->open_pieces() : std::span<const OpenPiece>();
  }
  vec2 min() const override;
  vec2 max() const override;

  Snap snap(vec3 point, float reach, const Body& body) const override;
  Snap snap(vec3 point, const Reach& reach, const Body& body) const override;
  Snap snap_near(const Spot& known, vec3 point, float reach, const Body& body) const override;
  void route(const Spot& from, const Spot& to, Route& route) const override;
  void detour(const Spot& from, const Spot& to, const Bottleneck& jam, float max,
              Route& route) const override;
  /// True for some dozens of spots close together, or some hundreds anywhere, if there are no crossings.
  bool shares_routes(const Spot& to, std::span<const Spot> from) const override;
  void routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  Stretch straight(const Spot& from, vec2 way) const override;
  Clearance clearance(const Spot& spot, float max) const override;
  /// Uniform over the spots within `radius` metres of walking from which the NPC can return.
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  Snap nearest_reachable(const Spot& from, vec3 goal) const override;
  float distance(const Spot& from, const Spot& to) const override;
  /// From the components, without a search.
  bool reachable(const Spot& from, const Spot& to) const override;
  std::optional<Edge> nearest_edge(const Spot& spot, float reach) const override;
  void each_piece_around(const Spot& middle, float radius,
                         const std::function<void(std::span<const vec3>)>& visit) const override;
  /// The first hit of a triangle of the level that is not decor, from either side, or of a blocking barrier
  /// with heights. On a plan: of height 0.
  std::optional<vec3> first_met(const Ray& ray, float reach) const override;
  std::vector<RejectedPart> rejected(const Body& body) const override;
  void visit_surface(const Body& body, vec2 low, vec2 high, SurfaceVisitor& visitor) const override;

  Expected<CrossingId> place(const Crossing& crossing) override;
  Expected<CrossingId> shut(CrossingId id) override { return set_shut(id, true); }
  Expected<CrossingId> open(CrossingId id) override { return set_shut(id, false); }
  Expected<CrossingId> remove(CrossingId id) override;
  using BarrierGround::remove;
  std::span<const PlacedCrossing> placed_crossings() const override { return placed_; }

  std::uint64_t revision() const override { return edits_.revision(); }
  bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const override;
  bool may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const override;

 private:
  friend class MeshGround;  // `restore`

  using Layer = MeshLayer;

  /// Working memory of a query, one per thread.
  struct Helper {
    MeshSearch search;
    MeshPart part;
    MeshCrossings::Reached reached;
    ClosedLine line;
    /// A patch, and the reachable area in it and in all patches before it, square millimetres.
    struct Share {
      std::uint32_t patch;
      double until;
    };
    std::vector<Share> shares;
  };
  struct Edit {
    vec2 low{0.f}, high{0.f};  // metres
  };

  BodySize size_of(const Body& body) const;
  std::uint16_t number_for(const Body& body) const;
  std::unique_ptr<Layer> make_layer(const BodySize& size, const MeshProgress& progress) const;
  std::unique_ptr<Layer> make_whole_layer(const BodySize& size, bool with_barriers,
                                          const MeshProgress& progress) const;
  std::unique_ptr<Layer> reached_part(const Layer& whole, const BodySize& size) const;
  std::vector<RejectedPart> out_of_reach(const BodySize& size) const;
  std::vector<bool> reached_components(const Layer& whole, const BodySize& size) const;
  static void put_layer(ByteWriter& out, const BodySize& size, const Layer& layer);
  std::unique_ptr<Layer> layer_from(ByteReader& in, BodySize& size) const;
  static bool find_again(const ConvexMesh& mesh, MeshCrossing& crossing);
  std::optional<double> into_level(const Ray& ray, double reach) const;
  Expected<CrossingId> set_shut(CrossingId id, bool shut);
  Expected<std::vector<PlacedCrossing>::iterator> find(CrossingId id);
  void crossing_changed(const Crossing& crossing, bool opens);
  bool find_crossings_of(Layer& layer, const BodySize& size, bool with_barriers,
                         const MeshProgress& progress) const;
  std::vector<MeshCrossing> find_crossings_in(const ConvexMesh& mesh, std::uint32_t patch,
                                              const BodySize& size, bool with_barriers) const;
  void find_crossings_near(Layer& layer, const BodySize& size,
                           std::span<const Barrier* const> barriers) const;
  std::vector<MeshCrossing> all_crossings(const Layer& layer, const BodySize& size, bool with_shut) const;
  void put_together(Layer& layer, const BodySize& size) const;
  const Layer& layer_of(std::uint16_t number) const;
  const ConvexMesh& mesh_of(std::uint16_t number) const { return layer_of(number).mesh; }
  ConvexMesh::Wanted near_height(float z) const;
  std::optional<MeshSearch::Place> place_of(const Spot& spot, std::uint16_t layer) const;
  std::optional<MeshSearch::Place> place_of(const Spot& spot) const { return place_of(spot, spot.layer); }
  Spot spot_at(const MeshSearch::Place& place, std::uint16_t number) const;
  Snap snap_to(const ConvexMesh::Nearest& nearest, std::uint16_t number, vec3 point, float reach) const;
  /// A search result, millimetres.
  struct Found {
    double length = 0;
    std::span<const MeshSearch::Bend> path = {};
    std::span<const MeshSearch::Crossed> crossed = {};
    std::uint64_t expanded = 0;
  };
  bool search(const Spot& from, const Spot& to, Helper& helper, Found& found) const;
  static void lay(const Found& found, const Layer& layer, Route& route);
  void barrier_changed(const Barrier* was, const Barrier* now) override;

  Plan plan_;  // without a level
  std::optional<LevelIndex> level_;
  Jobs jobs_;
  MeshBuilder builder_{plan_, level_, *this, jobs_};
  std::vector<PlacedCrossing> placed_;
  std::uint32_t next_crossing_ = 1;
  Edits<Edit> edits_;
  float dearest_ = 1.f;  // maximum cost of any ground so far
  mutable Widths<std::unique_ptr<Layer>> layers_;
  mutable Pool<Helper> helpers_;
};

}  // namespace ambulon
