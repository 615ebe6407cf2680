#include "ground/tiles/tile_components.hpp"

namespace ambulon {
namespace {

// The neighbours of a cell, counter-clockwise from the east: sides at even indices, corners at odd ones.
constexpr std::array<Cell, 8> ring = {{{1, 0}, {1, 1}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}, {0, -1}, {1, -1}}};

/// Calls `visit(Cell)` for each cell joined to this one. If corners may not be cut, a diagonal step can be
/// replaced by two side steps, so the sides are sufficient.
template <class Visit>
void each_joined(const TileMap& map, Cell cell, Visit&& visit) {
  const TileRules rules = map.rules();
  const bool aslant = rules.neighbours == Neighbours::eight && rules.corners == Corners::cut;
  for (std::size_t i = 0; i < ring.size(); i += aslant ? 1 : 2) {
    const Cell to{cell.x + ring[i].x, cell.y + ring[i].y};
    if (map.free(to)) visit(to);
  }
}

}  // namespace

TileComponents::TileComponents(std::pmr::memory_resource* memory)
    : labels_(memory), parents_(memory), sizes_(memory) {}

std::uint32_t TileComponents::new_label() {
  parents_.push_back(static_cast<std::uint32_t>(parents_.size()));
  sizes_.push_back(0);
  return parents_.back();
}

void TileComponents::label(const TileMap& map) {
  labels_.assign(static_cast<std::size_t>(map.width()) * static_cast<std::size_t>(map.height()), 0);
  parents_.clear();
  sizes_.clear();
  new_label();  // 0, of blocked cells
  std::vector<Cell> open;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      if (!map.free({x, y}) || labels_[map.index({x, y})] != 0) continue;
      const std::uint32_t label = new_label();
      const auto take = [&](Cell cell) {
        std::uint32_t& now = labels_[map.index(cell)];
        if (now != 0) return;
        now = label;
        ++sizes_[label];
        open.push_back(cell);
      };
      take({x, y});
      while (!open.empty()) {
        const Cell cell = open.back();
        open.pop_back();
        each_joined(map, cell, take);
      }
    }
}

void TileComponents::changed(const TileMap& map, Cell cell) {
  const bool was_free = labels_[map.index(cell)] != 0;
  if (was_free == map.free(cell)) return;
  // Each change may use up labels. When there are as many as cells, all cells are labelled again.
  if (parents_.size() > labels_.size() + 64) return label(map);
  was_free ? closed(map, cell) : opened(map, cell);
}

std::uint32_t TileComponents::join(std::uint32_t a, std::uint32_t b) {
  a = root(a), b = root(b);
  if (a == b) return a;
  if (sizes_[a] < sizes_[b]) std::swap(a, b);
  parents_[b] = a;
  sizes_[a] += sizes_[b];
  return a;
}

void TileComponents::opened(const TileMap& map, Cell cell) {
  std::uint32_t label = 0;
  each_joined(map, cell, [&](Cell to) {
    const std::uint32_t theirs = labels_[map.index(to)];
    label = label == 0 ? root(theirs) : join(label, theirs);
  });
  if (label == 0) label = new_label();
  labels_[map.index(cell)] = label;
  ++sizes_[label];
}

void TileComponents::closed(const TileMap& map, Cell cell) {
  const std::uint32_t old = component(map, cell);
  labels_[map.index(cell)] = 0;
  --sizes_[old];
  const std::size_t count = gather_parts(map, cell);
  if (count < 2) return;
  grow_parts(map, count);
  // A part whose flood is complete is a component of its own; the others keep their label.
  for (std::size_t i = 0; i < count; ++i) {
    Part& part = parts_[i];
    const Part& whole = parts_[part_of(static_cast<std::uint32_t>(i))];
    const auto cells = static_cast<std::uint32_t>(part.cells.size());
    const bool ended = whole.next == whole.cells.size();
    if (ended) {
      sizes_[part.label] += cells;
      sizes_[old] -= cells;
      if (&part != &whole) {
        sizes_[whole.label] += sizes_[part.label];
        parents_[part.label] = whole.label;
      }
    } else {
      parents_[part.label] = old;
    }
  }
}

/// Groups the neighbours of a cell into locally connected parts, and gives each a new label.
std::size_t TileComponents::gather_parts(const TileMap& map, Cell cell) {
  const TileRules rules = map.rules();
  const bool aslant = rules.neighbours == Neighbours::eight && rules.corners == Corners::cut;
  std::array<bool, 8> free{};
  for (std::size_t i = 0; i < 8; ++i) free[i] = map.free({cell.x + ring[i].x, cell.y + ring[i].y});
  // Two consecutive sides are joined by the corner between them, or directly if corners may be cut. A part
  // begins where the side before is not joined.
  const auto joined_before = [&](std::size_t i) {
    const std::size_t before = (i + 7) % 8, side_before = (i + 6) % 8;
    if (i % 2 == 1) return free[before];  // a corner, by the side before it
    return aslant ? free[before] || free[side_before] : free[before] && free[side_before];
  };
  std::size_t count = 0;
  const std::size_t step = aslant ? 1 : 2;
  for (std::size_t i = 0; i < 8; i += step) {
    if (!free[i] || joined_before(i)) continue;
    Part& part = parts_[count];
    part.cells.assign(1, map.index({cell.x + ring[i].x, cell.y + ring[i].y}));
    part.next = 0;
    part.merged_with = static_cast<std::uint32_t>(count++);
  }
  if (count < 2) return count;
  for (std::size_t i = 0; i < count; ++i) {
    parts_[i].label = new_label();
    labels_[parts_[i].cells.front()] = parts_[i].label;
  }
  return count;
}

std::uint32_t TileComponents::part_of(std::uint32_t part) const {
  while (parts_[part].merged_with != part) part = parts_[part].merged_with;
  return part;
}

/// Floods all parts in turn, cell by cell, until at most one is incomplete.
void TileComponents::grow_parts(const TileMap& map, std::size_t count) {
  const std::uint32_t first_label = parts_[0].label;
  const auto growing = [&] {
    std::size_t all = 0;
    for (std::uint32_t i = 0; i < count; ++i)
      all += part_of(i) == i && parts_[i].next < parts_[i].cells.size() ? 1U : 0U;
    return all;
  };
  while (growing() > 1)
    for (std::uint32_t i = 0; i < count; ++i) {
      if (part_of(i) != i || parts_[i].next == parts_[i].cells.size()) continue;
      const std::uint32_t at = parts_[i].cells[parts_[i].next++];
      each_joined(map, map.cell_of(at), [&](Cell to) {
        const std::uint32_t me = part_of(i), index = map.index(to);
        std::uint32_t& label = labels_[index];
        if (label >= first_label) {  // flooded by a part
          const std::uint32_t other = part_of(label - first_label);
          if (other == me) return;
          // Merges two parts: this one takes over the cells that the other has still to expand.
          Part &mine = parts_[me], &theirs = parts_[other];
          mine.cells.insert(mine.cells.end(), theirs.cells.begin() + static_cast<std::ptrdiff_t>(theirs.next),
                            theirs.cells.end());
          theirs.cells.resize(theirs.next);
          theirs.merged_with = me;
          return;
        }
        label = parts_[me].label;
        parts_[me].cells.push_back(index);
      });
    }
}

}  // namespace ambulon
