// Searches on tile maps of several kinds, with the same queries: jump points, A*, and the A* of Boost.Graph
// on the same grid as an implicit graph with lazily initialised, reused arrays. Usage: bench_tiles [SIZE
// [QUERIES [QUERIES_FOR_BOOST]]]

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <functional>

#include <boost/graph/astar_search.hpp>

#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"

#include "../tests/support/counting_memory.hpp"
#include "base/geometry.hpp"
#include "ground/tiles/tile_components.hpp"
#include "ground/tiles/tile_gates.hpp"
#include "ground/tiles/tile_search.hpp"
#include "tile_maps.hpp"

namespace ambulon::bench {

using Vertex = std::uint32_t;

/// A tile map as a graph of Boost.Graph.
struct Grid {
  const TileMap* map;
};
struct GridEdge {
  Vertex from, to;
  bool aslant;
  friend bool operator==(const GridEdge& a, const GridEdge& b) { return a.from == b.from && a.to == b.to; }
};

class GridEdges {
 public:
  using iterator_category = std::forward_iterator_tag;
  using value_type = GridEdge;
  using difference_type = std::ptrdiff_t;
  using pointer = const GridEdge*;
  using reference = GridEdge;

  GridEdges() = default;
  GridEdges(const TileMap* map, Vertex from, int direction)
      : map_(map), from_(from), cell_(map->cell_of(from)), direction_(direction) {
    find();
  }
  GridEdge operator*() const { return {from_, map_->index(to()), direction_ >= 4}; }
  GridEdges& operator++() {
    ++direction_;
    find();
    return *this;
  }
  GridEdges operator++(int) {
    GridEdges old = *this;
    ++*this;
    return old;
  }
  friend bool operator==(const GridEdges& a, const GridEdges& b) { return a.direction_ == b.direction_; }

 private:
  static constexpr int dx[] = {1, 0, -1, 0, 1, -1, -1, 1}, dy[] = {0, 1, 0, -1, 1, 1, -1, -1};
  Cell to() const { return {cell_.x + dx[direction_], cell_.y + dy[direction_]}; }
  void find() {
    while (direction_ < 8 && !map_->step_allowed(cell_, to())) ++direction_;
  }

  const TileMap* map_ = nullptr;
  Vertex from_ = 0;
  Cell cell_;
  int direction_ = 8;
};

Vertex source(const GridEdge& edge, const Grid&) { return edge.from; }
Vertex target(const GridEdge& edge, const Grid&) { return edge.to; }
std::pair<GridEdges, GridEdges> out_edges(Vertex vertex, const Grid& grid) {
  return {GridEdges(grid.map, vertex, 0), GridEdges(grid.map, vertex, 8)};
}
std::size_t out_degree(Vertex vertex, const Grid& grid) {
  const auto [from, to] = out_edges(vertex, grid);
  return static_cast<std::size_t>(std::distance(from, to));
}

}  // namespace ambulon::bench

namespace boost {
template <>
struct graph_traits<ambulon::bench::Grid> {
  using vertex_descriptor = ambulon::bench::Vertex;
  using edge_descriptor = ambulon::bench::GridEdge;
  using out_edge_iterator = ambulon::bench::GridEdges;
  using directed_category = directed_tag;
  using edge_parallel_category = disallow_parallel_edge_tag;
  struct traversal_category : incidence_graph_tag {};
  using degree_size_type = std::size_t;
};
}  // namespace boost

namespace ambulon::bench {

/// Vertex values that count as uninitialised if an earlier search wrote them.
template <class Value>
struct Fresh {
  using value_type = Value;
  using key_type = Vertex;
  using reference = Value;
  using category = boost::read_write_property_map_tag;
  std::vector<Value>* values;
  std::vector<std::uint32_t>* seen;
  const std::uint32_t* search;
  Value initial;
  friend Value get(const Fresh& map, Vertex vertex) {
    return (*map.seen)[vertex] == *map.search ? (*map.values)[vertex] : map.initial;
  }
  friend void put(const Fresh& map, Vertex vertex, Value value) {
    (*map.seen)[vertex] = *map.search;
    (*map.values)[vertex] = value;
  }
};

struct Weight {
  using value_type = double;
  using key_type = GridEdge;
  using reference = double;
  using category = boost::readable_property_map_tag;
  friend double get(const Weight&, const GridEdge& edge) { return edge.aslant ? std::sqrt(2.0) : 1.0; }
};

struct Arrived {};

struct StopAt : boost::default_astar_visitor {
  Vertex goal;
  explicit StopAt(Vertex goal_vertex) : goal(goal_vertex) {}
  void examine_vertex(Vertex vertex, const Grid&) const {
    if (vertex == goal) throw Arrived();
  }
};

class BoostSearch {
 public:
  explicit BoostSearch(const TileMap& map)
      : map_(map), cells_(static_cast<std::size_t>(map.width() * map.height())) {
    for (auto* values : {&distance_, &estimate_}) values->resize(cells_);
    predecessor_.resize(cells_), colour_.resize(cells_);
    for (auto& seen : seen_) seen.resize(cells_);
  }

  double length(Cell from, Cell to) {
    ++search_;
    const double far = std::numeric_limits<double>::infinity();
    const Fresh<double> distance{&distance_, &seen_[0], &search_, far},
        estimate{&estimate_, &seen_[1], &search_, far};
    const Fresh<Vertex> predecessor{&predecessor_, &seen_[2], &search_, 0};
    const Fresh<boost::default_color_type> colour{&colour_, &seen_[3], &search_, boost::white_color};
    const auto heuristic = [&](Vertex vertex) {
      const Cell cell = map_.cell_of(vertex);
      const double x = std::abs(cell.x - to.x), y = std::abs(cell.y - to.y);
      return std::max(x, y) + (std::sqrt(2.0) - 1) * std::min(x, y);
    };
    const Vertex start = map_.index(from), goal = map_.index(to);
    put(distance, start, 0.0);
    put(estimate, start, heuristic(start));
    try {
      boost::astar_search_no_init(Grid{&map_}, start, heuristic, StopAt(goal), predecessor, estimate,
                                  distance, Weight(), colour, boost::typed_identity_property_map<Vertex>(),
                                  std::less<double>(), std::plus<double>(), far, 0.0);
    } catch (Arrived) {
      return get(distance, goal);
    }
    return far;
  }

 private:
  const TileMap& map_;
  std::size_t cells_;
  std::uint32_t search_ = 0;
  std::vector<double> distance_, estimate_;
  std::vector<Vertex> predecessor_;
  std::vector<boost::default_color_type> colour_;
  std::vector<std::uint32_t> seen_[4];
};

}  // namespace ambulon::bench

namespace {

using namespace ambulon;
using namespace ambulon::bench;

struct Query {
  Cell from, to;
};

/// Returns queries between free cells of one component.
std::vector<Query> queries_on(const TileMap& map, std::size_t count) {
  Random random(7);
  TileSearch search;
  std::vector<Query> all;
  const auto cell = [&] {
    return Cell{static_cast<int>(random.below(static_cast<std::uint32_t>(map.width()))),
                static_cast<int>(random.below(static_cast<std::uint32_t>(map.height())))};
  };
  while (all.size() < count) {
    const Query query{cell(), cell()};
    if (search.find(map, query.from, query.to)) all.push_back(query);
  }
  return all;
}

/// Microseconds per query, mean of several rounds, and the sum of all lengths.
std::pair<double, double> timed(const std::vector<Query>& queries,
                                const std::function<double(const Query&)>& length, int rounds = 1) {
  double sum = 0;
  const auto began = std::chrono::steady_clock::now();
  for (int round = 0; round < rounds; ++round)
    for (const Query& query : queries) sum += length(query);
  const std::chrono::duration<double, std::micro> took = std::chrono::steady_clock::now() - began;
  return {took.count() / static_cast<double>(queries.size()) / rounds, sum / rounds};
}

/// The duration of labelling a map, and of updating the labels when a random cell changes: microseconds.
std::pair<double, double> labelling(TileMap map) {
  using Clock = std::chrono::steady_clock;
  TileComponents components;
  Random random(5);
  constexpr int edits = 4000;
  const auto began = Clock::now();
  components.label(map);
  const auto labelled = Clock::now();
  for (int i = 0; i < edits; ++i) {
    const Cell cell{static_cast<int>(random.below(static_cast<std::uint32_t>(map.width()))),
                    static_cast<int>(random.below(static_cast<std::uint32_t>(map.height())))};
    (void)map.set(cell, map.free(cell) ? TileMap::blocked : std::uint8_t{1});
    components.changed(map, cell);
  }
  const std::chrono::duration<double, std::micro> whole = labelled - began,
                                                  all_edits = Clock::now() - labelled;
  return {whole.count(), all_edits.count() / edits};
}

/// Milliseconds of the fastest of several runs.
double quickest(int runs, const std::function<void()>& work) {
  double min = 1e300;
  for (int i = 0; i < runs; ++i) {
    const auto began = std::chrono::steady_clock::now();
    work();
    const std::chrono::duration<double, std::milli> took = std::chrono::steady_clock::now() - began;
    min = std::min(min, took.count());
  }
  return min;
}

/// The baseline of a flow field: a breadth-first search of the same cells from the same goal, to four sides.
std::uint32_t sweep_all(const TileMap& map, Cell goal, std::vector<std::uint32_t>& steps,
                        std::vector<std::uint32_t>& open) {
  constexpr std::uint32_t none = ~std::uint32_t{0};
  std::ranges::fill(steps, none);
  open.assign(1, map.index(goal));
  steps[open[0]] = 0;
  for (std::size_t next = 0; next < open.size(); ++next) {
    const Cell cell = map.cell_of(open[next]);
    for (const auto& [x, y] : {std::pair{1, 0}, {0, 1}, {-1, 0}, {0, -1}}) {
      const Cell to{cell.x + x, cell.y + y};
      if (!map.free(to) || steps[map.index(to)] != none) continue;
      steps[map.index(to)] = steps[open[next]] + 1;
      open.push_back(map.index(to));
    }
  }
  return steps[open.back()];
}

void flow_fields(int size) {
  const std::pair<const char*, Sketch> maps[] = {
      {"random 25 %", scattered(size, 25, 2)},
      {"rooms", rooms(size, 15, 4)},
      {"maze, 4 wide", maze(size, 4, 7)},
      {"caves", caves(size, 9)},
      {"town", town(size, 10)},
      {"blobs", blobs(size, 11)},
  };
  std::printf("\n%d by %d, flow field  field, ms    sweep, ms    ratio   mended, ms\n", size, size);
  for (const auto& [name, sketch] : maps) {
    TileGround ground(sketch.map());
    const Snap snap = ground.snap(lift(vec2(0.5f * static_cast<float>(size))), 1e6f);
    std::vector<std::uint32_t> steps(static_cast<std::size_t>(size * size)), open;
    const Cell goal = ground.map().cell_of(snap.spot.piece);
    const double sweep = quickest(5, [&] { (void)sweep_all(ground.map(), goal, steps, open); });
    const double field =
        quickest(3, [&] { const FlowField each(ground, std::span(&snap.spot.position, 1)); });
    FlowField kept(ground, std::span(&snap.spot.position, 1));
    Random random(4);
    double mended = 0;
    constexpr int edits = 20;
    for (int i = 0; i < edits; ++i) {
      const vec2 at(static_cast<float>(size) * random.fraction(),
                    static_cast<float>(size) * random.fraction());
      ground.put(*Barrier::box(at, {2, 2}));
      mended += quickest(1, [&] { (void)kept.update(); });
    }
    std::printf("%-20s %10.1f %12.1f %8.1f %12.2f\n", name, field, sweep, field / sweep, mended / edits);
  }
}

void memory(int size) {
  CountingMemory counting;
  const Sketch sketch = caves(size, 9);
  const TileMap map = TileMap::make(sketch.cells(), {.width = size, .height = size}, &counting).value();
  const std::size_t of_map = counting.bytes;
  TileComponents components(&counting);
  components.label(map);
  const std::size_t of_labels = counting.bytes - of_map;
  TileSearch search(&counting);
  for (const auto& [from, to] : queries_on(map, 200)) (void)search.find(map, from, to, TileMethod::a_star);
  const double cells = static_cast<double>(size) * size;
  std::printf("\nbytes a cell: map %.2f, components %.2f, one searcher %.2f, in all %.2f\n",
              static_cast<double>(of_map) / cells, static_cast<double>(of_labels) / cells,
              static_cast<double>(counting.bytes - of_map - of_labels) / cells,
              static_cast<double>(counting.bytes) / cells);
}

/// Routes over gates against exact ones, on caves whose cells cost 1 to 4.
void far_ways(int size) {
  const Sketch sketch = caves(size, 9);
  std::vector<std::uint8_t> cells = sketch.cells();
  for (std::size_t i = 0; i < cells.size(); ++i)
    if (cells[i] != 0)
      cells[i] = static_cast<std::uint8_t>(
          1 + (i % static_cast<std::size_t>(size) / 37 + i / static_cast<std::size_t>(size) / 53) % 4);
  const TileMap map = TileMap::make(cells, {.width = size, .height = size}).value();
  TileGates gates(map);
  const double build = quickest(1, [&] { gates.build(); });
  TileSearch exact;
  TileFarSearch far;
  double by_exact = 0, planned = 0, first = 0, rest = 0, worst = 1, sum = 0;
  const auto queries = queries_on(map, 30);
  std::pmr::vector<Cell> way;
  for (const auto& [from, to] : queries) {
    by_exact += quickest(1, [&] { (void)exact.find(map, from, to); });
    planned += quickest(1, [&] { (void)far.plan(gates, from, to); });
    way.clear();
    first += quickest(1, [&] { (void)far.next_leg(way); });
    rest += quickest(1, [&] {
      while (far.next_leg(way)) {
      }
    });
    const double ratio = exact.length() > 0 ? far.length() / exact.length() : 1;
    worst = std::max(worst, ratio), sum += ratio;
  }
  const auto count = static_cast<double>(queries.size());
  std::printf(
      "\n%d by %d caves of four costs: gates measured in %.1f s; exact %.1f ms, planned %.1f ms, first leg "
      "%.2f ms, the rest %.1f ms; longer by %.2f %% in the mean, %.2f %% at most\n",
      size, size, build / 1000, by_exact / count, planned / count, first / count, rest / count,
      100 * (sum / count - 1), 100 * (worst - 1));
}

}  // namespace

int main(int argc, char** argv) {
  const int size = argc > 1 ? std::atoi(argv[1]) : 512;
  const auto count = static_cast<std::size_t>(argc > 2 ? std::atoi(argv[2]) : 1000);
  const auto for_boost = static_cast<std::size_t>(argc > 3 ? std::atoi(argv[3]) : 50);
  const std::pair<const char*, Sketch> maps[] = {
      {"random 10 %", scattered(size, 10, 1)},
      {"random 25 %", scattered(size, 25, 2)},
      {"random 40 %", scattered(size, 40, 3)},
      {"rooms", rooms(size, 15, 4)},
      {"maze, 1 wide", maze(size, 1, 5)},
      {"maze, 2 wide", maze(size, 2, 6)},
      {"maze, 4 wide", maze(size, 4, 7)},
      {"maze, 8 wide", maze(size, 8, 8)},
      {"caves", caves(size, 9)},
      {"town", town(size, 10)},
      {"blobs", blobs(size, 11)},
  };
  std::printf("%d by %d cells, %zu queries (%zu for Boost)\n\n", size, size, count, for_boost);
  std::printf("%-14s %12s %12s %12s %9s %9s\n", "map", "jumps, us", "A*, us", "Boost, us", "A*/jumps",
              "Boost/jumps");
  double by_a_star = 0, by_boost = 0;
  for (const auto& [name, sketch] : maps) {
    const TileMap map = sketch.map();
    const auto queries = queries_on(map, count);
    const std::vector<Query> few(queries.begin(),
                                 queries.begin() + static_cast<std::ptrdiff_t>(std::min(for_boost, count)));
    TileSearch search;
    BoostSearch boost_search(map);
    const auto ours = [&](TileMethod method) {
      return [&, method](const Query& query) {
        return search.find(map, query.from, query.to, method), search.length();
      };
    };
    const auto jumps = timed(queries, ours(TileMethod::jump_points)),
               a_star = timed(queries, ours(TileMethod::a_star));
    // Before and after the peer, since the speed of the machine varies.
    const auto before = timed(few, ours(TileMethod::jump_points), 5);
    const auto peer =
        timed(few, [&](const Query& query) { return boost_search.length(query.from, query.to); });
    const auto after = timed(few, ours(TileMethod::jump_points), 5);
    const double few_jumps = 0.5 * (before.first + after.first);
    if (std::abs(jumps.second - a_star.second) > 1e-3 || std::abs(before.second - peer.second) > 1e-3)
      return std::fprintf(stderr, "%s: the lengths differ\n", name), 1;
    std::printf("%-14s %12.1f %12.1f %12.1f %9.1f %9.1f\n", name, jumps.first, a_star.first, peer.first,
                a_star.first / jumps.first, peer.first / few_jumps);
    by_a_star += std::log(a_star.first / jumps.first), by_boost += std::log(peer.first / few_jumps);
  }
  constexpr double kinds = std::size(maps);
  std::printf("%-14s %51.1f %9.1f\n", "geometric mean", std::exp(by_a_star / kinds),
              std::exp(by_boost / kinds));

  std::printf("\n%-14s %12s %12s %9s\n", "components", "label, us", "edit, us", "edit, %");
  for (const auto& [name, sketch] : maps) {
    const auto [label, edit] = labelling(sketch.map());
    std::printf("%-14s %12.0f %12.2f %9.3f\n", name, label, edit, 100 * edit / label);
  }
  flow_fields(2 * size);
  memory(2 * size);
  far_ways(4 * size);
}
