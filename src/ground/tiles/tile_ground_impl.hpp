#pragma once

#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/pool.hpp"
#include "ground/edits.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "ground/tiles/tile_search.hpp"
#include "ground/tiles/tile_taut.hpp"
#include "ground/widths.hpp"

namespace ambulon {

class FlowField;

/// The implementation of a tile ground. `Spot::piece` is the index of a cell, `Spot::layer` the number of a
/// body width.
class TileGround::Impl {
 public:
  Impl(const TileGround& self, TileMap map, const TileGroundOptions& options);

  const TileMap& map() const { return base_.map(); }
  const TileLayer& layer(float radius) const { return *width(width_for(radius)).made; }
  Expected<Cell> set(Cell cell, std::uint8_t value);
  Expected<CellBox> fill(CellBox box, std::uint8_t value);
  /// Returns the changed boxes of cells since a revision; nothing if it is too old.
  using Edit = Edits<CellBox>::Edit;
  std::optional<std::span<const Edit>> edits_since(std::uint64_t revision) const {
    return edits_.since(revision);
  }
  std::uint64_t revision() const { return edits_.revision(); }

  Snap snap(vec3 point, float reach, const Body& body) const;
  void route(const Spot& from, const Spot& to, Route& route) const;
  void detour(const Spot& from, const Spot& to, const Bottleneck& jam, float max, Route& route) const;
  /// True on a map of uniform cost with taut routes. A flow field from the goal then answers all of them,
  /// which is faster for about 1,000 routes or more on 10^6 cells.
  bool shares_routes(const Spot& to, std::span<const Spot> from) const;
  void routes_to(const Spot& to, std::span<const Spot> from, std::span<Route* const> ways) const;
  bool sight(const Spot& from, const Spot& to) const;
  /// For a point-sized body, a line may touch a corner of a blocked cell. It passes between two blocked cells
  /// that touch at a corner only if corners may be cut.
  Stretch straight(const Spot& from, vec2 way) const;
  Clearance clearance(const Spot& spot, float max) const;
  Spot random_spot(Random& random, const Spot& around, float radius) const;
  Snap nearest_reachable(const Spot& from, vec3 goal) const;
  float distance(const Spot& from, const Spot& to) const;
  /// From the components, without a search.
  bool reachable(const Spot& from, const Spot& to) const;
  const TileMap* tiles(const Spot& spot) const { return known(spot) ? &map_for(width(spot.layer)) : &map(); }
  bool changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const;
  bool may_shorten(vec3 from, vec3 to, float left, const Body& body, std::uint64_t since) const;
  void barrier_changed(const Barrier& barrier, bool gone);

 private:
  /// The map as bodies of one radius see it; radius 0: a point.
  using Width = Widths<const TileLayer*>::Width;
  /// Working memory of a search, one per thread.
  struct Searcher {
    explicit Searcher(std::pmr::memory_resource* memory)
        : search(memory), turns(memory), taut(memory), line(memory), costs(memory) {}
    /// A line that a detour must not cross.
    struct Closed {
      vec2 from, to;  // metres
    };
    /// A copy of the map of a width, on which a search can cover cells.
    struct Copy {
      TileMap map;
      std::uint16_t width;
      std::uint64_t revision;
    };
    TileSearch search;
    std::pmr::vector<Cell> turns;  // of a route over gates
    TileTaut taut;
    std::pmr::vector<vec2> line;
    std::pmr::vector<double> costs;  // between the points of the line
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
  bool find_round(const Spot& from, const Spot& to, double max, Searcher& searcher) const;
  void lay(std::uint16_t number, vec2 from, vec2 to, Searcher& searcher) const;
  static void go_down(const FlowField& field, Cell from, Cell to, std::pmr::vector<Cell>& turns);
  static void complete(const Spot& from, const Spot& to, std::span<const vec2> line, Route& route);
  void leave_out_turns(std::uint16_t number, Searcher& searcher) const;
  template <class Change>
  void edit(CellBox box, bool opens, Change&& change);
  bool covered(Cell cell, std::span<const PlacedBarrier* const> near) const;
  std::vector<const PlacedBarrier*> barriers_in(CellBox box) const;

  const TileGround& self_;
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
