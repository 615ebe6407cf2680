#pragma once

#include <cstddef>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "ambulon/base/jobs.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/ground/barrier_ground.hpp"
#include "ambulon/ground/crossing.hpp"
#include "ambulon/ground/mesh/level.hpp"
#include "ambulon/ground/mesh/plan.hpp"
#include "ambulon/ground/mesh/rejected.hpp"

namespace AMBULON_PUBLIC ambulon {

class ConvexMesh;
class MeshCrossings;

/// The phases of building a mesh, in order.
enum class MeshPhase : std::uint8_t {
  surveying,  ///< the free space of the body's centre is computed, cell by cell
  dividing,   ///< each patch is divided into convex polygons
  joining,    ///< neighbouring patches are connected
  crossing,   ///< jumps, drops and leaps are searched
};

/// Returns the phase in one word, such as "surveying".
std::string_view name(MeshPhase phase);

/// Called with the completed part of a phase, 0 to 1. Returns true to continue, false to cancel.
using MeshProgress = std::function<bool(MeshPhase, float)>;

/// A navigation mesh of a plan (at z = 0) or of a level with any number of storeys: convex polygons for the
/// centre of a body. There is one mesh for each body size; it is built when first needed, and kept.
///
///     ambulon::Plan plan{.outlines = {{{0, 0}, {40, 0}, {40, 20}, {0, 20}}}, .solids = {...}};
///     const auto ground = ambulon::MeshGround::make(plan);
///     if (!ground) return report(ground.error().text);
///     ambulon::World world({.ground = ground->get()});
///
/// 1. Routes are the shortest on the mesh, measured on the plan. With regions of different costs they are
///    within 1 % of the cheapest.
/// 2. Crossings connect places between which nobody can walk: those that `place` adds, and on levels the
///    jumps, drops and leaps that the body is capable of. Crossings found on levels begin at edges of the
///    ground, about 1 m apart. Their cost in a route is their length plus 0.5 m, plus 2 m for each metre up
///    and 1 m for each metre down; `Crossing::cost` replaces it.
/// 3. A barrier rebuilds only the patches that it touches. Patches are up to 16 m wide, or larger on ground
///    of more than 4 km.
/// 4. Any number of threads may query at the same time while no thread changes the ground.
/// 5. A spot belongs to one body size. After a change it is found again by its position.
/// 6. Up to 64 body sizes are distinguished: radii by 5 mm and on levels all other measures by 1 cm. A 65th
///    size uses the mesh of the next wider body, or else of the widest.
class MeshGround : public BarrierGround {
 public:
  /// Makes the ground of a plan. Returns a problem, with its place, if the plan is invalid. A plan without
  /// any free space is valid; it has no spots.
  static Expected<std::unique_ptr<MeshGround>> make(Plan plan);
  /// Makes the ground of a level. `jobs` runs surveys on the game's threads; empty: on the calling thread.
  /// The result is the same.
  static Expected<std::unique_ptr<MeshGround>> make(const Level& level, const LevelRules& rules = {},
                                                    Jobs jobs = {});

  /// Returns the ground with all meshes built so far as the bytes of a file. `source` and `source_sum` are
  /// the game's own, to recognise what it was built from. Returns a problem if there are barriers on it.
  virtual Expected<std::vector<std::byte>> save(std::string_view source = {},
                                                std::uint64_t source_sum = 0) const = 0;
  /// What `save` was given.
  struct SavedFrom {
    std::string source = {};
    std::uint64_t source_sum = 0;
  };
  /// Makes a ground from the bytes of `save`. Returns a problem if they are damaged or not a ground.
  static Expected<std::unique_ptr<MeshGround>> restore(std::span<const std::byte> bytes, Jobs jobs = {},
                                                       SavedFrom* saved_from = nullptr);

  /// Builds the mesh of that body size if there is none yet. `progress` is called from any thread, one at a
  /// time. If it cancels, nothing is kept and the problem says so.
  virtual Expected<const ConvexMesh*> prepare(const Body& body, const MeshProgress& progress = {}) const = 0;
  /// Returns the mesh of that body size (radius 0 to 50 m); builds it if there is none. The type is the
  /// library's own.
  virtual const ConvexMesh& mesh(const Body& body) const = 0;
  /// Returns the bodies whose meshes were built so far, with the measures that decide where they can walk.
  virtual std::vector<Body> bodies() const = 0;
  /// Returns the crossings of that body size. The type is the library's own.
  virtual const MeshCrossings& crossings(const Body& body) const = 0;
  /// Ground of a level that no place in `LevelRules::reach_from` leads to. It is not part of the mesh.
  struct LeftOut {
    std::size_t components = 0;  ///< connected pieces
    double area = 0;             ///< square metres, in sum
  };
  virtual LeftOut left_out(const Body& body) const = 0;
  /// Returns true if the ground was made of a level; then heights count.
  virtual bool of_level() const = 0;
  virtual const Plan& plan() const = 0;
  /// Returns the pieces of the level that are not closed, if `LevelRules::closed` is set; none after
  /// `restore`.
  virtual std::span<const OpenPiece> open_pieces() const = 0;
  /// The corners of the bounding rectangle on the plan, metres.
  virtual vec2 min() const = 0;
  virtual vec2 max() const = 0;

  using Ground::snap;
  /// How far from a point a spot may be, metres (0 to 1e6).
  struct Reach {
    float aside = 0.5f;  ///< on the plan
    float up = 1e6f;     ///< above the point
    float down = 1e6f;   ///< below the point
  };
  /// Returns the nearest spot within that reach.
  virtual Snap snap(vec3 point, const Reach& reach, const Body& body) const = 0;

  /// A point on the edge of the ground, for the centre of a body.
  struct Edge {
    vec3 at{0.f};      ///< metres
    float off = 0.f;   ///< metres from the spot
    vec2 inward{0.f};  ///< unit normal, from the edge into the ground
  };
  /// Returns the edge point nearest to a spot (straight distance), of ground reachable from it. None within
  /// `reach` metres (0 to 1e6): nothing.
  virtual std::optional<Edge> nearest_edge(const Spot& spot, float reach) const = 0;
  /// Calls `visit(corners)` for each polygon (metres, counter-clockwise) that is partly within `radius`
  /// metres (0 to 1e6) of a spot on the plan and can be reached without leaving that circle.
  virtual void each_piece_around(const Spot& middle, float radius,
                                 const std::function<void(std::span<const vec3>)>& visit) const = 0;
  /// Returns why a body cannot stand in places that have a floor. Barriers are ignored.
  virtual std::vector<RejectedPart> rejected(const Body& body) const = 0;

  /// Adds a crossing for all bodies. Each end moves to the nearest spot of each body, at most `end_reach`
  /// away. Returns a problem if a number is out of range.
  virtual Expected<CrossingId> place(const Crossing& crossing) = 0;
  /// Closes, opens or removes a crossing. Returns a problem if there is none of that id.
  virtual Expected<CrossingId> shut(CrossingId id) = 0;
  virtual Expected<CrossingId> open(CrossingId id) = 0;
  virtual Expected<CrossingId> remove(CrossingId id) = 0;
  using BarrierGround::remove;
  /// Returns the largest distance in metres between the end of a crossing and the spot of a body.
  static float end_reach(const Body& body) { return 0.5f + body.radius; }
  /// A crossing placed by the game, with its id.
  struct PlacedCrossing {
    CrossingId id;
    Crossing crossing;
    bool shut = false;
  };
  /// Returns the crossings that `place` added, in that order.
  virtual std::span<const PlacedCrossing> placed_crossings() const = 0;

 protected:
  MeshGround() = default;
};

}  // namespace ambulon
