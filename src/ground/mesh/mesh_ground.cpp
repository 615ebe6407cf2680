#include "ambulon/ground/mesh/mesh_ground.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <limits>
#include <mutex>

#include <glm/common.hpp>

#include "ambulon/base/circle.hpp"

#include "find_crossings.hpp"

namespace ambulon {
namespace {

constexpr double per_metre = 1000.0;  // millimetres
constexpr float width_step = 0.005f;  // metres by which widths are told apart,
constexpr float height_step = 0.01f;  // and heights
constexpr double same_floor = 500;    // millimetres by which a spot may lie above or below its polygon
// Millimetres by which a straight walk may end beyond an edge that it goes along.
constexpr double skin = 0.1;
constexpr int patch_size = 16'000;   // millimetres
constexpr double same_place = 1e-6;  // millimetres
constexpr int draws = 64;            // for a random spot, before it is where one is

dvec2 in_mm(vec2 metres) { return per_metre * dvec2(metres); }
vec2 in_metres(dvec2 mm) { return vec2(mm / per_metre); }

/// The box, in millimetres, beyond which a barrier is in no body's way whose radius is so many metres.
std::pair<dvec2, dvec2> reach_of(const Barrier& barrier, float radius) {
  const double margin = per_metre * radius + 2;  // for rounding
  return {in_mm(barrier.least()) - margin, in_mm(barrier.most()) + margin};
}

/// Where a straight way leaves a polygon.
struct Exit {
  std::uint32_t side = ConvexMesh::none;  // `none`: it ends inside
  double part = 1;                        // of the way
};

/// The way goes from `start` along `along`; the part `gone` of it lies behind.
Exit exit_of(const ConvexMesh& mesh, std::uint32_t polygon, dvec2 start, dvec2 along, double gone) {
  Exit exit;
  double off_exit = 0;
  const ConvexMesh::Polygon& around = mesh.polygons()[polygon];
  for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
    const dvec2 a = mesh.start_of(side), edge = mesh.end_of(side) - a;
    const double length = glm::length(edge), slope = cross(edge, along),
                 beyond = -cross(edge, start + along - a) / length;
    const bool open = mesh.sides()[side].across != ConvexMesh::none;
    if (slope >= 0 || beyond <= (open ? 0 : skin)) continue;  // it does not lead out there
    const double part = std::max(gone, -cross(edge, start - a) / slope);
    // The line of a side may be met beyond its ends, where another side lies on it; of two that meet there,
    // the nearer.
    const double place = glm::dot(start + part * along - a, edge) / length;
    const double off = std::max({0.0, -place, place - length});
    if (off > skin) continue;
    const bool same =
        exit.side != ConvexMesh::none && std::abs(part - exit.part) < same_place / glm::length(along);
    if (same ? off < off_exit || (off == off_exit && open) : part < exit.part)
      exit = {side, part}, off_exit = off;
  }
  return exit;
}

}  // namespace

Expected<std::unique_ptr<MeshGround>> MeshGround::make(Plan plan) {
  const auto outlines = outlines_for(plan, 0.f);
  if (!outlines) return tl::unexpected(outlines.error());
  if (const auto regions = regions_of(plan); !regions) return tl::unexpected(regions.error());
  return std::unique_ptr<MeshGround>(new MeshGround(std::move(plan)));
}

Expected<std::unique_ptr<MeshGround>> MeshGround::make(const Level& level, const LevelRules& rules,
                                                       Jobs jobs) {
  auto index = LevelIndex::make(level, rules);
  if (!index) return tl::unexpected(index.error());
  return std::unique_ptr<MeshGround>(new MeshGround(std::move(*index), std::move(jobs)));
}

namespace {

/// What of all corners of a plan or a level `smaller(a, b)` says; the origin when there are none.
template <class Smaller>
vec2 corner_of(const Plan& plan, const std::optional<LevelIndex>& level, Smaller&& smaller) {
  std::optional<vec2> corner;
  const auto add = [&](vec2 at) { corner = corner ? smaller(*corner, at) : at; };
  for (const Plan::Ring& ring : plan.outlines)
    for (const vec2 point : ring) add(point);
  if (level)
    for (const LevelIndex::Facet& facet : level->facets())
      for (const PlanPoint point : facet.corners) add(in_metres(to_vec(point)));
  return corner.value_or(vec2(0.f));
}

}  // namespace

vec2 MeshGround::least() const {
  return corner_of(plan_, level_, [](vec2 a, vec2 b) { return glm::min(a, b); });
}

vec2 MeshGround::most() const {
  return corner_of(plan_, level_, [](vec2 a, vec2 b) { return glm::max(a, b); });
}

// --- Meshes -----------------------------------------------------------------------------------

/// The size by which it is kept: never smaller than it is, never able to step higher.
BodySize MeshGround::size_of(const Body& body) const {
  BodySize size{
      .radius = std::fmin(std::fmax(std::ceil(body.radius / width_step - 1e-3f) * width_step, 0.f), 50.f)};
  if (!level_) return size;
  size.height = std::fmin(std::fmax(std::ceil(body.height / height_step - 1e-3f) * height_step, 0.f), 100.f);
  const auto no_more = [](float metres, float most) {
    return std::fmin(std::fmax(std::floor(metres / height_step + 1e-3f) * height_step, 0.f), most);
  };
  size.step_up = no_more(body.step_up, 100.f);
  size.jump_up = no_more(body.jump_up, 100.f);
  size.drop_down = no_more(body.drop_down, 1000.f);
  size.leap = no_more(body.leap, 100.f);
  return size;
}

/// The number of the mesh for such bodies; made when there is none yet.
std::uint16_t MeshGround::number_for(const Body& body) const {
  const BodySize size = size_of(body);
  return layers_.number_for(size, [&] { return make_layer(size, {}); });
}

Expected<const ConvexMesh*> MeshGround::prepare(const Body& body,
                                                const std::function<bool(float)>& progress) const {
  const BodySize size = size_of(body);
  std::unique_ptr<Layer> made;
  if (!layers_.find(size)) {
    made = make_layer(size, progress);
    if (!made) return problem("making the mesh was given up, as asked");
  }
  return &mesh_of(layers_.number_for(size, [&] { return std::move(made); }));
}

/// Does the jobs, by the game's threads when it has given some; false when that was given up.
bool MeshGround::for_all(std::size_t count, const std::function<void(std::size_t)>& job,
                         const std::function<bool(float)>& progress) const {
  std::atomic<bool> go_on = true;
  std::mutex telling;
  std::size_t done = 0;
  const auto one = [&](std::size_t number) {
    if (!go_on) return;
    job(number);
    if (!progress) return;
    const std::scoped_lock lock(telling);
    if (!progress(static_cast<float>(++done) / static_cast<float>(count))) go_on = false;
  };
  if (jobs_)
    jobs_(count, one);
  else
    for (std::size_t number = 0; number < count; ++number) one(number);
  return go_on;
}

std::vector<SurveyedSquare> MeshGround::squares_of_plan(const PatchGrid& grid,
                                                        const Outlines& outlines) const {
  std::vector<SurveyedSquare> squares;
  for (Outlines& free : cut_into_patches(outlines, grid)) {
    SurveyedSquare& square = squares.emplace_back();
    square.square = grid.square(static_cast<std::uint32_t>(squares.size() - 1));
    square.floors.push_back({std::move(free), nullptr});
  }
  for (const CostlyOutlines& region : regions_of(plan_).value_or(std::vector<CostlyOutlines>{})) {
    const auto in_patches = cut_into_patches(region.outlines, grid);
    for (std::size_t i = 0; i < in_patches.size(); ++i)
      if (!in_patches[i].empty()) squares[i].floors[0].costly.push_back({region.cost, in_patches[i]});
  }
  return squares;
}

std::unique_ptr<MeshGround::Layer> MeshGround::make_layer(const BodySize& size,
                                                          const std::function<bool(float)>& progress) const {
  PatchGrid grid;
  std::vector<std::vector<SurveyedSquare>> cells;
  if (level_) {
    grid = level_->grid();
    cells.resize(grid.count());
    const Body body{.radius = size.radius, .height = size.height, .step_up = size.step_up};
    const auto one = [&](std::size_t cell) {
      cells[cell] = survey(*level_, static_cast<std::uint32_t>(cell), body);
    };
    if (!for_all(cells.size(), one, progress)) return nullptr;
  } else {
    const Outlines outlines = outlines_for(plan_, size.radius).value_or(Outlines{});  // it was checked
    PlanPoint low{0, 0}, high{0, 0};
    if (!outlines.empty()) low = high = outlines[0][0];
    for (const auto& outline : outlines)
      for (const PlanPoint p : outline) {
        low = {std::min(low.x, p.x), std::min(low.y, p.y)};
        high = {std::max(high.x, p.x), std::max(high.y, p.y)};
      }
    grid = patches_for(low, high, patch_size);
    for (SurveyedSquare& square : squares_of_plan(grid, outlines)) cells.push_back({std::move(square)});
  }
  std::vector<std::vector<Square>> squares(cells.size());
  std::vector<std::vector<FloorPart>> free;
  std::vector<PatchPolygons> made;
  for (std::size_t cell = 0; cell < cells.size(); ++cell)
    for (SurveyedSquare& square : cells[cell]) {
      squares[cell].push_back(square.square);
      made.push_back(polygons(square.floors, square.square, size));
      free.push_back(std::move(square.floors));
    }
  auto layer = std::make_unique<Layer>(
      Layer{std::move(free), ConvexMesh(grid, squares, std::move(made), step_between(size)), {}, {}});
  const auto still = [&](float) { return progress(1.f); };
  if (!find_crossings_of(*layer, size, progress ? still : std::function<bool(float)>())) return nullptr;
  return layer;
}

/// How high sides on a rim may lie above each other that are joined.
double MeshGround::step_between(const BodySize& size) const {
  return level_ ? per_metre * std::max(size.step_up, 0.5f * size.height) : 1.0;
}

/// Those of a patch, with the barriers as they lie now.
PatchPolygons MeshGround::polygons(const std::vector<FloorPart>& floors, const Square& square,
                                   const BodySize& size) const {
  PatchPolygons all;
  for (const FloorPart& floor : floors) {
    auto made = polygons(floor, square, size);
    if (!made) continue;
    if (!level_) return std::move(*made);
    all.add(*made, floor.surface);
  }
  return all;
}

std::optional<PatchPolygons> MeshGround::polygons(const FloorPart& floor, const Square& square,
                                                  const BodySize& size) const {
  Outlines taken;
  for (const PlacedBarrier& placed : barriers()) {
    if (placed.barrier.cost() > 0.f || !stands_in(placed, floor, square, size)) continue;
    const Outlines grown = outlines_of(placed.barrier, size.radius);
    taken.insert(taken.end(), grown.begin(), grown.end());
  }
  if (taken.size() > 1) taken = united(taken);
  taken = cut_to_square(taken, square);
  std::vector<Outlines> regions;
  std::vector<float> costs;
  for (CostlyOutlines& each : costly_in(floor, square, size)) {
    regions.push_back(std::move(each.outlines));
    costs.push_back(each.cost);
  }
  auto triangulation = Triangulation::make(floor.free, taken, regions);
  // Where outlines cross too often to be told apart, it helps to do away with the crossings first.
  if (!triangulation) triangulation = Triangulation::make(without(floor.free, taken), {}, regions);
  return triangulation ? std::optional(polygons_of(*triangulation, costs)) : std::nullopt;
}

/// True when a barrier reaches into a square, and on that floor is neither stepped over nor walked under.
bool MeshGround::stands_in(const PlacedBarrier& placed, const FloorPart& floor, const Square& square,
                           const BodySize& size) const {
  const dvec2 least(square.low.x, square.low.y), most = least + static_cast<double>(square.size);
  const auto [low, high] = reach_of(placed.barrier, size.radius);
  if (low.x > most.x || low.y > most.y || high.x < least.x || high.y < least.y) return false;
  if (floor.surface == nullptr) return true;
  const auto [lowest, highest] = floor.surface->range(low, high);
  return per_metre * placed.barrier.bottom() < highest + per_metre * size.height &&
         per_metre * placed.barrier.top() > lowest + per_metre * size.step_up;
}

/// What of a floor costs more, barriers that do included; so many parts at the most as can be told apart, of
/// more the most alike count as the dearer.
std::vector<CostlyOutlines> MeshGround::costly_in(const FloorPart& floor, const Square& square,
                                                  const BodySize& size) const {
  std::vector<CostlyOutlines> costly = floor.costly;
  for (const PlacedBarrier& placed : barriers())
    if (placed.barrier.cost() > 0.f && stands_in(placed, floor, square, size))
      lay_over(costly, placed.barrier.cost(), cut_to_square(outlines_of(placed.barrier, 0.f), square));
  std::erase_if(costly, [](const CostlyOutlines& each) { return each.cost <= 1.f || each.outlines.empty(); });
  std::ranges::sort(costly, {}, &CostlyOutlines::cost);
  while (costly.size() > Triangulation::most_regions) {
    std::size_t most_alike = 1;
    const auto apart = [&](std::size_t i) { return costly[i].cost - costly[i - 1].cost; };
    for (std::size_t i = 2; i < costly.size(); ++i)
      if (apart(i) < apart(most_alike)) most_alike = i;
    Outlines& into = costly[most_alike].outlines;
    into.insert(into.end(), costly[most_alike - 1].outlines.begin(), costly[most_alike - 1].outlines.end());
    into = united(into);
    costly.erase(costly.begin() + static_cast<std::ptrdiff_t>(most_alike) - 1);
  }
  return costly;
}

void MeshGround::barrier_changed(const Barrier& barrier) {
  for (std::uint16_t number = 0; number < layers_.count(); ++number) {
    const BodySize& size = layers_[number];
    const auto [low, high] = reach_of(barrier, size.radius);
    Layer& layer = *layers_[number].made;
    const PatchGrid& grid = layer.mesh.grid();
    std::vector<ConvexMesh::Change> changes;
    for (int row = grid.row_at(low.y); row <= grid.row_at(high.y); ++row)
      for (int column = grid.column_at(low.x); column <= grid.column_at(high.x); ++column) {
        const std::uint32_t cell = grid.number(column, row);
        for (std::uint32_t patch = layer.mesh.first_of(cell); patch < layer.mesh.first_of(cell + 1);
             ++patch) {
          const Square& square = layer.mesh.square(patch);
          const dvec2 least(square.low.x, square.low.y), most = least + static_cast<double>(square.size);
          if (low.x > most.x || low.y > most.y || high.x < least.x || high.y < least.y) continue;
          changes.push_back({patch, polygons(layer.free[patch], square, size)});
        }
      }
    layer.mesh.replace(std::move(changes));
    find_crossings_near(layer, size, barrier);
  }
  edits_.add({barrier.least(), barrier.most()});
}

bool MeshGround::changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const {
  const auto edits = edits_.since(since);
  if (!edits) return true;
  const float margin = body.radius + 0.002f;  // for rounding
  return std::ranges::any_of(*edits, [&](const auto& edit) {
    for (std::size_t i = 1; i < bends.size(); ++i)
      if (crosses_box(flat(bends[i - 1]), flat(bends[i]), edit.box.low - margin, edit.box.high + margin))
        return true;
    return false;
  });
}

// --- Spots ------------------------------------------------------------------------------------

/// What is near a height, where that counts.
ConvexMesh::Wanted MeshGround::near_height(float z) const {
  ConvexMesh::Wanted wanted;
  if (level_) wanted.height = per_metre * z;
  return wanted;
}

/// Where a spot is in its polygon: positions are rounded, polygons are not. Where the ground has changed, it
/// is the nearest place there is now; nothing when there is none at all.
std::optional<MeshSearch::Place> MeshGround::place_of(const Spot& spot) const {
  const ConvexMesh& mesh = mesh_of(spot.layer);
  const dvec2 at = in_mm(flat(spot.position));
  if (spot.piece < mesh.polygons().size() && mesh.polygons()[spot.piece].count > 0) {
    const dvec2 nearest = mesh.nearest_in(spot.piece, at);
    const double rounding = 2e-7 * (std::abs(at.x) + std::abs(at.y));
    const bool here =
        !level_ || std::abs(mesh.height(spot.piece, nearest) - per_metre * spot.position.z) < same_floor;
    if (here && glm::distance(nearest, at) <= skin + rounding) return MeshSearch::Place{nearest, spot.piece};
  }
  const ConvexMesh::Nearest nearest = mesh.nearest(at, near_height(spot.position.z));
  if (nearest.polygon == ConvexMesh::none) return {};
  return MeshSearch::Place{nearest.point, nearest.polygon};
}

Spot MeshGround::spot_at(const MeshSearch::Place& place, std::uint16_t number) const {
  const double height = mesh_of(number).height(place.polygon, place.at);
  return {.position = lift(in_metres(place.at), static_cast<float>(height / per_metre)),
          .piece = place.polygon,
          .layer = number};
}

Snap MeshGround::snap_to(const ConvexMesh::Nearest& nearest, std::uint16_t number, vec3 point,
                         float reach) const {
  if (nearest.polygon == ConvexMesh::none) return {};
  Snap snap{
      .spot = spot_at({nearest.point, nearest.polygon}, number), .off = 0.f, .found = true, .within = true};
  if (nearest.point == in_mm(flat(point))) snap.spot.position = lift(flat(point), snap.spot.position.z);
  snap.off = level_ ? glm::distance(snap.spot.position, point) : flat_distance(snap.spot.position, point);
  snap.within = snap.off <= reach;
  return snap;
}

Snap MeshGround::snap(vec3 point, float reach, const Body& body) const {
  if (!finite(point)) return {};
  const std::uint16_t number = number_for(body);
  return snap_to(mesh_of(number).nearest(in_mm(flat(point)), near_height(point.z)), number, point, reach);
}

Snap MeshGround::snap(vec3 point, const Reach& reach, const Body& body) const {
  if (!finite(point)) return {};
  const std::uint16_t number = number_for(body);
  ConvexMesh::Wanted wanted = near_height(point.z);
  wanted.up = per_metre * reach.up, wanted.down = per_metre * reach.down;
  Snap snap = snap_to(mesh_of(number).nearest(in_mm(flat(point)), wanted), number, point, 0.f);
  snap.within = snap.found && flat_distance(snap.spot.position, point) <= reach.aside;
  return snap;
}

Snap MeshGround::nearest_reachable(const Spot& from, vec3 goal) const {
  if (!finite(goal)) return {};
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto home = place_of(from);
  if (!home) return {};
  ConvexMesh::Wanted wanted = near_height(goal.z);
  const std::vector<bool> reached = layers_[from.layer].made->crossings.reached_from(mesh, home->polygon);
  wanted.components = &reached;
  return snap_to(mesh.nearest(in_mm(flat(goal)), wanted), from.layer, goal, 0.f);
}

/// Drawn from the polygons around, each cut to the square around the circle, by area; again where it lies
/// outside of the circle.
Spot MeshGround::random_spot(Random& random, const Spot& around, float radius) const {
  const ConvexMesh& mesh = mesh_of(around.layer);
  const auto home = place_of(around);
  if (!home) return around;
  // Where one can come back from, too.
  const MeshCrossings& crossings = layers_[around.layer].made->crossings;
  const std::uint32_t region = crossings.region(mesh, home->polygon);
  const double reach = std::min(static_cast<double>(radius) * per_metre, 4.0 * PlanPoint::most);
  const dvec2 low = home->at - reach, high = home->at + reach;
  const auto loan = helpers_.borrow();
  MeshPart& part = (*loan).part;
  // Those that reach out of the square are cut.
  const auto area_of = [&](std::uint32_t polygon) {
    const ConvexMesh::Polygon& box = mesh.polygons()[polygon];
    if (crossings.region(mesh, polygon) != region) return 0.0;
    if (box.low.x >= low.x && box.low.y >= low.y && box.high.x <= high.x && box.high.y <= high.y)
      return mesh.area(polygon);
    part.cut_out(mesh, polygon, low, high);
    return part.area();
  };
  double area = 0;
  mesh.each_near(low, high, [&](std::uint32_t polygon) { area += area_of(polygon); });
  for (int draw = 0; draw < draws && area > 0; ++draw) {
    double left = area * static_cast<double>(random.fraction());
    std::uint32_t chosen = ConvexMesh::none;
    mesh.each_near(low, high, [&](std::uint32_t polygon) {
      const double here = left < 0 ? 0 : area_of(polygon);
      if (here > 0) chosen = polygon;
      left -= here;
    });
    part.cut_out(mesh, chosen, low, high);
    const dvec2 point = part.point(random);
    if (glm::distance(point, home->at) <= reach)
      return spot_at({mesh.nearest_in(chosen, point), chosen}, around.layer);
  }
  return spot_at(*home, around.layer);
}

// --- Ways -------------------------------------------------------------------------------------

/// The search between two spots: true when there is a way.
bool MeshGround::search(const Spot& from, const Spot& to, Helper& helper, Found& found) const {
  const auto start = place_of(from), goal = place_of(to);
  if (!start || !goal) return false;
  const auto find = [&](auto& search) {
    const Layer& layer = *layers_[from.layer].made;
    const bool there = search.find(layer.mesh, *start, *goal, layer.crossings);
    found = {search.length(), search.path(), search.crossed(), search.expanded()};
    return there;
  };
  // Nothing costs less than its length: the shortest way is the cheapest when all of it costs just that.
  const bool there = find(helper.search);
  return there && helper.search.costly() ? find(helper.by_cost) : there;
}

void MeshGround::route(const Spot& from, const Spot& to, Route& route) const {
  route.clear();
  const auto loan = helpers_.borrow();
  Found found;
  route.complete = search(from, to, *loan, found);
  route.expanded = found.expanded;
  if (!route.complete) return;
  for (const MeshSearch::Bend& bend : found.path)
    route.bends.push_back(lift(in_metres(bend.at), static_cast<float>(bend.height / per_metre)));
  for (std::size_t i = 1; i < route.bends.size(); ++i)
    route.length += flat_distance(route.bends[i - 1], route.bends[i]);
  const auto crossings = layers_[from.layer].made->crossings.all();
  for (const auto& [bend, crossing] : found.crossed)
    route.crossings.push_back(
        {bend, crossings[crossing].kind, static_cast<float>(crossings[crossing].over / per_metre)});
}

float MeshGround::distance(const Spot& from, const Spot& to) const {
  const auto loan = helpers_.borrow();
  Found found;
  return search(from, to, *loan, found) ? static_cast<float>(found.length / per_metre)
                                        : std::numeric_limits<float>::infinity();
}

bool MeshGround::reachable(const Spot& from, const Spot& to) const {
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto start = place_of(from), goal = place_of(to);
  return start && goal && layers_[from.layer].made->crossings.reachable(mesh, start->polygon, goal->polygon);
}

bool MeshGround::sight(const Spot& from, const Spot& to) const {
  return straight(from, flat(to.position) - flat(from.position)).free;
}

/// From polygon to polygon, each time by the side that is reached first.
Stretch MeshGround::straight(const Spot& from, vec2 way) const {
  const ConvexMesh& mesh = mesh_of(from.layer);
  const auto home = place_of(from);
  if (!home) return {.end = from, .metres = 0.f, .free = false, .inward = -direction(way)};
  const MeshSearch::Place& start = *home;
  const dvec2 along = in_mm(way), ahead = skin / glm::length(along) * along;
  std::uint32_t polygon = start.polygon;
  double gone = 0;  // part of the way
  for (std::size_t steps = 0; steps < 2 * mesh.polygons().size() + 16; ++steps) {
    const Exit exit = exit_of(mesh, polygon, start.at, along, gone);
    if (exit.side == ConvexMesh::none) break;
    const std::uint32_t across = mesh.sides()[exit.side].across;
    const dvec2 met = start.at + exit.part * along;
    const double off_corner =
        std::min(glm::distance(met, mesh.start_of(exit.side)), glm::distance(met, mesh.end_of(exit.side)));
    if (exit.part <= gone || (across == ConvexMesh::none && off_corner < skin)) {
      // At a corner, where several polygons meet: on in the one that the way leads into, if there is one.
      // Bends lie on corners, but for rounding, so it need not be hit exactly.
      ConvexMesh::Wanted beside;
      if (level_)
        beside = {
            .height = mesh.height(polygon, met), .down = same_floor, .up = same_floor, .in_space = false};
      const ConvexMesh::Nearest next = mesh.nearest(met + ahead, beside);
      if (glm::distance(next.point, met + ahead) < 0.5 * skin && next.polygon != polygon) {
        polygon = next.polygon, gone = exit.part;
        continue;
      }
    }
    gone = exit.part;
    if (across == ConvexMesh::none) {
      const vec2 edge = direction(vec2(mesh.end_of(exit.side) - mesh.start_of(exit.side)));
      return {.end = spot_at({mesh.nearest_in(polygon, met), polygon}, from.layer),
              .metres = static_cast<float>(gone) * glm::length(way),
              .free = false,
              .inward = {-edge.y, edge.x}};
    }
    polygon = mesh.sides()[across].polygon;
  }
  return {.end = spot_at({mesh.nearest_in(polygon, start.at + along), polygon}, from.layer),
          .metres = glm::length(way),
          .free = true,
          .inward = vec2(0.f)};
}

}  // namespace ambulon
