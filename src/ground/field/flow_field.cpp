#include "ambulon/ground/field/flow_field.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

#include "ambulon/ground/tiles/tile_sweep.hpp"

namespace ambulon {
namespace {

constexpr double far = std::numeric_limits<double>::infinity();
constexpr double hair = 1e-9;  // cells: what gets nearer by less is not told on
constexpr int near = 4;        // cells around a goal whose distances are measured straight
constexpr double aslant = std::numbers::sqrt2;
constexpr std::array<Cell, 4> sides = {{{1, 0}, {0, 1}, {-1, 0}, {0, -1}}};

Cell operator+(Cell a, Cell b) { return {a.x + b.x, a.y + b.y}; }
Cell operator-(Cell a, Cell b) { return {a.x - b.x, a.y - b.y}; }
vec2 to_vec(Cell cell) { return {static_cast<float>(cell.x), static_cast<float>(cell.y)}; }

}  // namespace

FlowField::FlowField(const TileGround& ground, std::span<const vec3> goals, const Body& body,
                     std::pmr::memory_resource* memory)
    : ground_(ground),
      body_(body),
      goals_(memory),
      cells_(memory),
      nearest_(memory),
      open_(memory),
      forgotten_(memory) {
  for (const vec3 goal : goals.first(std::min<std::size_t>(goals.size(), nowhere))) goals_.push_back({goal});
  seek_goals();
  build();
}

void FlowField::seek_goals() {
  for (Goal& goal : goals_) {
    const Snap snap = ground_.snap(goal.asked, 0.f, body_);
    goal.spot = snap.spot;
    goal.found = snap.found;
  }
}

// --- Making it --------------------------------------------------------------------------------

void FlowField::build() {
  const auto count = static_cast<std::size_t>(map().width()) * static_cast<std::size_t>(map().height());
  cells_.assign(count, far);
  nearest_.assign(count, nowhere);
  open_.clear(1024);
  sow();
  spread();
  revision_ = ground_.revision();
}

void FlowField::sow() {
  for (std::uint16_t number = 0; number < goals_.size(); ++number)
    if (goals_[number].found) sow(number);
}

/// Measures the cells around a goal straight: close to it, fronts are too strongly curved for the grid.
void FlowField::sow(std::uint16_t number) {
  const TileMap& cells = map();
  const Spot& spot = goals_[number].spot;
  const vec2 goal = flat(spot.position);
  const Cell home = cells.cell_of(spot.piece);
  bool one_cost = true;  // so that the straight line is the shortest way
  for (int y = -near; y <= near; ++y)
    for (int x = -near; x <= near; ++x)
      if (const Cell cell = home + Cell{x, y}; cells.inside(cell) && cells.free(cell))
        one_cost = one_cost && cells.cost(cell) == cells.cost(home);
  for (int y = -near; y <= near; ++y)
    for (int x = -near; x <= near; ++x) {
      const Cell cell = home + Cell{x, y};
      if (!cells.inside(cell) || !cells.free(cell)) continue;
      const vec2 way = goal - cells.middle(cell);
      const Spot from{.position = lift(cells.middle(cell)), .piece = cells.index(cell), .layer = spot.layer};
      if (cell != home && (!one_cost || !ground_.straight(from, way).free)) continue;
      offer(cell, {static_cast<double>(glm::length(way) / cells.cell_size()) * cells.cost(cell), number});
    }
}

/// True when the distance of a cell was measured straight.
bool FlowField::sown(Cell cell) const {
  const std::uint32_t index = map().index(cell);
  if (nearest_[index] == nowhere) return false;
  const Spot& spot = goals_[nearest_[index]].spot;
  const Cell off = cell - map().cell_of(spot.piece);
  if (std::max(std::abs(off.x), std::abs(off.y)) > near) return false;
  const float straight = glm::length(flat(spot.position) - map().middle(cell)) / map().cell_size();
  return cells_[index] == static_cast<double>(straight) * map().cost(cell);
}

/// Lets the fronts go on until no cell can be got to for less.
void FlowField::spread() {
  const TileMap& cells = map();
  while (!open_.empty()) {
    const BucketQueue::Entry next = open_.pop();
    if (next.length > cells_[cells.index(next.cell)]) continue;  // it has been told on with less
    for (std::size_t i = 0; i < 4; ++i) {
      const Cell beside = next.cell + sides[i], turned = sides[(i + 1) % 4];
      if (!cells.free(beside) || cells_[cells.index(beside)] <= next.length) continue;
      offer(beside, by_side(beside, next.cell, next.cell + turned));
      offer(beside, by_side(beside, next.cell, next.cell - turned));
    }
    for (std::size_t i = 0; i < 4; ++i) {  // now that all cells beside know of it
      const Cell side = sides[i], turned = sides[(i + 1) % 4], corner = next.cell + side + turned;
      if (!cells.free(corner) || cells_[cells.index(corner)] <= next.length) continue;
      for (const Cell between : {next.cell + side, next.cell + turned})
        if (const double there = at(between); there > next.length && there != far)
          offer(corner, by_side(corner, between, next.cell));
    }
  }
}

void FlowField::offer(Cell cell, Estimate estimate) {
  const std::uint32_t index = map().index(cell);
  if (estimate.cells >= cells_[index] - hair) return;
  cells_[index] = estimate.cells;
  nearest_[index] = estimate.goal;
  open_.push(estimate.cells, estimate.cells, cell);
}

double FlowField::at(Cell cell) const { return map().free(cell) ? cells_[map().index(cell)] : far; }

/// The shortest way from the middle of a cell across the line between the middles of `side`, a cell beside
/// it, and `corner`, which lies beside that and corner to corner with the cell.
FlowField::Estimate FlowField::by_side(Cell cell, Cell side, Cell corner) const {
  const double by_side = at(side), by_corner = at(corner), cost = map().cost(cell);
  if (by_side == far) return {far, nowhere};
  const std::uint16_t goal = nearest_[map().index(side)];
  const double fall = by_side - by_corner;  // along that line
  if (by_corner == far || fall <= 0) return {by_side + cost, goal, to_vec(side - cell)};
  if (fall >= cost / aslant)
    return {by_corner + aslant * cost, nearest_[map().index(corner)],
            ambulon::direction(to_vec(corner - cell))};
  const double climb = std::sqrt(cost * cost - fall * fall);
  return {by_side + climb, goal,
          ambulon::direction(to_vec(side - cell) + static_cast<float>(fall / climb) * to_vec(corner - side))};
}

/// What all neighbours together say.
FlowField::Estimate FlowField::estimate(Cell cell) const {
  Estimate best{far, nowhere};
  const auto take = [&](const Estimate& other) {
    if (other.cells < best.cells) best = other;
  };
  for (std::size_t i = 0; i < 4; ++i) {
    const Cell side = cell + sides[i], turned = sides[(i + 1) % 4];
    take(by_side(cell, side, side + turned));
    take(by_side(cell, side, side - turned));
  }
  return best;
}

// --- Mending it -------------------------------------------------------------------------------

bool FlowField::update() {
  if (revision_ == ground_.revision()) return false;
  const auto edits = ground_.edits_since(revision_);
  const TileMap& cells = map();
  const int reach = 1 + static_cast<int>(std::ceil(body_.radius / cells.cell_size()));
  const auto grown = [&](CellBox box) {
    return CellBox{
        {std::max(0, box.low.x - reach), std::max(0, box.low.y - reach)},
        {std::min(cells.width() - 1, box.high.x + reach), std::min(cells.height() - 1, box.high.y + reach)}};
  };
  if (!edits || std::ranges::any_of(*edits, [&](const auto& edit) { return near_goal(grown(edit.box)); })) {
    seek_goals();
    build();
    return true;
  }
  forgotten_.clear();
  for (const TileGround::Edit& edit : *edits) forget_beyond(grown(edit.box));
  open_.clear(1024);
  // The fronts go on from whatever borders on what was forgotten, the nearest first.
  const std::size_t count = forgotten_.size();
  for (std::size_t i = 0; i < count; ++i)
    for (int y = -1; y <= 1; ++y)
      for (int x = -1; x <= 1; ++x)
        if (const Cell cell = cells.cell_of(forgotten_[i]) + Cell{x, y}; at(cell) != far)
          forgotten_.push_back(cells.index(cell));
  forgotten_.erase(forgotten_.begin(), forgotten_.begin() + static_cast<std::ptrdiff_t>(count));
  std::ranges::sort(forgotten_);
  const auto twice = std::ranges::unique(forgotten_);
  forgotten_.erase(twice.begin(), twice.end());
  std::ranges::sort(forgotten_, {}, [&](std::uint32_t index) { return cells_[index]; });
  for (const std::uint32_t index : forgotten_) open_.push(cells_[index], cells_[index], cells.cell_of(index));
  spread();
  revision_ = ground_.revision();
  return true;
}

/// True when a change of the box may move a goal, or change what was measured straight.
bool FlowField::near_goal(CellBox box) const {
  return std::ranges::any_of(goals_, [&](const Goal& goal) {
    const Cell cell = map().cell_of(goal.spot.piece), asked = map().cell_at(flat(goal.asked));
    const auto within = [&](Cell at) {
      return at.x >= box.low.x - near && at.x <= box.high.x + near && at.y >= box.low.y - near &&
             at.y <= box.high.y + near;
    };
    // Whoever could not be placed where asked may be when something opens.
    return !goal.found || within(cell) || cell != asked || within(asked);
  });
}

/// Forgets the cells of a box, and all whose distance came from what was forgotten.
void FlowField::forget_beyond(CellBox box) {
  const TileMap& cells = map();
  std::size_t next = forgotten_.size();
  const auto forget = [&](std::uint32_t index) {
    cells_[index] = far;
    nearest_[index] = nowhere;
    forgotten_.push_back(index);
  };
  for (int y = box.low.y; y <= box.high.y; ++y)
    for (int x = box.low.x; x <= box.high.x; ++x) forget(cells.index({x, y}));
  for (; next < forgotten_.size(); ++next) {
    const Cell cell = cells.cell_of(forgotten_[next]);
    for (int y = -1; y <= 1; ++y)
      for (int x = -1; x <= 1; ++x) {
        const Cell to = cell + Cell{x, y};
        if (!cells.free(to)) continue;
        const double now = cells_[cells.index(to)];
        if (now != far && !sown(to) && estimate(to).cells > now + 2 * hair) forget(cells.index(to));
      }
  }
}

// --- Asking it --------------------------------------------------------------------------------

/// The cell whose distance counts at a place: its own, or the nearest for somebody in a nook of a wall.
std::optional<Cell> FlowField::cell_for(vec2 at) const {
  const Cell cell = map().cell_at(at);
  if (map().inside(cell) && map().free(cell)) return cell;
  const Snap snap = ground_.snap(lift(at), 0.f, body_);
  return snap.found ? std::optional(map().cell_of(snap.spot.piece)) : std::nullopt;
}

float FlowField::distance(vec3 at) const {
  const auto cell = finite(at) ? cell_for(flat(at)) : std::nullopt;
  if (!cell || cells_[map().index(*cell)] == far) return std::numeric_limits<float>::infinity();
  if (sown(*cell)) {
    const Spot& goal = goals_[nearest_[map().index(*cell)]].spot;
    return flat_distance(goal.position, at) * static_cast<float>(map().cost(*cell));
  }
  // From its middle on, by the slope there.
  const vec2 off = flat(at) - map().middle(*cell);
  const float metres = static_cast<float>(cells_[map().index(*cell)]) * map().cell_size();
  return std::max(0.f, metres - glm::dot(off, estimate(*cell).way) * static_cast<float>(map().cost(*cell)));
}

float FlowField::distance_of(Cell cell) const {
  return static_cast<float>(at(cell) * static_cast<double>(map().cell_size()));
}

std::uint16_t FlowField::nearest_goal(vec3 at) const {
  const auto cell = finite(at) ? cell_for(flat(at)) : std::nullopt;
  return cell ? nearest_[map().index(*cell)] : nowhere;
}

vec2 FlowField::direction(vec3 at) const {
  const auto home = finite(at) ? cell_for(flat(at)) : std::nullopt;
  if (!home || nearest_[map().index(*home)] == nowhere) return vec2(0.f);
  const TileMap& cells = map();
  const vec2 here = flat(at);
  if (sown(*home)) {
    const vec2 to_goal = flat(goals_[nearest_[cells.index(*home)]].spot.position) - here;
    const Spot spot = ground_.snap(at, 0.f, body_).spot;
    if (ground_.straight(spot, to_goal).free) return ambulon::direction(to_goal);
  }
  // Evenly between the middles of the cells around, of those that one can step to from its own.
  const vec2 place = (here - cells.middle(*home)) / cells.cell_size();
  const int x = place.x < 0.f ? -1 : 1, y = place.y < 0.f ? -1 : 1;
  const float part_x = std::min(1.f, std::abs(place.x)), part_y = std::min(1.f, std::abs(place.y));
  vec2 sum = (1 - part_x) * (1 - part_y) * estimate(*home).way;
  const auto add = [&](Cell cell, float weight) {
    if (weight > 0.f && cells.free(cell) && cells.step_allowed(*home, cell))
      sum += weight * estimate(cell).way;
  };
  add({home->x + x, home->y}, part_x * (1 - part_y));
  add({home->x, home->y + y}, (1 - part_x) * part_y);
  const bool open = cells.free({home->x + x, home->y}) && cells.free({home->x, home->y + y});
  if (open) add({home->x + x, home->y + y}, part_x * part_y);
  return ambulon::direction(sum, estimate(*home).way);
}

}  // namespace ambulon
