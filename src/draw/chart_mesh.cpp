#include "ambulon/draw/chart_mesh.hpp"

#include "palette.hpp"
#include "shade_scale.hpp"

namespace ambulon {
namespace {

using namespace draw;

constexpr double dots[] = {1.5, 3.5};
constexpr Ink side_ink{0.196f, 0.161f, 0.145f, 0.35f};

vec2 in_metres(dvec2 mm) { return vec2(mm / 1000.0); }

}  // namespace

std::vector<ChartMesh::Line> edges_of(const ConvexMesh& mesh) {
  std::vector<ChartMesh::Line> edges;
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon)
    for (std::uint32_t i = 0; i < mesh.polygons()[polygon].count; ++i)
      if (const std::uint32_t side = mesh.polygons()[polygon].first + i;
          mesh.sides()[side].across == ConvexMesh::none)
        edges.push_back({in_metres(mesh.start_of(side)), in_metres(mesh.end_of(side))});
  return edges;
}

ChartMesh chart_mesh(const ConvexMesh& mesh, bool sides) {
  ChartMesh chart{.edges = edges_of(mesh)};
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon) {
    if (mesh.polygons()[polygon].count == 0) continue;
    auto& corners = chart.polygons.emplace_back().corners;
    for (const ConvexMesh::Side& side : mesh.sides_of(polygon))
      corners.push_back(in_metres(mesh.corners()[side.corner].at));
    for (std::uint32_t i = 0; i < mesh.polygons()[polygon].count && sides; ++i) {
      const std::uint32_t side = mesh.polygons()[polygon].first + i, across = mesh.sides()[side].across;
      if (across != ConvexMesh::none && side < across)
        chart.sides.push_back({in_metres(mesh.start_of(side)), in_metres(mesh.end_of(side))});
    }
  }
  return chart;
}

void paint_mesh(const ChartMesh& mesh, Canvas& canvas, const std::function<vec2(vec2)>& on_page) {
  const auto lines = [&](const std::vector<ChartMesh::Line>& all, const Stroke& stroke) {
    for (const auto& [from, to] : all) {
      const vec2 line[] = {on_page(from), on_page(to)};
      canvas.line(line, stroke);
    }
  };
  for (const bool over : {false, true})
    for (const ChartMesh::Polygon& polygon : mesh.polygons) {
      if (over && polygon.shade < 0.f) continue;
      std::vector<vec2> outline;
      for (const vec2 corner : polygon.corners) outline.push_back(on_page(corner));
      canvas.area(outline, over ? shaded(polygon.shade) : paper_light);
      outline.push_back(outline.front());
      if (!over) canvas.line(outline, {.ink = paper_light, .width = 1.f});  // no hatching shows between them
    }
  lines(mesh.sides, {.ink = side_ink, .width = 0.8f});
  lines(mesh.room, {.ink = ink, .width = 1.f, .dash = dots});
  lines(mesh.edges, {.ink = ink, .width = 1.6f});
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
