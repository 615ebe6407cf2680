#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <memory_resource>
#include <optional>
#include <span>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/barrier_ground.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace AMBULON_PUBLIC ambulon {

class TileLayer;

/// Options of a tile ground besides its map. They are copied.
struct TileGroundOptions {
  bool along_cells = false;  ///< routes go from cell centre to cell centre; otherwise they are pulled taut
  /// Number of cells from which on, if their costs differ, long routes are planned over gates: much faster,
  /// and at most 2 % longer than the shortest.
  std::size_t far_cells = std::size_t{4096} * 4096;
  std::pmr::memory_resource* memory = std::pmr::get_default_resource();  ///< thread-safe if queries are
};

/// A tile map to walk on, at z = 0.
///
/// 1. Cells that a barrier overlaps are blocked.
/// 2. A body keeps its radius away from blocked cells and from the edge of the map. If corners may be cut
///    (`Corners::one_free` and `cut`), bodies up to one cell wide count as points.
/// 3. Routes are the shortest from cell to cell, by the rules of the map, and then pulled taut: moving a bend
///    makes none shorter. Where costs differ, a bend is only removed if the route does not cost more.
/// 4. Any number of threads may query at the same time while no thread changes the ground.
/// 5. Up to 64 body widths are distinguished, by 1/32 of a cell; another one uses the next wider.
class TileGround final : public BarrierGround {
 public:
  explicit TileGround(TileMap map, const TileGroundOptions& options = {});
  ~TileGround() override;

  /// Returns the map with the barriers on it, as bodies up to one cell wide see it.
  const TileMap& map() const;
  /// Returns the map and its components for bodies of `radius` metres (0 to 50). The type is the library's
  /// own.
  const TileLayer& layer(float radius) const;

  /// Sets the value of one cell, or of all cells of a box that are inside of the map: a cost, or the number
  /// of a terrain. Returns a problem if no cell is inside or if there is no such terrain.
  Expected<Cell> set(Cell cell, std::uint8_t value);
  Expected<CellBox> fill(CellBox box, std::uint8_t value);

  Snap snap(vec3 point, float reach, const Body& body = {}) const override;
  void route(const Spot& from, const Spot& to, Route& route) const override;
  void detour(const Spot& from, const Spot& to, const Bottleneck& jam, float max,
              Route& route) const override;
  bool shares_routes(const Spot& to, std::span<const Spot> from) const override;
  void routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  Stretch straight(const Spot& from, vec2 way) const override;
  Clearance clearance(const Spot& spot, float max) const override;
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  Snap nearest_reachable(const Spot& from, vec3 goal) const override;
  float distance(const Spot& from, const Spot& to) const override;
  bool reachable(const Spot& from, const Spot& to) const override;
  const TileMap* tiles(const Spot& spot) const override;
  void visit_surface(const Body& body, vec2 low, vec2 high, SurfaceVisitor& visitor) const override;
  std::uint64_t revision() const override;
  bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const override;
  bool may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const override;

  /// For the library itself: `Impl` is defined in no public header.
  class AMBULON_HIDDEN Impl;
  const Impl& impl() const { return *impl_; }

 private:
  void barrier_changed(const Barrier* was, const Barrier* now) override;

  std::unique_ptr<Impl> impl_;
};

}  // namespace ambulon
