#include "ambulon/ground/field/flow_field.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>
#include <optional>

#include "ambulon/ground/tiles/tile_ground.hpp"

#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "ground/tiles/bucket_queue.hpp"
#include "ground/tiles/tile_ground_impl.hpp"
#include "ground/tiles/tile_sweep.hpp"

namespace ambulon {
namespace {

constexpr double far = std::numeric_limits<double>::infinity();
constexpr double blocked = -1;  // marks a blocked cell
constexpr int near = 4;         // cells around a goal with straight-line distances
constexpr double aslant = std::numbers::sqrt2;
constexpr std::array<Cell, 4> sides = {{{1, 0}, {0, 1}, {-1, 0}, {0, -1}}};

Cell operator+(Cell a, Cell b) { return {a.x + b.x, a.y + b.y}; }
Cell operator-(Cell a, Cell b) { return {a.x - b.x, a.y - b.y}; }
vec2 to_vec(Cell cell) { return {static_cast<float>(cell.x), static_cast<float>(cell.y)}; }

}  // namespace

/// The implementation of a flow field. Unreached cells have an infinite distance.
class FlowField::Impl {
 public:
  Impl(const TileGround& ground, std::span<const vec3> goals, const Body& body,
       std::pmr::memory_resource* memory);
  Impl(const Impl& danger, double caution);

  bool update();
  float distance(vec3 position) const;
  std::uint16_t nearest_goal(vec3 at) const;
  vec2 direction(vec3 at) const;
  const Spot& goal(std::uint16_t number) const { return goals_[number].spot; }
  float distance_of(Cell cell) const;
  const TileGround& ground() const { return ground_; }
  const TileMap& map() const { return map_; }

 private:
  struct Goal {
    vec3 asked;          // metres
    Spot spot = {};      // the spot nearest to it
    bool found = false;  // false if there is none
    double behind = 0;   // cells by which it is worse than the best refuge
  };
  /// The solution of the eikonal equation at a cell.
  struct Estimate {
    double cells;   // distance to the goal
    vec2 way{0.f};  // unit vector towards it
  };
  // Cells are numbered with a border of blocked cells, so that neighbours need no bounds check.
  std::uint32_t index(Cell cell) const {
    return static_cast<std::uint32_t>(cell.y + 1) * stride_ + static_cast<std::uint32_t>(cell.x + 1);
  }
  Cell cell_of(std::uint32_t index) const {
    return {static_cast<int>(index % stride_) - 1, static_cast<int>(index / stride_) - 1};
  }
  void build();
  void seek_refuges();
  double straight_to(const Goal& goal, Cell cell) const;
  void seed();
  void seed(std::uint16_t number);
  void spread();
  void relax(Cell cell, double cells, std::uint16_t goal);
  static double across(double side, double corner, double cost);
  double cost_of(std::size_t index) const;
  Estimate estimate(Cell cell) const;
  double at(Cell cell) const;
  bool sown(Cell cell) const;
  std::optional<Cell> cell_for(vec2 at) const;
  bool near_goal(CellBox box) const;
  void forget_beyond(CellBox box);
  void seek_goals();

  const TileGround& ground_;
  const Impl* danger_ = nullptr;  // the field to flee from, if any
  double caution_ = 1;
  Body body_;
  const TileMap& map_;    // for the body
  std::uint32_t stride_;  // cells per row, with the border
  std::pmr::vector<Goal> goals_;
  std::pmr::vector<double>
      // distance to its goal plus that goal's `behind`, by cell; infinite: unreached, negative: blocked
      cells_;
  std::pmr::vector<std::uint16_t> nearest_;  // number of the goal, by cell
  BucketQueue open_;
  std::pmr::vector<std::uint32_t> forgotten_;  // cells that a change invalidated
  std::uint64_t revision_ = 0;
};

FlowField::Impl::Impl(const TileGround& ground, std::span<const vec3> goals, const Body& body,
                      std::pmr::memory_resource* memory)
    : ground_(ground),
      body_(body),
      map_(ground.layer(body.radius).map()),
      stride_(static_cast<std::uint32_t>(map_.width()) + 2),
      goals_(memory),
      cells_(memory),
      nearest_(memory),
      open_(memory),
      forgotten_(memory) {
  for (const vec3 goal : goals.first(std::min<std::size_t>(goals.size(), nowhere)))
    goals_.push_back({.asked = goal});
  seek_goals();
  build();
}

FlowField::Impl::Impl(const Impl& danger, double caution)
    : ground_(danger.ground_),
      danger_(&danger),
      caution_(caution),
      body_(danger.body_),
      map_(danger.map_),
      stride_(danger.stride_),
      goals_(danger.goals_.get_allocator()),
      cells_(danger.cells_.get_allocator()),
      nearest_(danger.nearest_.get_allocator()),
      open_(danger.goals_.get_allocator().resource()),
      forgotten_(danger.forgotten_.get_allocator()) {
  seek_refuges();
  build();
}

/// Finds the local maxima of the distance to the danger.
void FlowField::Impl::seek_refuges() {
  goals_.clear();
  double furthest = 0;
  for (int y = 0; y < map_.height(); ++y)
    for (int x = 0; x < map_.width(); ++x) {
      const Cell cell{x, y};
      const double here = danger_->at(cell);
      if (here == far) continue;
      furthest = std::max(furthest, here);
      bool refuge = goals_.size() < nowhere;
      for (std::size_t i = 0; i < 4 && refuge; ++i)
        for (const Cell to : {cell + sides[i], cell + sides[i] + sides[(i + 1) % 4]})
          if (map_.inside(to) && map_.free(to) && map_.step_allowed(cell, to))
            refuge = refuge && danger_->at(to) <= here;
      if (!refuge) continue;
      const vec3 middle = lift(map_.middle(cell));
      const Snap snap = ground_.snap(middle, 0.f, body_);
      goals_.push_back({.asked = middle, .spot = snap.spot, .found = snap.found, .behind = here});
    }
  for (Goal& goal : goals_) goal.behind = caution_ * (furthest - goal.behind);
}

void FlowField::Impl::seek_goals() {
  if (danger_ != nullptr) return seek_refuges();
  for (Goal& goal : goals_) {
    const Snap snap = ground_.snap(goal.asked, 0.f, body_);
    goal.spot = snap.spot;
    goal.found = snap.found;
  }
}

// --- Computation ------------------------------------------------------------------------------

void FlowField::Impl::build() {
  const std::size_t count = stride_ * (static_cast<std::size_t>(map_.height()) + 2);
  cells_.assign(count, blocked);
  nearest_.assign(count, nowhere);
  for (int y = 0; y < map_.height(); ++y)
    for (int x = 0; x < map_.width(); ++x)
      if (map_.free({x, y})) cells_[index({x, y})] = far;
  open_.clear(1024);
  seed();
  spread();
  revision_ = ground_.revision();
}

void FlowField::Impl::seed() {
  for (std::size_t number = 0; number < goals_.size(); ++number)
    if (goals_[number].found) seed(static_cast<std::uint16_t>(number));
}

/// Initialises the cells around a goal with straight-line distances: close to it, the wave front is too
/// curved for the grid.
void FlowField::Impl::seed(std::uint16_t number) {
  const TileMap& cells = map_;
  const Spot& spot = goals_[number].spot;
  const Goal& goal = goals_[number];
  const Cell home = cells.cell_of(spot.piece);
  bool one_cost = true;  // so that the straight line is the cheapest route
  for (int y = -near; y <= near; ++y)
    for (int x = -near; x <= near; ++x)
      if (const Cell cell = home + Cell{x, y}; cells.inside(cell) && cells.free(cell))
        one_cost = one_cost && cells.cost(cell) == cells.cost(home);
  for (int y = -near; y <= near; ++y)
    for (int x = -near; x <= near; ++x) {
      const Cell cell = home + Cell{x, y};
      if (!cells.inside(cell) || !cells.free(cell)) continue;
      const vec2 way = flat(spot.position) - cells.middle(cell);
      const Spot from{.position = lift(cells.middle(cell)), .piece = cells.index(cell), .layer = spot.layer};
      if (cell != home && (!one_cost || !ground_.straight(from, way).free)) continue;
      relax(cell, straight_to(goal, cell), number);
    }
}

/// Returns the distance of a cell if the straight line from its centre is the cheapest route to a goal.
double FlowField::Impl::straight_to(const Goal& goal, Cell cell) const {
  const float cells = glm::length(flat(goal.spot.position) - map_.middle(cell)) / map_.cell_size();
  return goal.behind + static_cast<double>(cells) * map_.cost(cell);
}

/// Returns true if the distance of a cell was initialised as a straight line.
bool FlowField::Impl::sown(Cell cell) const {
  const std::uint32_t at = index(cell);
  if (nearest_[at] == nowhere) return false;
  const Goal& goal = goals_[nearest_[at]];
  const Cell off = cell - map_.cell_of(goal.spot.piece);
  if (std::max(std::abs(off.x), std::abs(off.y)) > near) return false;
  return cells_[at] == straight_to(goal, cell);
}

/// Propagates the front until no distance decreases (fast marching, label-correcting).
void FlowField::Impl::spread() {
  const auto width = static_cast<std::ptrdiff_t>(stride_);
  const std::array<std::ptrdiff_t, 4> to_side = {1, width, -1, -width};
  while (!open_.empty()) {
    const BucketQueue::Entry next = open_.pop();
    const auto here = static_cast<std::ptrdiff_t>(next.item);
    if (next.length > cells_[static_cast<std::size_t>(here)]) continue;  // a stale entry
    const auto tell = [&](std::ptrdiff_t to, std::ptrdiff_t side, std::ptrdiff_t corner) {
      const auto at = static_cast<std::size_t>(to);
      const double found = across(cells_[static_cast<std::size_t>(side)],
                                  cells_[static_cast<std::size_t>(corner)], cost_of(at));
      if (found >= cells_[at] - tolerance::path_cells) return;
      cells_[at] = found;
      nearest_[at] = nearest_[static_cast<std::size_t>(here)];
      open_.push(found, found, static_cast<std::uint32_t>(to));
    };
    const auto further = [&](std::ptrdiff_t to) {
      return cells_[static_cast<std::size_t>(to)] > next.length;
    };
    for (std::size_t i = 0; i < 4; ++i) {
      const std::ptrdiff_t beside = here + to_side[i], turned = to_side[(i + 1) % 4];
      if (!further(beside)) continue;  // nearer already, or blocked
      tell(beside, here, here + turned);
      tell(beside, here, here - turned);
    }
    for (std::size_t i = 0; i < 4; ++i) {  // after all sides have been relaxed
      const std::ptrdiff_t side = here + to_side[i], other = here + to_side[(i + 1) % 4];
      const std::ptrdiff_t corner = side + to_side[(i + 1) % 4];
      if (!further(corner)) continue;
      if (further(side)) tell(corner, side, here);
      if (further(other)) tell(corner, other, here);
    }
  }
}

/// Lowers the distance of a cell if the new one is smaller.
void FlowField::Impl::relax(Cell cell, double cells, std::uint16_t goal) {
  const std::uint32_t at = index(cell);
  if (cells >= cells_[at] - tolerance::path_cells) return;
  cells_[at] = cells;
  nearest_[at] = goal;
  open_.push(cells, cells, at);
}

/// Returns the distance of a cell by the cheapest path across the segment between two neighbours: the centre
/// of a side neighbour with distance `side`, and the centre of the corner neighbour next to it with distance
/// `corner`.
double FlowField::Impl::across(double side, double corner, double cost) {
  if (side < 0 || side == far) return far;
  const double fall = side - corner;  // along the segment
  if (corner < 0 || fall <= 0) return side + cost;
  if (fall >= cost / aslant) return corner + aslant * cost;
  return side + std::sqrt(cost * cost - fall * fall);
}

double FlowField::Impl::cost_of(std::size_t index) const {
  if (map_.uniform()) return 1;
  const auto at = static_cast<std::uint32_t>(index);
  return map_.cost({static_cast<int>(at % stride_) - 1, static_cast<int>(at / stride_) - 1});
}

double FlowField::Impl::at(Cell cell) const {
  if (!map_.inside(cell)) return far;
  const double value = cells_[index(cell)];
  return value < 0 ? far : value;
}

/// Returns the distance and the unit direction of a cell from all its neighbours.
FlowField::Impl::Estimate FlowField::Impl::estimate(Cell cell) const {
  Estimate best{far};
  const double cost = map_.cost(cell);
  for (std::size_t i = 0; i < 4; ++i)
    for (const int sign : {1, -1}) {
      const Cell turned = sides[(i + 1) % 4], beside = cell + sides[i];
      const Cell corner{beside.x + sign * turned.x, beside.y + sign * turned.y};
      const double by_side = at(beside), by_corner = at(corner), found = across(by_side, by_corner, cost);
      if (found >= best.cells) continue;
      const double fall = std::clamp(by_side - by_corner, 0.0, cost / aslant);
      const double aside = by_corner == far ? 0 : fall / std::sqrt(cost * cost - fall * fall);
      best = {found,
              ambulon::direction(to_vec(sides[i]) + static_cast<float>(sign * aside) * to_vec(turned))};
    }
  return best;
}

// --- Repair -----------------------------------------------------------------------------------

bool FlowField::Impl::update() {
  if (revision_ == ground_.revision()) return false;
  const auto edits = ground_.impl().edits_since(revision_);
  const TileMap& cells = map_;
  const int reach = 1 + static_cast<int>(std::ceil(body_.radius / cells.cell_size()));
  const auto grown = [&](CellBox box) {
    return CellBox{
        {std::max(0, box.low.x - reach), std::max(0, box.low.y - reach)},
        {std::min(cells.width() - 1, box.high.x + reach), std::min(cells.height() - 1, box.high.y + reach)}};
  };
  if (danger_ != nullptr || !edits ||
      std::ranges::any_of(*edits, [&](const auto& edit) { return near_goal(grown(edit.box)); })) {
    seek_goals();
    build();
    return true;
  }
  forgotten_.clear();
  for (const TileGround::Impl::Edit& edit : *edits) forget_beyond(grown(edit.box));
  open_.clear(1024);
  // The front starts again from the neighbours of invalidated cells, in order of distance.
  const std::size_t count = forgotten_.size();
  for (std::size_t i = 0; i < count; ++i)
    for (int y = -1; y <= 1; ++y)
      for (int x = -1; x <= 1; ++x)
        if (const Cell cell = cell_of(forgotten_[i]) + Cell{x, y}; at(cell) != far)
          forgotten_.push_back(index(cell));
  forgotten_.erase(forgotten_.begin(), forgotten_.begin() + static_cast<std::ptrdiff_t>(count));
  std::ranges::sort(forgotten_);
  const auto twice = std::ranges::unique(forgotten_);
  forgotten_.erase(twice.begin(), twice.end());
  std::ranges::sort(forgotten_, {}, [&](std::uint32_t each) { return cells_[each]; });
  for (const std::uint32_t each : forgotten_) open_.push(cells_[each], cells_[each], each);
  spread();
  revision_ = ground_.revision();
  return true;
}

/// Returns true if a change of the box may move a goal or affect its straight-line distances.
bool FlowField::Impl::near_goal(CellBox box) const {
  return std::ranges::any_of(goals_, [&](const Goal& goal) {
    const Cell cell = map_.cell_of(goal.spot.piece), asked = map_.cell_at(flat(goal.asked));
    const auto within = [&](Cell at) {
      return at.x >= box.low.x - near && at.x <= box.high.x + near && at.y >= box.low.y - near &&
             at.y <= box.high.y + near;
    };
    // A goal that was off the ground may be on it after a change.
    return !goal.found || within(cell) || cell != asked || within(asked);
  });
}

/// Invalidates the cells of a box, and all cells whose distance depends on them.
void FlowField::Impl::forget_beyond(CellBox box) {
  const TileMap& cells = map_;
  std::size_t next = forgotten_.size();
  const auto forget = [&](Cell cell) {
    const std::uint32_t at = index(cell);
    cells_[at] = cells.free(cell) ? far : blocked;
    nearest_[at] = nowhere;
    forgotten_.push_back(at);
  };
  for (int y = box.low.y; y <= box.high.y; ++y)
    for (int x = box.low.x; x <= box.high.x; ++x) forget({x, y});
  for (; next < forgotten_.size(); ++next) {
    const Cell cell = cell_of(forgotten_[next]);
    for (int y = -1; y <= 1; ++y)
      for (int x = -1; x <= 1; ++x) {
        const Cell to = cell + Cell{x, y};
        if (!cells.free(to)) continue;
        const double now = at(to);
        if (now != far && !sown(to) && estimate(to).cells > now + 2 * tolerance::path_cells) forget(to);
      }
  }
}

// --- Queries ----------------------------------------------------------------------------------

/// Returns the cell whose distance applies at a position: its own, or the nearest one if the position is
/// beside a wall.
std::optional<Cell> FlowField::Impl::cell_for(vec2 at) const {
  const Cell cell = map_.cell_at(at);
  if (map_.inside(cell) && map_.free(cell)) return cell;
  const Snap snap = ground_.snap(lift(at), 0.f, body_);
  return snap.found ? std::optional(map_.cell_of(snap.spot.piece)) : std::nullopt;
}

float FlowField::Impl::distance(vec3 position) const {
  const auto cell = finite(position) ? cell_for(flat(position)) : std::nullopt;
  if (!cell || at(*cell) == far) return std::numeric_limits<float>::infinity();
  if (sown(*cell)) {
    const Spot& goal = goals_[nearest_[index(*cell)]].spot;
    return flat_distance(goal.position, position) * static_cast<float>(map_.cost(*cell));
  }
  // Extrapolates from the centre along the gradient.
  const vec2 off = flat(position) - map_.middle(*cell);
  const double cells = at(*cell) - goals_[nearest_[index(*cell)]].behind;
  const float metres = static_cast<float>(cells) * map_.cell_size();
  return std::max(0.f, metres - glm::dot(off, estimate(*cell).way) * static_cast<float>(map_.cost(*cell)));
}

float FlowField::Impl::distance_of(Cell cell) const {
  if (at(cell) == far) return std::numeric_limits<float>::infinity();
  const double cells = at(cell) - goals_[nearest_[index(cell)]].behind;
  return static_cast<float>(cells * static_cast<double>(map_.cell_size()));
}

std::uint16_t FlowField::Impl::nearest_goal(vec3 at) const {
  const auto cell = finite(at) ? cell_for(flat(at)) : std::nullopt;
  return cell ? nearest_[index(*cell)] : nowhere;
}

vec2 FlowField::Impl::direction(vec3 at) const {
  const auto home = finite(at) ? cell_for(flat(at)) : std::nullopt;
  if (!home || nearest_[index(*home)] == nowhere) return vec2(0.f);
  const TileMap& cells = map_;
  const vec2 here = flat(at);
  if (sown(*home)) {
    const vec2 to_goal = flat(goals_[nearest_[index(*home)]].spot.position) - here;
    const Spot spot = ground_.snap(at, 0.f, body_).spot;
    if (ground_.straight(spot, to_goal).free) return ambulon::direction(to_goal);
  }
  // Bilinear interpolation between the centres of the surrounding cells that are joined to its own.
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

// --- The public functions ---------------------------------------------------------------------

FlowField::FlowField(const TileGround& ground, std::span<const vec3> goals, const Body& body,
                     std::pmr::memory_resource* memory)
    : impl_(std::make_unique<Impl>(ground, goals, body, memory)) {}

FlowField::FlowField(std::unique_ptr<Impl> impl) : impl_(std::move(impl)) {}

FlowField::FlowField(FlowField&& other) noexcept = default;
FlowField& FlowField::operator=(FlowField&& other) noexcept = default;
FlowField::~FlowField() = default;

FlowField FlowField::away_from(const FlowField& danger, float caution) {
  const double kept = std::isnan(caution) ? 1.0 : std::clamp(static_cast<double>(caution), 1.0, 100.0);
  return FlowField(std::make_unique<Impl>(*danger.impl_, kept));
}

bool FlowField::update() { return impl_->update(); }

float FlowField::distance(vec3 position) const { return impl_->distance(position); }

std::uint16_t FlowField::nearest_goal(vec3 at) const { return impl_->nearest_goal(at); }

vec2 FlowField::direction(vec3 at) const { return impl_->direction(at); }

const Spot& FlowField::goal(std::uint16_t number) const { return impl_->goal(number); }

float FlowField::distance_of(Cell cell) const { return impl_->distance_of(cell); }

const TileGround& FlowField::ground() const { return impl_->ground(); }

const TileMap& FlowField::map() const { return impl_->map(); }

}  // namespace ambulon
