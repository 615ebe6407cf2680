#include "draw/chart_mesh.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "palette.hpp"
#include "shade_scale.hpp"

namespace ambulon {
namespace {

using namespace draw;

constexpr double dots[] = {1.5, 3.5};
constexpr float storey_height = 2.f;  // metres
constexpr Ink side_ink{0.196f, 0.161f, 0.145f, 0.35f};

/// Returns the ink for ground with a cost: darker for a higher cost.
Ink wash(float cost) { return {0.45f, 0.40f, 0.12f, 0.12f + 0.06f * std::min(6.f, cost - 1.f)}; }

/// Returns the ink of rejected surfaces.
Ink tint(Rejection why) {
  switch (why) {
    case Rejection::too_steep:
      return {0.72f, 0.36f, 0.10f, 0.75f};
    case Rejection::too_low:
      return {0.40f, 0.24f, 0.50f, 0.75f};
    case Rejection::too_narrow:
      return {0.12f, 0.45f, 0.37f, 0.75f};
    case Rejection::out_of_reach:
      break;
  }
  return {0.42f, 0.40f, 0.38f, 0.75f};
}

/// Returns the area of a convex polygon on the plan, square metres.
float area_of(std::span<const vec3> corners) {
  float twice = 0.f;
  for (std::size_t i = 2; i < corners.size(); ++i)
    twice += cross(flat(corners[i - 1] - corners[0]), flat(corners[i] - corners[0]));
  return 0.5f * twice;
}

float height_of(const RejectedPart& part) {
  float sum = 0.f;
  for (const vec3 corner : part.corners) sum += corner.z;
  return sum / static_cast<float>(part.corners.size());
}

/// Returns a function that draws a sample of an area for a legend.
std::function<void(vec2)> sample_of(Canvas& canvas, Ink fill) {
  return [&canvas, fill](vec2 at) {
    const vec2 low = at - vec2(0.f, 6.f), high = at + vec2(26.f, 6.f);
    const vec2 box[] = {low, {high.x, low.y}, high, {low.x, high.y}};
    canvas.area(box, fill);
  };
}

vec2 in_metres(dvec2 mm) { return vec2(mm / 1000.0); }

/// Draws a line that curves to its left, with a dot at each end that it leads to.
void paint_bow(const ChartMesh::Bow& bow, Canvas& canvas, vec2 from, vec2 to) {
  constexpr int parts = 8;
  constexpr float bend = 0.3f, dot = 2.2f;
  const vec2 way = to - from, aside = bend * vec2(way.y, -way.x);
  std::vector<vec2> points;
  for (int i = 0; i <= parts; ++i) {
    const float t = static_cast<float>(i) / parts;
    points.push_back(from + t * way + 4.f * t * (1.f - t) * aside);
  }
  canvas.line(points, {.ink = ink, .width = 1.1f});
  canvas.disc(to, dot, ink);
  if (bow.both_ways) canvas.disc(from, dot, ink);
}

}  // namespace

ChartMesh chart_mesh(const ConvexMesh& mesh, bool sides, std::optional<vec2> between) {
  ChartMesh chart;
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon) {
    if (mesh.polygons()[polygon].count == 0) continue;
    ChartMesh::Polygon drawn{.cost = mesh.polygons()[polygon].cost, .number = polygon};
    dvec2 middle(0.0);
    for (const ConvexMesh::Side& side : mesh.sides_of(polygon)) {
      middle += side.start / static_cast<double>(mesh.sides_of(polygon).size());
      drawn.corners.push_back(in_metres(side.start));
    }
    drawn.height = static_cast<float>(mesh.height(polygon, middle) / 1000.0);
    if (between && (drawn.height < between->x || drawn.height > between->y)) continue;
    for (std::uint32_t i = 0; i < mesh.polygons()[polygon].count; ++i) {
      const std::uint32_t side = mesh.polygons()[polygon].first + i, across = mesh.sides()[side].across;
      if (across != ConvexMesh::none && (!sides || side > across)) continue;
      auto& lines = across == ConvexMesh::none ? chart.edges : chart.sides;
      lines.push_back({in_metres(mesh.start_of(side)), in_metres(mesh.end_of(side)), drawn.height});
    }
    chart.polygons.push_back(std::move(drawn));
  }
  return chart;
}

std::vector<ChartMesh::Bow> chart_crossings(const MeshCrossings& crossings, std::optional<vec2> between) {
  std::vector<ChartMesh::Bow> bows;
  for (const MeshCrossing& each : crossings.all()) {
    const auto low = static_cast<float>(std::min(each.from.height, each.to.height) / 1000.0),
               high = static_cast<float>(std::max(each.from.height, each.to.height) / 1000.0);
    if (between && (high < between->x || low > between->y)) continue;
    const vec2 from = in_metres(each.from.at), to = in_metres(each.to.at);
    const auto back = std::ranges::find_if(
        bows, [&](const ChartMesh::Bow& bow) { return bow.from == to && bow.to == from; });
    if (back != bows.end())
      back->both_ways = true;
    else
      bows.push_back({from, to});
  }
  return bows;
}

void paint_mesh(const ChartMesh& mesh, Canvas& canvas, const std::function<vec2(vec2)>& on_page) {
  // By storey, so that upper ones cover lower ones.
  const auto storey = [](float height) {
    return static_cast<int>(std::floor((height + 0.5f * storey_height) / storey_height));
  };
  std::set<int> storeys;
  for (const auto* polygons : {&mesh.polygons, &mesh.beneath})
    for (const ChartMesh::Polygon& polygon : *polygons) storeys.insert(storey(polygon.height));
  for (const RejectedPart& part : mesh.rejected) storeys.insert(storey(height_of(part)));
  for (const int now : storeys) {
    const auto lines = [&](const std::vector<ChartMesh::Line>& all, const Stroke& stroke) {
      for (const auto& [from, to, height] : all) {
        const vec2 line[] = {on_page(from), on_page(to)};
        if (storey(height) == now) canvas.line(line, stroke);
      }
    };
    const auto areas = [&](const std::vector<ChartMesh::Polygon>& all, bool over) {
      for (const ChartMesh::Polygon& polygon : all) {
        if (storey(polygon.height) != now || (over && polygon.shade < 0.f)) continue;
        std::vector<vec2> outline;
        for (const vec2 corner : polygon.corners) outline.push_back(on_page(corner));
        canvas.area(outline, over ? shaded(polygon.shade) : paper_light);
        if (!over && polygon.cost > 1.f) canvas.area(outline, wash(polygon.cost));
        outline.push_back(outline.front());
        if (!over)
          canvas.line(outline, {.ink = paper_light, .width = 1.f});  // so that no hatching shows between them
      }
    };
    areas(mesh.beneath, false);
    areas(mesh.polygons, false);
    areas(mesh.polygons, true);
    for (const RejectedPart& part : mesh.rejected) {
      if (storey(height_of(part)) != now) continue;
      std::vector<vec2> outline;
      for (const vec3 corner : part.corners) outline.push_back(on_page(flat(corner)));
      canvas.area(outline, paper_light);
      canvas.area(outline, tint(part.why));
    }
    lines(mesh.sides, {.ink = side_ink, .width = 0.8f});
    lines(mesh.room, {.ink = ink, .width = 1.f, .dash = dots});
    lines(mesh.edges, {.ink = ink, .width = 1.6f});
  }
  for (const ChartMesh::Bow& bow : mesh.crossings) paint_bow(bow, canvas, on_page(bow.from), on_page(bow.to));
}

void mesh_legend(const ChartMesh& mesh, Canvas& canvas, const LegendEntry& entry) {
  const auto line = [&](const Stroke& stroke) {
    return [&canvas, stroke](vec2 at) {
      const vec2 sample[] = {at, at + vec2(26.f, 0.f)};
      canvas.line(sample, stroke);
    };
  };
  if (!mesh.sides.empty()) entry(26.f, "sides of polygons", line({.ink = side_ink, .width = 0.8f}));
  if (!mesh.room.empty()) entry(26.f, mesh.room_means, line({.ink = ink, .width = 1.f, .dash = dots}));
  std::set<float> costs;
  for (const auto* polygons : {&mesh.polygons, &mesh.beneath})
    for (const ChartMesh::Polygon& polygon : *polygons)
      if (polygon.cost > 1.f) costs.insert(polygon.cost);
  if (!costs.empty()) {
    std::string words = "costs";
    for (const float cost : costs) words += fmt::format("{} {:g}", cost == *costs.begin() ? "" : ",", cost);
    entry(26.f, words, sample_of(canvas, wash(*costs.rbegin())));
  }
  for (const Rejection why :
       {Rejection::too_steep, Rejection::too_low, Rejection::too_narrow, Rejection::out_of_reach}) {
    float area = 0.f;
    for (const RejectedPart& part : mesh.rejected)
      if (part.why == why) area += area_of(part.corners);
    if (area > 0.f) entry(26.f, fmt::format("{}, {:.1f} m2", name(why), area), sample_of(canvas, tint(why)));
  }
  if (!mesh.crossings.empty())
    entry(26.f, "crossings, to where the dot is",
          [&canvas](vec2 at) { paint_bow({}, canvas, at + vec2(0.f, 4.f), at + vec2(26.f, 4.f)); });
  if (!mesh.shades_mean.empty()) entry(34.f, mesh.shades_mean, [&](vec2 at) { shade_scale(canvas, at); });
}

}  // namespace ambulon
