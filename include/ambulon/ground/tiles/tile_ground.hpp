#pragma once

#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <vector>

#include "ambulon/base/pool.hpp"
#include "ambulon/ground/barrier_ground.hpp"
#include "ambulon/ground/edits.hpp"
#include "ambulon/ground/tiles/tile_layer.hpp"
#include "ambulon/ground/tiles/tile_search.hpp"
#include "ambulon/ground/tiles/tile_taut.hpp"
#include "ambulon/ground/widths.hpp"

namespace ambulon {

class FlowField;

/// What a tile ground is made of besides its map; not kept.
struct TileGroundOptions {
  /// Routes go from middle to middle of cells, as the rules of the map allow; otherwise they are pulled taut.
  bool along_cells = false;
  /// From so many cells on, where their costs differ, long routes are planned over gates: they are found much
  /// sooner, and may be longer than the shortest by up to 2 %.
  std::size_t far_cells = std::size_t{4096} * 4096;
  std::pmr::memory_resource* memory = std::pmr::get_default_resource();  ///< safe for all threads that ask
};

/// A tile map to walk on, at z = 0. The cells that a barrier overlaps cannot be walked on. A body keeps its
/// radius away from blocked cells and from the edge of the map. Where corners may be cut (`Corners::one_free`
/// and `cut`), bodies up to a cell wide count as points.
///
/// Any number of threads may ask at the same time, as long as none changes it. A spot's piece is the index
/// of the cell it belongs to, its layer stands for the width of the body. Up to 64 widths are told apart,
/// by a 32nd of a cell; one more is taken for the next wider.
class TileGround final : public BarrierGround {
 public:
  explicit TileGround(TileMap map, const TileGroundOptions& options = {});

  /// The map itself, with the barriers on it: as bodies up to a cell wide see it.
  const TileMap& map() const { return base_.map(); }
  /// The map and its components as bodies of `radius` metres (0 to 50) see them; made when first asked for.
  const TileLayer& layer(float radius) const { return *width(width_for(radius)).made; }

  /// Gives one cell, or all cells of a box that lie inside, another value (a cost, or the number of a
  /// terrain). The problem when none lies inside, or when there is no such terrain.
  Expected<Cell> set(Cell cell, std::uint8_t value);
  Expected<CellBox> fill(CellBox box, std::uint8_t value);

  /// The cells that have changed since that revision, in boxes; nothing when it is too long ago to tell.
  using Edit = Edits<CellBox>::Edit;
  std::optional<std::span<const Edit>> edits_since(std::uint64_t revision) const {
    return edits_.since(revision);
  }

  Snap snap(vec3 point, float reach, const Body& body = {}) const override;
  /// The shortest way from cell to cell, and then, on cells of one cost, pulled taut: no shorter way can be
  /// had by moving its bends. Where costs differ, turns are left out only where that costs no more.
  void route(const Spot& from, const Spot& to, Route& route) const override;
  void route_round(const Spot& from, const Spot& to, const Bottleneck& jam, float most,
                   Route& route) const override;
  /// On cells of one cost, and not along cells: out of a flow field (see there) from the goal. On maps of a
  /// million cells, from a thousand ways on, that takes less than searching for each.
  bool shares_routes(const Spot& to, std::span<const Spot> from) const override;
  void routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const override;
  bool sight(const Spot& from, const Spot& to) const override;
  /// For bodies that count as points, a line may touch the corner of one blocked cell, and pass between two
  /// that touch corner to corner only where corners may be cut.
  Stretch straight(const Spot& from, vec2 way) const override;
  Clearance clearance(const Spot& spot, float most) const override;
  Spot random_spot(Random& random, const Spot& around, float radius) const override;
  Snap nearest_reachable(const Spot& from, vec3 goal) const override;
  float distance(const Spot& from, const Spot& to) const override;
  /// Known without a search.
  bool reachable(const Spot& from, const Spot& to) const override;
  const TileMap* tiles(const Spot& spot) const override {
    return known(spot) ? &map_for(width(spot.layer)) : &map();
  }
  std::uint64_t revision() const override { return edits_.revision(); }
  bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const override;
  bool may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const override;

 private:
  /// How bodies of one radius, kept from blocked cells, see the map; radius 0: a point.
  using Width = Widths<const TileLayer*>::Width;
  /// What a thread needs to find a route.
  struct Searcher {
    explicit Searcher(std::pmr::memory_resource* memory)
        : search(memory), turns(memory), taut(memory), line(memory), costs(memory) {}
    /// A line that is not to be crossed.
    struct Closed {
      vec2 from, to;  // metres
    };
    /// The map of a width, on which cells may be covered for as long as one search takes.
    struct Copy {
      TileMap map;
      std::uint16_t width;
      std::uint64_t revision;
    };
    TileSearch search;
    std::pmr::vector<Cell> turns;  // of a way that was planned over gates
    TileTaut taut;
    std::pmr::vector<vec2> line;
    std::pmr::vector<double> costs;  // of the ways between the points of the line
    std::optional<Closed> closed;
    std::optional<Copy> copy;
  };

  std::uint16_t width_for(float radius) const;
  const Width& width(std::uint16_t number) const { return widths_[number]; }
  Cell home_of(const Spot& spot) const { return map().cell_of(spot.piece); }
  bool known(const Spot& spot) const;
  bool known(const Spot& from, const Spot& to) const;
  const TileMap& map_for(const Width& width) const { return width.made->map(); }
  std::optional<Spot> spot_at(std::uint16_t number, vec2 at) const;
  Spot spot_in(std::uint16_t number, Cell cell, vec2 near) const;
  template <class Allowed>
  Snap nearest(std::uint16_t number, vec2 at, float reach, Allowed&& allowed) const;
  Spot spot_on_line(const Spot& from, vec2 at) const;
  Stretch straight_of_point(std::uint16_t number, vec2 start, Cell cell, vec2 way) const;
  bool clear_line(std::uint16_t number, vec2 from, vec2 to) const;
  double cost_of_line(vec2 from, vec2 to) const;
  bool find(const TileLayer& layer, Cell from, Cell to, Searcher& searcher, std::uint64_t& expanded) const;
  bool find_round(const Spot& from, const Spot& to, double most, Searcher& searcher) const;
  void lay(std::uint16_t number, vec2 from, vec2 to, Searcher& searcher) const;
  static void go_down(const FlowField& field, Cell from, Cell to, std::pmr::vector<Cell>& turns);
  static void complete(const Spot& from, const Spot& to, std::span<const vec2> line, Route& route);
  void leave_out_turns(std::uint16_t number, Searcher& searcher) const;
  template <class Change>
  void edit(CellBox box, bool opens, Change&& change);
  void barrier_changed(const Barrier& barrier, bool gone) override;
  bool covered(Cell cell, std::span<const PlacedBarrier* const> near) const;
  std::vector<const PlacedBarrier*> barriers_in(CellBox box) const;

  bool along_cells_;
  std::size_t far_cells_;
  std::pmr::memory_resource* memory_;
  TileLayer base_;
  Edits<CellBox> edits_;

  mutable std::mutex wide_mutex_;
  mutable std::vector<std::unique_ptr<TileLayer>> wide_layers_;
  mutable Widths<const TileLayer*> widths_;
  mutable Pool<Searcher> searchers_;
};

}  // namespace ambulon
