#pragma once
// Generated tile maps of several kinds, by seed.

#include <algorithm>
#include <string>
#include <vector>

#include "ambulon/base/random.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon::bench {

/// A map under construction: a square of free and blocked cells.
class Sketch {
 public:
  Sketch(int size, bool free, std::uint64_t seed)
      : size_(size),
        cells_(static_cast<std::size_t>(size * size), free ? std::uint8_t{1} : std::uint8_t{0}),
        random_(seed) {}

  int size() const { return size_; }
  bool free(int x, int y) const { return x >= 0 && y >= 0 && x < size_ && y < size_ && at(x, y) != 0; }
  void put(int x, int y, bool free) {
    if (x >= 0 && y >= 0 && x < size_ && y < size_) cells_[index(x, y)] = free ? 1 : 0;
  }
  void fill(int x, int y, int width, int height, bool free) {
    for (int j = y; j < y + height; ++j)
      for (int i = x; i < x + width; ++i) put(i, j, free);
  }
  int below(int count) {
    return static_cast<int>(random_.below(static_cast<std::uint32_t>(std::max(1, count))));
  }
  const std::vector<std::uint8_t>& cells() const { return cells_; }
  TileMap map() const { return TileMap::make(cells_, {.width = size_, .height = size_}).value(); }

 private:
  std::size_t index(int x, int y) const { return static_cast<std::size_t>(y * size_ + x); }
  std::uint8_t at(int x, int y) const { return cells_[index(x, y)]; }

  int size_;
  std::vector<std::uint8_t> cells_;
  Random random_;
};

inline Sketch scattered(int size, int percent, std::uint64_t seed) {
  Sketch sketch(size, true, seed);
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x)
      if (sketch.below(100) < percent) sketch.put(x, y, false);
  return sketch;
}

/// Square rooms with walls, and a door in each wall.
inline Sketch rooms(int size, int room, std::uint64_t seed) {
  Sketch sketch(size, true, seed);
  for (int line = room; line < size; line += room + 1) {
    sketch.fill(line, 0, 1, size, false);
    sketch.fill(0, line, size, 1, false);
  }
  for (int y = 0; y < size; y += room + 1)
    for (int x = 0; x < size; x += room + 1) {
      sketch.put(x + room, y + sketch.below(room), true);
      sketch.put(x + sketch.below(room), y + room, true);
    }
  return sketch;
}

/// A maze without loops whose corridors are `width` cells wide: a random walk with backtracking.
inline Sketch maze(int size, int width, std::uint64_t seed) {
  Sketch sketch(size, false, seed);
  const int pitch = width + 1, count = (size - 1) / pitch;
  const auto open = [&](int x, int y) { sketch.fill(1 + x * pitch, 1 + y * pitch, width, width, true); };
  std::vector<std::pair<int, int>> way{{0, 0}};
  std::vector<bool> been(static_cast<std::size_t>(count * count));
  been[0] = true;
  open(0, 0);
  while (!way.empty()) {
    const auto [x, y] = way.back();
    std::pair<int, int> choices[4];
    int choice_count = 0;
    for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
      const int nx = x + dx, ny = y + dy;
      if (nx < 0 || ny < 0 || nx >= count || ny >= count || been[static_cast<std::size_t>(ny * count + nx)])
        continue;
      choices[choice_count++] = {nx, ny};
    }
    if (choice_count == 0) {
      way.pop_back();
      continue;
    }
    const auto [nx, ny] = choices[sketch.below(choice_count)];
    been[static_cast<std::size_t>(ny * count + nx)] = true;
    open(nx, ny);
    sketch.fill(1 + std::min(x, nx) * pitch + (nx != x ? width : 0),
                1 + std::min(y, ny) * pitch + (ny != y ? width : 0), nx != x ? 1 : width, ny != y ? 1 : width,
                true);
    way.emplace_back(nx, ny);
  }
  return sketch;
}

/// Caves: noise, smoothed by the majority of each cell's neighbours.
inline Sketch caves(int size, std::uint64_t seed) {
  Sketch sketch = scattered(size, 44, seed);
  for (int round = 0; round < 5; ++round) {
    Sketch next = sketch;
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x) {
        int walls = 0;
        for (int dy = -1; dy <= 1; ++dy)
          for (int dx = -1; dx <= 1; ++dx) walls += sketch.free(x + dx, y + dy) ? 0 : 1;
        next.put(x, y, walls < 5);
      }
    sketch = next;
  }
  return sketch;
}

/// Houses of different sizes along streets, some with yards.
inline Sketch town(int size, std::uint64_t seed) {
  Sketch sketch(size, true, seed);
  for (int y = 4; y < size; y += 20 + sketch.below(8))
    for (int x = 4; x < size;) {
      const int width = 6 + sketch.below(16), height = 8 + sketch.below(9);
      sketch.fill(x, y, width, height, false);
      if (sketch.below(3) == 0) {
        sketch.fill(x + 2, y + 2, width - 4, height - 4, true);
        sketch.put(x + 3, y, true), sketch.put(x + 3, y + 1, true);
      }
      x += width + 2 + sketch.below(5);
    }
  return sketch;
}

inline Sketch blobs(int size, std::uint64_t seed) {
  Sketch sketch(size, true, seed);
  for (int blob = 0; blob < size * size / 4000; ++blob) {
    const int cx = sketch.below(size), cy = sketch.below(size), radius = 3 + sketch.below(14);
    for (int y = -radius; y <= radius; ++y)
      for (int x = -radius; x <= radius; ++x)
        if (x * x + y * y <= radius * radius) sketch.put(cx + x, cy + y, false);
  }
  return sketch;
}

}  // namespace ambulon::bench
