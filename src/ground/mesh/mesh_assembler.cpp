#include "ground/mesh/mesh_assembler.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <glm/geometric.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

// The borders of a patch: east, north, west, south.
constexpr std::uint32_t beyond(std::uint32_t rim) { return (rim + 2) % 4; }
/// Returns the position of a point along a border.
int along(std::uint32_t rim, PlanPoint point) { return rim % 2 == 0 ? point.y : point.x; }
/// Returns the coordinate of a border of a square across its direction.
int limit(const Square& square, std::uint32_t rim) {
  const int low = rim % 2 == 0 ? square.low.x : square.low.y;
  return rim < 2 ? low + square.size : low;
}

}  // namespace

void ConvexMesh::Assembler::find_neighbours() {
  if (mesh_.grid_.size == 0) return;
  for (std::uint32_t patch = 0; patch < patches_.size(); ++patch) {
    const Square& square = patches_[patch].square;
    for (std::uint32_t rim = 0; rim < 4; ++rim) {
      const int at = limit(square, rim);
      const PlanPoint low{rim % 2 == 0 ? at : square.low.x, rim % 2 == 0 ? square.low.y : at},
          high{rim % 2 == 0 ? at : square.low.x + square.size,
               rim % 2 == 0 ? square.low.y + square.size : at};
      for (int row = mesh_.grid_.row_at(low.y - 1.0); row <= mesh_.grid_.row_at(high.y); ++row)
        for (int column = mesh_.grid_.column_at(low.x - 1.0); column <= mesh_.grid_.column_at(high.x);
             ++column) {
          const std::uint32_t cell = mesh_.grid_.number(column, row);
          for (std::uint32_t other = mesh_.first_of_cell_[cell]; other < mesh_.first_of_cell_[cell + 1];
               ++other) {
            const Square& there = patches_[other].square;
            const int from = along(rim, there.low);
            if (other != patch && limit(there, beyond(rim)) == at && from < along(rim, high) &&
                from + there.size > along(rim, low))
              patches_[patch].beside[rim].push_back(other);
          }
        }
    }
  }
}

void ConvexMesh::Assembler::replace(std::vector<Change> changes) {
  std::vector<std::uint32_t> changed;
  for (Change& change : changes) {
    patches_[change.patch].made = std::move(change.polygons);
    changed.push_back(change.patch);
  }
  // Sides on a border are cut where those of the next patch end, so adjacent patches may have to be written
  // again.
  std::vector<std::uint32_t> written = changed;
  for (const std::uint32_t patch : changed) {
    const auto before = patches_[patch].ends;
    find_ends(patch);
    for (std::uint32_t rim = 0; rim < 4; ++rim)
      if (patches_[patch].ends[rim] != before[rim])
        written.insert(written.end(), patches_[patch].beside[rim].begin(), patches_[patch].beside[rim].end());
  }
  std::ranges::sort(written);
  written.erase(std::unique(written.begin(), written.end()), written.end());
  std::vector<std::pair<std::uint32_t, std::vector<bool>>> beside;  // with their borders before the change
  each_around(written, 1, [&](std::uint32_t patch) {
    if (!std::ranges::binary_search(written, patch)) beside.emplace_back(patch, open_seams(patch));
  });
  for (const std::uint32_t patch : written) write(patch);
  for (const std::uint32_t patch : written)
    for (std::uint32_t rim = 0; rim < 4; ++rim) join_rim(patch, rim);
  for (const std::uint32_t patch : written) find_nodes(patch);
  each_around(written, 1, [&](std::uint32_t patch) { find_links(patch); });
  // Corners on a border exist in both patches, and must agree about bends.
  for (const auto& [patch, open] : beside)
    each_at_rim_of(written, patch, [&](std::uint32_t polygon) {
      for (const Side& side : mesh_.sides_of(polygon))
        if (on_rim_of(written, side.start)) corners_[side.corner].bend = false;
    });
  for (const std::uint32_t patch : written) find_bends(patch);
  for (const auto& [patch, open] : beside)
    each_at_rim_of(written, patch, [&](std::uint32_t polygon) {
      const auto [first, count] = std::pair(polygons_[polygon].first, polygons_[polygon].count);
      for (std::uint32_t side = first; side < first + count; ++side)
        if (on_rim_of(written, mesh_.end_of(side))) find_bend_after(side);
    });
  const auto link = [&](std::uint32_t patch) {
    link_sides(patch);
    find_pockets(patch);
  };
  for (const std::uint32_t patch : written) link(patch);
  for (const auto& [patch, open] : beside)
    if (open_seams(patch) != open)
      link(patch);
    else  // its pockets are as before
      each_at_rim_of(written, patch, [&](std::uint32_t polygon) { link_sides_of(polygon); });
  find_components();
}

/// Calls `visit(patch)` once for each patch within `reach` patches of given ones.
template <class Visit>
void ConvexMesh::Assembler::each_around(const std::vector<std::uint32_t>& patches, int reach,
                                        Visit&& visit) const {
  std::vector<std::uint32_t> around = patches;
  for (; reach > 0 && around.size() < patches_.size(); --reach) {
    const std::size_t end = around.size();
    for (std::size_t i = 0; i < end; ++i) {
      const Square here = patches_[around[i]].square;  // those that touch it, also at a corner
      const dvec2 low = dvec2(here.low.x, here.low.y) - 1.0,
                  high = low + 2.0 + static_cast<double>(here.size);
      mesh_.each_patch_near(low, high, [&](std::uint32_t patch) { around.push_back(patch); });
    }
    std::ranges::sort(around);
    around.erase(std::unique(around.begin(), around.end()), around.end());
  }
  for (const std::uint32_t patch : around) visit(patch);
}

/// Returns the border that a side lies on, if another patch is beyond it.
std::optional<std::uint32_t> ConvexMesh::Assembler::rim_of(std::uint32_t patch, PlanPoint a,
                                                           PlanPoint b) const {
  const Patch& here = patches_[patch];
  for (std::uint32_t rim = 0; rim < 4; ++rim)
    if (!here.beside[rim].empty() && along(rim + 1, a) == limit(here.square, rim) &&
        along(rim + 1, b) == limit(here.square, rim))
      return rim;
  return {};
}

/// Collects the ends of the sides on the borders of a patch.
void ConvexMesh::Assembler::find_ends(std::uint32_t number) {
  Patch& patch = patches_[number];
  for (auto& ends : patch.ends) ends.clear();
  const PatchPolygons& made = patch.made;
  for (std::size_t polygon = 0; polygon < made.count(); ++polygon)
    for (std::uint32_t side = made.first[polygon]; side < made.first[polygon + 1]; ++side) {
      if (made.sides[side].across != none) continue;
      const std::uint32_t last = side + 1 == made.first[polygon + 1] ? made.first[polygon] : side + 1;
      const PlanPoint a = made.corners[made.sides[side].corner], b = made.corners[made.sides[last].corner];
      if (const auto rim = rim_of(number, a, b))
        for (const PlanPoint end : {a, b}) patch.ends[*rim].push_back(along(*rim, end));
    }
  for (auto& ends : patch.ends) {
    std::ranges::sort(ends);
    ends.erase(std::unique(ends.begin(), ends.end()), ends.end());
  }
}

/// Reserves `count` items in a block, which may move; they are value-initialised.
template <class Item>
void ConvexMesh::Assembler::make_room(std::vector<Item>& items, Block& block, std::size_t count) {
  for (std::uint32_t i = 0; i < block.count; ++i) items[block.first + i] = Item{};
  block.count = static_cast<std::uint32_t>(count);
  if (block.count <= block.room) return;
  // The old range stays unused. Blocks grow by half, so at most twice the used memory is unused.
  block.room = block.count + (block.room == 0 ? block.count / 8 : block.count / 2);
  block.first = static_cast<std::uint32_t>(items.size());
  items.resize(items.size() + block.room);
}

/// Writes the polygons of a patch. Sides on its borders are cut where those of the next patch end.
class ConvexMesh::Assembler::Writer {
 public:
  Writer(Assembler& all, std::uint32_t number)
      : all_(all), number_(number), patch_(all.patches_[number]), made_(patch_.made) {}

  void write() {
    corners_.assign(made_.corners.begin(), made_.corners.end());
    for (std::uint32_t rim = 0; rim < 4; ++rim) {  // where its sides are cut, on both sides of the border
      ends_[rim] = patch_.ends[rim];
      for (const std::uint32_t other : patch_.beside[rim]) {
        const auto& ends = all_.patches_[other].ends[beyond(rim)];
        ends_[rim].insert(ends_[rim].end(), ends.begin(), ends.end());
      }
      std::ranges::sort(ends_[rim]);
      ends_[rim].erase(std::unique(ends_[rim].begin(), ends_[rim].end()), ends_[rim].end());
    }
    for (std::size_t polygon = 0; polygon < made_.count(); ++polygon) list(polygon);
    const std::size_t count = made_.count();
    make_room(all_.polygons_, patch_.polygons, count);
    make_room(all_.sides_, patch_.sides, sides_.size());
    make_room(all_.corners_, patch_.corners, corners_.size());
    for (std::size_t i = 0; i < corners_.size(); ++i)
      all_.corners_[patch_.corners.first + i].at = dvec2(corners_[i].x, corners_[i].y);
    for (std::size_t i = 0; i < sides_.size(); ++i) {
      const std::uint32_t across = sides_[i].across;
      all_.sides_[patch_.sides.first + i] = {all_.corners_[patch_.corners.first + sides_[i].corner].at,
                                             patch_.corners.first + sides_[i].corner,
                                             patch_.polygons.first + polygon_of_[i],
                                             across == none ? none : patch_.sides.first + place_of_[across]};
    }
    for (std::size_t i = 0; i < count; ++i) write_polygon(i);
    for (std::size_t i = 0; i < sides_.size(); ++i) {
      Corner& corner = all_.corners_[patch_.corners.first + sides_[i].corner];
      corner.height =
          static_cast<float>(all_.mesh_.height(patch_.polygons.first + polygon_of_[i], corner.at));
    }
    list_seams();
    patch_.at_rim.clear();
    for (std::size_t i = 0; i < sides_.size(); ++i) {
      const std::uint32_t polygon = patch_.polygons.first + polygon_of_[i];
      const bool known = !patch_.at_rim.empty() && patch_.at_rim.back() == polygon;
      if (!known && all_.on_rim(number_, all_.sides_[patch_.sides.first + i].start))
        patch_.at_rim.push_back(polygon);
    }
  }

 private:
  PlanPoint end_of(std::size_t side) const {
    const bool last = side + 1 == sides_.size() || polygon_of_[side + 1] != polygon_of_[side];
    return corners_[sides_[last ? first_[polygon_of_[side]] : side + 1].corner];
  }

  void list(std::size_t polygon) {
    first_.push_back(static_cast<std::uint32_t>(sides_.size()));
    const std::uint32_t first = made_.first[polygon], end = made_.first[polygon + 1];
    for (std::uint32_t side = first; side < end; ++side) {
      place_of_.push_back(static_cast<std::uint32_t>(sides_.size()));
      add(made_.sides[side], polygon);
      if (made_.sides[side].across != none) continue;
      const PlanPoint a = made_.corners[made_.sides[side].corner],
                      b = made_.corners[made_.sides[side + 1 == end ? first : side + 1].corner];
      if (const auto rim = all_.rim_of(number_, a, b)) cut(*rim, a, b, polygon);
    }
  }

  void add(PatchPolygons::Side side, std::size_t polygon) {
    sides_.push_back(side);
    polygon_of_.push_back(static_cast<std::uint32_t>(polygon));
  }

  /// Adds the further parts of a side that is cut.
  void cut(std::uint32_t rim, PlanPoint a, PlanPoint b, std::size_t polygon) {
    const auto& ends = ends_[rim];
    const int from = along(rim, a), to = along(rim, b);
    auto low = std::ranges::upper_bound(ends, std::min(from, to)),
         high = std::ranges::lower_bound(ends, std::max(from, to));
    while (low < high) {
      const int at = from < to ? *low++ : *--high;
      corners_.push_back(rim % 2 == 0 ? PlanPoint{a.x, at} : PlanPoint{at, a.y});
      add({static_cast<std::uint32_t>(corners_.size() - 1), none}, polygon);
    }
  }

  void write_polygon(std::size_t i) {
    const std::uint32_t first = first_[i], end = i + 1 < first_.size()
                                                     ? first_[i + 1]
                                                     : static_cast<std::uint32_t>(sides_.size());
    Polygon& polygon = all_.polygons_[patch_.polygons.first + i];
    polygon.first = patch_.sides.first + first;
    polygon.count = end - first;
    all_.sides_[patch_.sides.first + end - 1].last = 1;
    polygon.floor = made_.floor.empty() ? nullptr : made_.floors[made_.floor[i]].get();
    polygon.cost = made_.cost.empty() ? 1.f : made_.cost[i];
    polygon.low = polygon.high = corners_[sides_[first].corner];
    for (std::uint32_t side = first; side < end; ++side) {
      const PlanPoint at = corners_[sides_[side].corner];
      polygon.low = {std::min(polygon.low.x, at.x), std::min(polygon.low.y, at.y)};
      polygon.high = {std::max(polygon.high.x, at.x), std::max(polygon.high.y, at.y)};
    }
  }

  void list_seams() {
    for (auto& seams : patch_.seams) seams.clear();
    for (std::size_t side = 0; side < sides_.size(); ++side) {
      if (sides_[side].across != none) continue;
      const PlanPoint a = corners_[sides_[side].corner], b = end_of(side);
      const auto rim = all_.rim_of(number_, a, b);
      if (!rim) continue;
      const auto [low, high] = std::minmax({along(*rim, a), along(*rim, b)});
      const dvec2 middle = 0.5 * dvec2(std::int64_t{a.x} + b.x, std::int64_t{a.y} + b.y);
      patch_.seams[*rim].push_back({low, high,
                                    all_.mesh_.height(patch_.polygons.first + polygon_of_[side], middle),
                                    patch_.sides.first + static_cast<std::uint32_t>(side)});
    }
    for (auto& seams : patch_.seams) std::ranges::sort(seams);
  }

  Assembler& all_;
  std::uint32_t number_;
  Patch& patch_;
  const PatchPolygons& made_;
  std::array<std::vector<int>, 4> ends_;  // of sides on each border, in both patches
  std::vector<PlanPoint> corners_;
  std::vector<PatchPolygons::Side> sides_;  // across: by original number
  std::vector<std::uint32_t> polygon_of_;   // by side
  std::vector<std::uint32_t> first_;        // by polygon: its first side
  std::vector<std::uint32_t> place_of_;     // by original number: the new number
};

void ConvexMesh::Assembler::write(std::uint32_t patch) { Writer(*this, patch).write(); }

/// Joins the sides on a border to those of the adjacent patches: each one to the side at its height.
void ConvexMesh::Assembler::join_rim(std::uint32_t number, std::uint32_t rim) {
  const Patch& patch = patches_[number];
  const int low = along(rim, patch.square.low), high = low + patch.square.size;
  for (const Seam& seam : patch.seams[rim]) sides_[seam.side].across = none;
  for (const std::uint32_t other : patch.beside[rim]) {
    const auto& there = patches_[other].seams[beyond(rim)];
    for (const Seam& seam : there)
      if (seam.low >= low && seam.high <= high) sides_[seam.side].across = none;
    for (const Seam& seam : patch.seams[rim]) {
      const Seam* best = nullptr;
      double off = mesh_.step_;
      for (auto each = std::ranges::lower_bound(there, std::pair(seam.low, seam.high), {},
                                                [](const Seam& s) { return std::pair(s.low, s.high); });
           each != there.end() && each->low == seam.low && each->high == seam.high; ++each)
        if (const double here = std::abs(each->height - seam.height);
            here < off && sides_[each->side].across == none)
          best = &*each, off = here;
      if (best == nullptr) continue;
      sides_[seam.side].across = best->side;
      sides_[best->side].across = seam.side;
    }
  }
}

/// Finds what is connected within a patch. Its borders must be joined.
void ConvexMesh::Assembler::find_nodes(std::uint32_t number) {
  Patch& patch = patches_[number];
  std::vector<bool> seen(patch.polygons.count);
  std::vector<std::uint32_t> open, nodes(patch.polygons.count);
  std::uint32_t count = 0;
  const auto inside = [&](std::uint32_t polygon) { return polygon - patch.polygons.first < seen.size(); };
  for (std::uint32_t start = 0; start < seen.size(); ++start) {
    if (seen[start]) continue;
    seen[start] = true;
    open.push_back(patch.polygons.first + start);
    while (!open.empty()) {
      const std::uint32_t at = open.back();
      open.pop_back();
      nodes[at - patch.polygons.first] = count;
      for (const Side& side : mesh_.sides_of(at)) {
        if (side.across == none) continue;
        const std::uint32_t next = sides_[side.across].polygon;
        if (!inside(next) || seen[next - patch.polygons.first]) continue;
        seen[next - patch.polygons.first] = true;
        open.push_back(next);
      }
    }
    ++count;
  }
  make_room(component_of_, patch.nodes, count);
  node_area_.resize(component_of_.size());
  std::fill_n(node_area_.begin() + patch.nodes.first, patch.nodes.count, 0.0);
  for (std::uint32_t i = 0; i < seen.size(); ++i) {
    const std::uint32_t node = patch.nodes.first + nodes[i];
    polygons_[patch.polygons.first + i].node = node;
    node_area_[node] += mesh_.area(patch.polygons.first + i);
  }
}

bool ConvexMesh::Assembler::on_rim(std::uint32_t patch, dvec2 at) const {
  const Square& square = patches_[patch].square;
  const dvec2 off = at - dvec2(square.low.x, square.low.y);
  return off.x == 0 || off.y == 0 || off.x == square.size || off.y == square.size;
}

/// Returns `test(patch)` for any of the patches (ascending) that touches a box.
template <class Test>
bool ConvexMesh::Assembler::any_touches(const std::vector<std::uint32_t>& patches, dvec2 low, dvec2 high,
                                        Test&& test) const {
  bool any = false;
  mesh_.each_patch_near(low - 1.0, high + 1.0, [&](std::uint32_t patch) {
    const dvec2 from = to_vec(patches_[patch].square.low),
                to = from + static_cast<double>(patches_[patch].square.size);
    any = any || (low.x <= to.x && low.y <= to.y && high.x >= from.x && high.y >= from.y &&
                  std::ranges::binary_search(patches, patch) && test(patch));
  });
  return any;
}

bool ConvexMesh::Assembler::on_rim_of(const std::vector<std::uint32_t>& patches, dvec2 at) const {
  return any_touches(patches, at, at, [&](std::uint32_t patch) { return on_rim(patch, at); });
}

/// Calls `visit(polygon)` for the polygons at the border of a patch that touch others of the patches.
template <class Visit>
void ConvexMesh::Assembler::each_at_rim_of(const std::vector<std::uint32_t>& patches, std::uint32_t patch,
                                           Visit&& visit) const {
  for (const std::uint32_t polygon : patches_[patch].at_rim) {
    const dvec2 low = to_vec(polygons_[polygon].low), high = to_vec(polygons_[polygon].high);
    if (any_touches(patches, low, high, [](std::uint32_t) { return true; })) visit(polygon);
  }
}

/// Returns for each side on a border of a patch whether it is joined to another patch.
std::vector<bool> ConvexMesh::Assembler::open_seams(std::uint32_t number) const {
  std::vector<bool> open;
  for (const auto& seams : patches_[number].seams)
    for (const Seam& seam : seams) open.push_back(sides_[seam.side].across != none);
  return open;
}

/// Writes the copies that searches need to each side of a patch, except those for pockets.
void ConvexMesh::Assembler::link_sides(std::uint32_t number) {
  const Block& polygons = patches_[number].polygons;
  for (std::uint32_t i = polygons.first; i < polygons.first + polygons.count; ++i) {
    link_sides_of(i);
    for (std::uint32_t k = 0; k < polygons_[i].count; ++k) sides_[polygons_[i].first + k].blind = 0;
  }
}

void ConvexMesh::Assembler::link_sides_of(std::uint32_t polygon) {
  const std::uint32_t first = polygons_[polygon].first, count = polygons_[polygon].count;
  std::uint32_t next = first;
  for (std::uint32_t side = first; side < first + count; ++side)
    if (sides_[side].across != none) {
      next = side;  // it follows the last one
      break;
    }
  for (std::uint32_t number = first + count; number-- > first;) {
    Side& side = sides_[number];
    side.next_open = next & max_sides;
    side.bend = corners_[side.corner].bend ? 1 : 0;
    side.border =
        side.across != none && polygons_[sides_[side.across].polygon].cost != polygons_[polygon].cost;
    if (side.across != none) next = number;
  }
}

/// Finds pockets: polygons with one way out within the patch, also if all others lead to pockets. Sides on a
/// border count as other ways out, so the chain of exits ends.
void ConvexMesh::Assembler::find_pockets(std::uint32_t number) {
  const Block& polygons = patches_[number].polygons;
  std::vector<std::uint32_t> ways, open;
  for (std::uint32_t i = polygons.first; i < polygons.first + polygons.count; ++i) {
    polygons_[i].exit = none;
    ways.push_back(static_cast<std::uint32_t>(
        std::ranges::count_if(mesh_.sides_of(i), [](const Side& side) { return side.across != none; })));
    if (ways.back() == 1) open.push_back(i);
  }
  while (!open.empty()) {
    Polygon& pocket = polygons_[open.back()];
    open.pop_back();
    for (std::uint32_t side = pocket.first; side < pocket.first + pocket.count; ++side) {
      const std::uint32_t across = sides_[side].across;
      if (across == none) continue;
      const std::uint32_t next = sides_[across].polygon;
      if (polygons_[next].exit == across) continue;        // an inner pocket
      if (next - polygons.first >= polygons.count) break;  // over the border
      if (polygons_[next].cost != pocket.cost) break;      // paths that pass by may lead through it
      pocket.exit = side;
      sides_[across].blind = 1;
      if (--ways[next - polygons.first] == 1) open.push_back(next);
      break;
    }
  }
}

void ConvexMesh::Assembler::find_bends(std::uint32_t number) {
  const Block& sides = patches_[number].sides;
  for (std::uint32_t side = sides.first; side < sides.first + sides.count; ++side) find_bend_after(side);
}

/// Marks the corner at the end of a side if the ground is concave there: follows the edge of the ground from
/// the side to the next one.
void ConvexMesh::Assembler::find_bend_after(std::uint32_t side) {
  if (sides_[side].across != none) return;
  std::uint32_t out = mesh_.after(side);
  while (sides_[out].across != none) out = mesh_.after(sides_[out].across);
  const dvec2 in = mesh_.end_of(side) - mesh_.start_of(side), on = mesh_.end_of(out) - mesh_.start_of(out);
  const double turned = cross(in, on);
  if (turned > 0 || (turned == 0 && glm::dot(in, on) >= 0)) return;
  out = mesh_.after(side);
  corners_[sides_[out].corner].bend = true;
  while (sides_[out].across != none) {
    out = mesh_.after(sides_[out].across);
    corners_[sides_[out].corner].bend = true;
  }
}

/// Finds the nodes of a patch that are connected to those of the next, each pair once.
void ConvexMesh::Assembler::find_links(std::uint32_t number) {
  Patch& patch = patches_[number];
  patch.links.clear();
  for (const std::uint32_t rim : {0U, 1U})
    for (const Seam& seam : patch.seams[rim])
      if (const std::uint32_t across = sides_[seam.side].across; across != none)
        patch.links.emplace_back(polygons_[sides_[seam.side].polygon].node,
                                 polygons_[sides_[across].polygon].node);
  std::ranges::sort(patch.links);
  patch.links.erase(std::unique(patch.links.begin(), patch.links.end()), patch.links.end());
}

/// Finds the components over all patches.
void ConvexMesh::Assembler::find_components() {
  std::iota(component_of_.begin(), component_of_.end(), 0U);
  const auto root = [&](std::uint32_t node) {
    while (component_of_[node] != node) node = component_of_[node] = component_of_[component_of_[node]];
    return node;
  };
  for (const Patch& patch : patches_)
    for (const auto& [one, other] : patch.links) {
      const std::uint32_t a = root(one), b = root(other);
      component_of_[std::max(a, b)] = std::min(a, b);
    }
  for (std::uint32_t node = 0; node < component_of_.size(); ++node) component_of_[node] = root(node);
}

}  // namespace ambulon
