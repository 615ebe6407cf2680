#include "ambulon/draw/chart_mesh.hpp"

#include <cmath>
#include <set>

#include "palette.hpp"
#include "shade_scale.hpp"

namespace ambulon {
namespace {

using namespace draw;

constexpr double dots[] = {1.5, 3.5};
constexpr float storey_height = 2.f;  // metres
constexpr Ink side_ink{0.196f, 0.161f, 0.145f, 0.35f};

vec2 in_metres(dvec2 mm) { return vec2(mm / 1000.0); }

}  // namespace

ChartMesh chart_mesh(const ConvexMesh& mesh, bool sides, std::optional<vec2> between) {
  ChartMesh chart;
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon) {
    if (mesh.polygons()[polygon].count == 0) continue;
    ChartMesh::Polygon drawn{.number = polygon};
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

void paint_mesh(const ChartMesh& mesh, Canvas& canvas, const std::function<vec2(vec2)>& on_page) {
  // Storey by storey, so that an upper one covers what lies below it.
  const auto storey = [](float height) {
    return static_cast<int>(std::floor((height + 0.5f * storey_height) / storey_height));
  };
  std::set<int> storeys;
  for (const auto* polygons : {&mesh.polygons, &mesh.beneath})
    for (const ChartMesh::Polygon& polygon : *polygons) storeys.insert(storey(polygon.height));
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
        outline.push_back(outline.front());
        if (!over)
          canvas.line(outline, {.ink = paper_light, .width = 1.f});  // no hatching shows between them
      }
    };
    areas(mesh.beneath, false);
    areas(mesh.polygons, false);
    areas(mesh.polygons, true);
    lines(mesh.sides, {.ink = side_ink, .width = 0.8f});
    lines(mesh.room, {.ink = ink, .width = 1.f, .dash = dots});
    lines(mesh.edges, {.ink = ink, .width = 1.6f});
  }
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
  if (!mesh.shades_mean.empty()) entry(34.f, mesh.shades_mean, [&](vec2 at) { shade_scale(canvas, at); });
}

}  // namespace ambulon
