#include "ground/mesh/mesh_builder.hpp"

#include <algorithm>
#include <atomic>
#include <limits>
#include <mutex>

#include <glm/common.hpp>

#include "base/dvec2.hpp"
#include "base/in_parts.hpp"
#include "ground/mesh/millimetres.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

constexpr int patch_size = 16'000;  // millimetres

/// Returns the box in millimetres that contains all effects of a barrier on bodies of that radius (metres).
std::pair<dvec2, dvec2> reach_of(const Barrier& barrier, float radius) {
  const double margin = per_metre * radius + 2;  // for rounding
  return {in_mm(barrier.min()) - margin, in_mm(barrier.max()) + margin};
}

}  // namespace

/// Runs jobs, on the game's threads if there are any. Returns false if `progress` cancelled them.
bool MeshBuilder::for_all(std::size_t count, const std::function<void(std::size_t)>& job, MeshPhase phase,
                          const MeshProgress& progress) const {
  if (progress && !progress(phase, 0.f)) return false;
  std::atomic<bool> go_on = true;
  std::mutex telling;
  std::size_t done = 0;
  const auto one = [&](std::size_t number) {
    if (!go_on) return;
    job(number);
    if (!progress) return;
    const std::scoped_lock lock(telling);
    if (!progress(phase, static_cast<float>(++done) / static_cast<float>(count))) go_on = false;
  };
  in_parts(jobs_, count, one, 1);
  return go_on;
}

std::vector<SurveyedSquare> MeshBuilder::squares_of_plan(const PatchGrid& grid,
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

/// Surveys each grid cell for a body size. Returns false if cancelled.
bool MeshBuilder::survey_all(const BodySize& size, PatchGrid& grid,
                             std::vector<std::vector<SurveyedSquare>>& cells,
                             const MeshProgress& progress) const {
  if (level_) {
    grid = level_->grid();
    cells.resize(grid.count());
    const Body body{.radius = size.radius, .height = size.height, .step_up = size.step_up};
    const auto one = [&](std::size_t cell) {
      cells[cell] = survey(*level_, static_cast<std::uint32_t>(cell), body);
    };
    return for_all(cells.size(), one, MeshPhase::surveying, progress);
  }
  if (progress && !progress(MeshPhase::surveying, 0.f)) return false;
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
  return true;
}

/// Builds a layer of everything that the survey finds, with or without barriers.
std::unique_ptr<MeshLayer> MeshBuilder::whole(const BodySize& size, bool with_barriers,
                                              const MeshProgress& progress) const {
  PatchGrid grid;
  std::vector<std::vector<SurveyedSquare>> cells;
  if (!survey_all(size, grid, cells, progress)) return nullptr;
  std::vector<std::vector<Square>> squares(cells.size());
  std::vector<SurveyedSquare*> all;
  for (std::size_t cell = 0; cell < cells.size(); ++cell)
    for (SurveyedSquare& square : cells[cell]) {
      squares[cell].push_back(square.square);
      all.push_back(&square);
    }
  std::vector<PatchPolygons> made(all.size());
  const auto divide = [&](std::size_t i) {
    const Square& square = all[i]->square;
    Bases bases;
    made[i] =
        polygons(all[i]->floors, square, size, with_barriers ? barriers_in(square, size) : Barriers(), bases);
  };
  if (!for_all(all.size(), divide, MeshPhase::dividing, progress)) return nullptr;
  if (progress && !progress(MeshPhase::joining, 0.f)) return nullptr;
  std::vector<std::vector<FloorPart>> free;
  for (SurveyedSquare* square : all) free.push_back(std::move(square->floors));
  return std::make_unique<MeshLayer>(
      MeshLayer{std::move(free), ConvexMesh(grid, squares, std::move(made), step_between(size))});
}

/// Returns the maximum height difference of sides that are joined over a border.
double MeshBuilder::step_between(const BodySize& size) const {
  return level_ ? per_metre * std::max(size.step_up, 0.5f * size.height) : 1.0;
}

/// Returns the polygons of a patch with the barriers near it.
PatchPolygons MeshBuilder::polygons(const std::vector<FloorPart>& floors, const Square& square,
                                    const BodySize& size, const Barriers& barriers, Bases& bases) const {
  PatchPolygons all;
  bases.resize(floors.size());
  for (std::size_t i = 0; i < floors.size(); ++i) {
    auto made = polygons(floors[i], square, size, barriers, bases[i]);
    if (!made) continue;
    if (!level_) return std::move(*made);
    all.add(*made, floors[i].surface);
  }
  return all;
}

std::optional<PatchPolygons> MeshBuilder::polygons(const FloorPart& floor, const Square& square,
                                                   const BodySize& size, const Barriers& barriers,
                                                   std::shared_ptr<const Triangulation>& base) const {
  Outlines taken;
  for (const PlacedBarrier* placed : barriers) {
    if (placed->barrier.cost() > 0.f || !stands_in(*placed, floor, square, size)) continue;
    const Outlines grown = outlines_of(placed->barrier, size.radius);
    taken.insert(taken.end(), grown.begin(), grown.end());
  }
  if (taken.size() > 1) taken = united(taken);
  taken = cut_to_square(taken, square);
  std::vector<Outlines> regions;
  std::vector<float> costs;
  for (CostlyOutlines& each : costly_in(floor, square, size, barriers)) {
    // At the edge of the ground they may reach beyond it.
    regions.push_back(square.size > 0 ? cut_to_square(each.outlines, square) : std::move(each.outlines));
    costs.push_back(each.cost);
  }
  if (base == nullptr && square.size > 0) {
    const PlanPoint high{square.low.x + square.size, square.low.y + square.size};
    if (auto alone = Triangulation::make_in(square.low, high, floor.free))
      base = std::make_shared<const Triangulation>(std::move(*alone));
  }
  if (base != nullptr && taken.empty() && regions.empty()) return polygons_of(*base, costs);
  auto triangulation =
      base != nullptr ? base->with(taken, regions) : Triangulation::make(floor.free, taken, regions);
  // If rounding of crossings fails, the union is computed first, which removes crossings.
  if (!triangulation) triangulation = Triangulation::make(without(floor.free, taken), {}, regions);
  return triangulation ? std::optional(polygons_of(*triangulation, costs)) : std::nullopt;
}

/// Returns the barriers that may obstruct such bodies in a square.
MeshBuilder::Barriers MeshBuilder::barriers_in(const Square& square, const BodySize& size) const {
  constexpr float everywhere = std::numeric_limits<float>::max();
  if (square.size == 0) return barriers_.barriers_near(vec2(-everywhere), vec2(everywhere));
  const dvec2 low = to_vec(square.low), high = low + static_cast<double>(square.size);
  const float margin = size.radius + 0.01f;  // for rounding
  return barriers_.barriers_near(in_metres(low) - margin, in_metres(high) + margin);
}

/// Returns true if a barrier overlaps a square and obstructs that floor: it is too high to step over and too
/// low to pass below.
bool MeshBuilder::stands_in(const PlacedBarrier& placed, const FloorPart& floor, const Square& square,
                            const BodySize& size) const {
  const dvec2 min(square.low.x, square.low.y), max = min + static_cast<double>(square.size);
  const auto [low, high] = reach_of(placed.barrier, size.radius);
  if (low.x > max.x || low.y > max.y || high.x < min.x || high.y < min.y) return false;
  if (floor.surface == nullptr) return true;
  const auto [lowest, highest] = floor.surface->range(low, high);
  return per_metre * placed.barrier.bottom() < highest + per_metre * size.height &&
         per_metre * placed.barrier.top() > lowest + per_metre * size.step_up;
}

/// Returns the parts of a floor with a cost, with those of barriers. If there are more different costs than
/// bits, the most similar ones are merged to the higher cost.
std::vector<CostlyOutlines> MeshBuilder::costly_in(const FloorPart& floor, const Square& square,
                                                   const BodySize& size, const Barriers& barriers) const {
  std::vector<CostlyOutlines> costly = floor.costly;
  for (const PlacedBarrier* placed : barriers)
    if (placed->barrier.cost() > 0.f && stands_in(*placed, floor, square, size))
      lay_over(costly, placed->barrier.cost(), cut_to_square(outlines_of(placed->barrier, 0.f), square));
  std::erase_if(costly, [](const CostlyOutlines& each) { return each.cost <= 1.f || each.outlines.empty(); });
  std::ranges::sort(costly, {}, &CostlyOutlines::cost);
  while (costly.size() > Triangulation::max_regions) {
    std::size_t max_alike = 1;
    const auto apart = [&](std::size_t i) { return costly[i].cost - costly[i - 1].cost; };
    for (std::size_t i = 2; i < costly.size(); ++i)
      if (apart(i) < apart(max_alike)) max_alike = i;
    Outlines& into = costly[max_alike].outlines;
    into.insert(into.end(), costly[max_alike - 1].outlines.begin(), costly[max_alike - 1].outlines.end());
    into = united(into);
    costly.erase(costly.begin() + static_cast<std::ptrdiff_t>(max_alike) - 1);
  }
  return costly;
}

void MeshBuilder::barriers_changed(MeshLayer& layer, const BodySize& size,
                                   std::span<const Barrier* const> changed) const {
  std::vector<std::uint32_t> patches;
  for (const Barrier* barrier : changed) {
    const auto [low, high] = reach_of(*barrier, size.radius);
    layer.mesh.each_patch_near(low, high, [&](std::uint32_t patch) { patches.push_back(patch); });
  }
  std::ranges::sort(patches);
  patches.erase(std::ranges::unique(patches).begin(), patches.end());
  std::vector<ConvexMesh::Change> changes(patches.size());
  std::vector<Bases> bases(patches.size());
  for (std::size_t i = 0; i < patches.size(); ++i) bases[i] = layer.bases.take(patches[i]);
  const auto make = [&](std::size_t i) {
    const Square& square = layer.mesh.square(patches[i]);
    changes[i] = {patches[i],
                  polygons(layer.free[patches[i]], square, size, barriers_in(square, size), bases[i])};
  };
  in_parts(jobs_, patches.size(), make, 1);
  for (std::size_t i = 0; i < patches.size(); ++i) layer.bases.keep(patches[i], std::move(bases[i]));
  layer.mesh.replace(std::move(changes));
}

}  // namespace ambulon
