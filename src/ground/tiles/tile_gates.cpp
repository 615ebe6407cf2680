#include "ground/tiles/tile_gates.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

#include "base/geometry.hpp"
#include "ground/tiles/bucket_queue.hpp"
#include "ground/tiles/tile_search.hpp"

namespace ambulon {
namespace {

constexpr double far = std::numeric_limits<double>::infinity();
constexpr int min_run = 2;         // cells: shorter gaps of different costs may share a gate
constexpr int short_run = 6;       // cells: up to here a gap has one gate
constexpr int gate_spacing = 12;   // cells between the gates of a longer gap
constexpr std::size_t window = 4;  // entries of clusters ahead that one leg considers

constexpr std::array<Cell, 4> outward = {{{1, 0}, {0, 1}, {-1, 0}, {0, -1}}};  // normals of the sides

double octile(Cell a, Cell b) {
  const double x = std::abs(a.x - b.x), y = std::abs(a.y - b.y);
  return std::max(x, y) + (std::numbers::sqrt2 - 1) * std::min(x, y);
}

}  // namespace

TileGates::TileGates(const TileMap& map, std::pmr::memory_resource* memory)
    : map_(map),
      across_((map.width() + cluster_size - 1) / cluster_size),
      up_((map.height() + cluster_size - 1) / cluster_size),
      clusters_(static_cast<std::size_t>(across_) * static_cast<std::size_t>(up_), Cluster(memory), memory),
      open_(memory) {}

void TileGates::changed(CellBox box) {
  // A change at a border affects the gates on both sides.
  const Cell low{std::max(0, box.low.x - 1), std::max(0, box.low.y - 1)},
      high{std::min(map_.width() - 1, box.high.x + 1), std::min(map_.height() - 1, box.high.y + 1)};
  for (int y = low.y / cluster_size; y <= high.y / cluster_size; ++y)
    for (int x = low.x / cluster_size; x <= high.x / cluster_size; ++x) {
      Cluster& cluster = clusters_[cluster_at({x * cluster_size, y * cluster_size})];
      measured_ -= cluster.measured ? 1 : 0;
      cluster.listed = cluster.measured = false;
    }
}

void TileGates::build() {
  for (std::uint32_t number = 0; number < clusters_.size(); ++number) measured(number);
}

TileGates::Cluster& TileGates::listed(std::uint32_t number) {
  Cluster& cluster = clusters_[number];
  if (!cluster.listed) list_gates(cluster, corner_of(number));
  return cluster;
}

const TileGates::Cluster& TileGates::measured(std::uint32_t number) {
  Cluster& cluster = clusters_[number];
  listed(number);
  if (cluster.measured) return cluster;
  const std::size_t count = cluster.gates.size();
  cluster.lengths.assign(count * count, 0.f);
  for (std::size_t i = 0; i < count; ++i) {
    flood(cluster.gates[i].cell, std::span(cluster.gates).subspan(i));
    for (std::size_t j = i; j < count; ++j)  // it is as far back
      cluster.lengths[i * count + j] = cluster.lengths[j * count + i] =
          static_cast<float>(length_to(cluster.gates[j].cell));
  }
  cluster.measured = true;
  ++measured_;
  return cluster;
}

void TileGates::list_gates(Cluster& cluster, Cell corner) {
  constexpr int last = cluster_size - 1;
  cluster.gates.clear();
  const std::array<Cell, 4> starts = {
      Cell{corner.x + last, corner.y}, {corner.x, corner.y + last}, corner, corner};
  for (std::uint32_t side = 0; side < 4; ++side) {
    list_side(cluster, side, starts[side]);
    list_diagonals(cluster, side, starts[side]);
  }
  const std::array<Cell, 4> corners = {Cell{corner.x + last, corner.y + last},
                                       {corner.x, corner.y + last},
                                       corner,
                                       {corner.x + last, corner.y}};
  for (std::uint32_t i = 0; i < 4; ++i) list_corner(cluster, i, corners[i]);
  cluster.listed = true;
}

/// Lists the gates of one side: one in the middle of a short gap, several along a longer one. Cells of
/// different cost are separate gaps, since paths prefer the cheaper ones.
void TileGates::list_side(Cluster& cluster, std::uint32_t side, Cell first) {
  const Cell out = outward[side], along{std::abs(out.y), std::abs(out.x)};
  cluster.first[side] = static_cast<std::uint32_t>(cluster.gates.size());
  const auto cell_at = [&](int i) { return Cell{first.x + i * along.x, first.y + i * along.y}; };
  const auto open = [&](int i) {
    const Cell cell = cell_at(i), beyond{cell.x + out.x, cell.y + out.y};
    return map_.inside(cell) && map_.inside(beyond) && map_.free(cell) && map_.free(beyond);
  };
  const auto cost = [&](int i) {
    const Cell cell = cell_at(i), beyond{cell.x + out.x, cell.y + out.y};
    return map_.cost(cell) + map_.cost(beyond);
  };
  const auto add = [&](int i) {
    const Cell cell = cell_at(i), beyond{cell.x + out.x, cell.y + out.y};
    const auto place = static_cast<std::uint32_t>(cluster.gates.size()) - cluster.first[side];
    cluster.gates.push_back(
        {cell, beyond, cluster_at(beyond) * numbers + (side + 2) % 4 * gates_of_side + place});
  };
  for (int i = 0; i < cluster_size;) {
    int end = i;
    while (end < cluster_size && open(end) && (end < i + min_run || cost(end) == cost(i))) ++end;
    const int run = end - i;
    if (run > short_run) {
      const int gaps = (run - 1 + gate_spacing - 1) / gate_spacing;
      for (int gate = 0; gate <= gaps; ++gate) add(i + (run - 1) * gate / gaps);
    } else if (run > 0) {
      add(i + run / 2);
    }
    i = std::max(end, i + 1);
  }
}

/// Returns true if a diagonal step between two cells is allowed and no side step can replace it.
bool TileGates::only_diagonal(Cell from, Cell to) const {
  return map_.inside(from) && map_.inside(to) && map_.free(from) && !map_.free({to.x, from.y}) &&
         !map_.free({from.x, to.y}) && map_.step_allowed(from, to);
}

/// Lists the diagonal steps over a side, if corners may be cut: one gate each, in the same order from both
/// sides.
void TileGates::list_diagonals(Cluster& cluster, std::uint32_t side, Cell first) {
  const Cell out = outward[side], along{std::abs(out.y), std::abs(out.x)};
  for (int i = 0; i + 1 < cluster_size; ++i)
    for (const int off : {0, 1}) {
      const int here = i + off, there = i + 1 - off;
      const Cell cell{first.x + here * along.x, first.y + here * along.y},
          beyond{first.x + there * along.x + out.x, first.y + there * along.y + out.y};
      if (!only_diagonal(cell, beyond)) continue;
      const auto place = static_cast<std::uint32_t>(cluster.gates.size()) - cluster.first[side];
      cluster.gates.push_back(
          {cell, beyond, cluster_at(beyond) * numbers + (side + 2) % 4 * gates_of_side + place});
    }
}

/// Lists the diagonal step from the corner of a cluster to the opposite cluster.
void TileGates::list_corner(Cluster& cluster, std::uint32_t corner, Cell cell) {
  constexpr std::array<Cell, 4> out = {{{1, 1}, {-1, 1}, {-1, -1}, {1, -1}}};
  cluster.first[4 + corner] = static_cast<std::uint32_t>(cluster.gates.size());
  const Cell beyond{cell.x + out[corner].x, cell.y + out[corner].y};
  if (only_diagonal(cell, beyond))
    cluster.gates.push_back({cell, beyond, cluster_at(beyond) * numbers + corners_from + (corner + 2) % 4});
}

void TileGates::flood(Cell from, std::span<const Gate> goals) {
  lengths_.fill(far);
  open_.clear(1024);
  const std::uint32_t cluster = cluster_at(from);
  const Cell corner = corner_of(cluster);
  const auto relax = [&](Cell cell, double length) {
    double& now = lengths_[place_in(cell)];
    if (length >= now) return;
    now = length;
    open_.push(length, length, map_.index(cell));
  };
  double until = far;
  int looks = 0;
  relax(from, 0);
  while (!open_.empty()) {
    const BucketQueue::Entry next = open_.pop();
    const Cell here = map_.cell_of(next.item);
    if (next.length > length_to(here)) continue;
    // Entries below this bucket are final. When all goals are, the flood stops.
    if (next.length > until + 1) break;
    if (++looks % 64 == 0) {
      until = 0;
      for (const Gate& goal : goals) until = std::max(until, length_to(goal.cell));
    }
    for (int y = -1; y <= 1; ++y)
      for (int x = -1; x <= 1; ++x) {
        const Cell to{here.x + x, here.y + y};
        const bool inside = to.x >= corner.x && to.y >= corner.y && to.x < corner.x + cluster_size &&
                            to.y < corner.y + cluster_size && map_.inside(to);
        if (!inside || to == here || !map_.step_allowed(here, to)) continue;
        const double cost = 0.5 * (map_.cost(here) + map_.cost(to));
        relax(to, next.length + (x != 0 && y != 0 ? std::numbers::sqrt2 : 1.0) * cost);
      }
  }
}

double TileGates::length_to(Cell cell) const { return lengths_[place_in(cell)]; }

// --- Search -----------------------------------------------------------------------------------

bool TileFarSearch::plan(TileGates& gates, Cell from, Cell to, std::uint64_t exact) {
  gates_ = &gates;
  from_ = here_ = from, to_ = to;
  stations_.clear();
  next_station_ = 0;
  length_ = 0;
  search_.begin(gates.map(), from, to);
  const TileSearch::State state = search_.go_on(exact);
  expanded_ = search_.expanded();
  if (state == TileSearch::State::no_route) return false;
  if (state == TileSearch::State::searching) return plan_by_gates();
  stations_.push_back(to);
  return true;
}

bool TileFarSearch::plan_by_gates() {
  nodes_.resize(gates_->clusters_.size() * TileGates::numbers);
  if (++search_number_ == 0) {
    std::ranges::fill(nodes_, Node{});
    search_number_ = 1;
  }
  open_.clear(4.0 * 256 * TileGates::cluster_size * TileGates::cluster_size);
  best_ = far, best_parent_ = none;

  const std::uint32_t home = gates_->cluster_at(from_), last = gates_->cluster_at(to_);
  const auto& exits = gates_->listed(last).gates;
  gates_->flood(to_, exits);
  exits_.clear();
  for (const auto& gate : exits) exits_.push_back(gates_->length_to(gate.cell));
  const TileGates::Cluster& first = gates_->listed(home);
  std::pmr::vector<TileGates::Gate> ways(first.gates);
  ways.push_back({to_, to_, 0});  // so that the flood reaches the goal, too
  gates_->flood(from_, home == last ? ways : first.gates);
  if (home == last) best_ = gates_->length_to(to_);
  ways.pop_back();
  for (const auto& gate : ways)
    if (const double length = gates_->length_to(gate.cell); length != far) leave(gate, none, length);
  while (!open_.empty() && open_.min() < best_) {
    const BucketQueue::Entry next = open_.pop();
    if (next.length > nodes_[next.item].length || next.estimate >= best_) continue;
    ++expanded_;
    expand(next.item);
  }
  if (best_ == far) return false;
  for (std::uint32_t node = best_parent_; node != none; node = nodes_[node].parent)
    stations_.push_back(cell_of(node));
  std::ranges::reverse(stations_);
  stations_.push_back(to_);
  return true;
}

Cell TileFarSearch::cell_of(std::uint32_t node) {
  const TileGates::Cluster& cluster = gates_->listed(node / TileGates::numbers);
  return cluster.gates[TileGates::index_in(cluster, node)].cell;
}

void TileFarSearch::relax(std::uint32_t node, std::uint32_t parent, double length, Cell cell) {
  Node& known = nodes_[node];
  if (known.search == search_number_ && length >= known.length) return;
  known = {length, parent, search_number_};
  open_.push(length + octile(cell, to_), length, node);
}

/// Relaxes the gates of the cluster behind a gate, and the goal.
void TileFarSearch::expand(std::uint32_t node) {
  const TileGates::Cluster& cluster = gates_->measured(node / TileGates::numbers);
  const std::size_t gate = TileGates::index_in(cluster, node), count = cluster.gates.size();
  const double length = nodes_[node].length;
  if (node / TileGates::numbers == gates_->cluster_at(to_) && length + exits_[gate] < best_) {
    best_ = length + exits_[gate];
    best_parent_ = node;
  }
  for (std::size_t other = 0; other < count; ++other)
    if (const float way = cluster.lengths[gate * count + other]; std::isfinite(way))
      leave(cluster.gates[other], node, length + static_cast<double>(way));
}

/// Steps through a gate into the next cluster.
void TileFarSearch::leave(const TileGates::Gate& out, std::uint32_t parent, double length) {
  const double cost = 0.5 * (gates_->map().cost(out.cell) + gates_->map().cost(out.beyond));
  const bool diagonal = out.cell.x != out.beyond.x && out.cell.y != out.beyond.y;
  const double step = (diagonal ? std::numbers::sqrt2 : 1.0) * cost;
  relax(out.partner, parent, length + step, out.beyond);
}

/// Finds the exact path to an entry some clusters ahead and keeps only its first part. So the path does not
/// bend at gates in between, whose positions are arbitrary.
bool TileFarSearch::next_leg(std::pmr::vector<Cell>& cells) {
  if (next_station_ >= stations_.size()) return false;
  const std::size_t ahead = std::min(next_station_ + window, stations_.size() - 1);
  const bool whole = ahead + 1 == stations_.size();
  if (!search_.find(gates_->map(), here_, stations_[ahead])) {  // the map has changed since the plan
    next_station_ = stations_.size();
    return false;
  }
  expanded_ += search_.expanded();
  const auto path = search_.path();
  const auto legs = static_cast<double>(ahead - next_station_ + 1);
  double left = whole ? far : search_.length() / legs;
  Cell before = here_;
  for (std::size_t i = 1; i < path.size() && left > 0; ++i) {
    const Cell turn = path[i];
    const int x = turn.x - before.x, y = turn.y - before.y, steps = std::max(std::abs(x), std::abs(y));
    const Cell step{(x > 0) - (x < 0), (y > 0) - (y < 0)};
    int gone = 0;
    for (; gone < steps && left > 0; ++gone) {
      const Cell next{before.x + step.x, before.y + step.y};
      const double cost = 0.5 * (gates_->map().cost(before) + gates_->map().cost(next));
      const double metres = (x != 0 && y != 0 ? std::numbers::sqrt2 : 1.0) * cost;
      length_ += metres, left -= metres;
      before = next;
    }
    cells.push_back(before);
  }
  here_ = before;
  next_station_ = whole ? stations_.size() : next_station_ + 1;
  return true;
}

}  // namespace ambulon
