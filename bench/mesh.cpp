// Plans: triangulation against CGAL, searches against A* over the centres of sides with string pulling on the
// same mesh, and moving a barrier against building the whole ground. Levels: duration of surveys. All in one
// run: `bench_mesh [queries]`.

#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <limits>
#include <queue>
#include <sys/resource.h>
#include <thread>

#include <fmt/format.h>
#include <glm/geometric.hpp>

#include "ambulon/base/random.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_search.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/plan_outlines.hpp"
#include "ground/mesh/triangulation.hpp"
#include "level_maker.hpp"

namespace ambulon::bench {
namespace {

using Clock = std::chrono::steady_clock;

template <class Work>
double seconds(Work&& work) {
  const auto began = Clock::now();
  work();
  return std::chrono::duration<double>(Clock::now() - began).count();
}

double between(Random& random, double min, double max) {
  return min + (max - min) * static_cast<double>(random.fraction());
}

/// A square yard with star-shaped crates in rows, with that many vertices; `cell`: metres between them.
Plan yard(std::size_t vertices, double cell, Random& random) {
  constexpr int corners = 10;
  const int cells = std::max(1, static_cast<int>(std::sqrt(static_cast<double>(vertices) / corners)));
  const auto size = static_cast<float>(cells * cell);
  Plan plan;
  plan.outlines = {{{0, 0}, {size, 0}, {size, size}, {0, size}}};
  for (int y = 0; y < cells; ++y)
    for (int x = 0; x < cells; ++x) {
      Plan::Ring& ring = plan.solids.emplace_back();
      for (int i = 0; i < corners; ++i) {
        const double angle = 2 * 3.14159265358979 * i / corners, reach = between(random, 0.08, 0.42) * cell;
        ring.emplace_back((x + 0.5) * cell + reach * std::cos(angle),
                          (y + 0.5) * cell + reach * std::sin(angle));
      }
    }
  return plan;
}

// --- Triangulation ----------------------------------------------------------------------------

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Peer = CGAL::Constrained_Delaunay_triangulation_2<Kernel, CGAL::Default, CGAL::Exact_predicates_tag>;

void triangulations() {
  fmt::print("triangulation    vertices    ours, ms    CGAL, ms    CGAL / ours    triangles    CGAL's\n");
  for (const std::size_t vertices : {1'000U, 10'000U, 100'000U}) {
    Random random(7);
    const Outlines outlines = *outlines_for(yard(vertices, 4, random), 0.f);
    std::vector<Peer::Point> points;
    std::vector<std::pair<std::size_t, std::size_t>> sides;
    for (const auto& outline : outlines)
      for (std::size_t i = 0; i < outline.size(); ++i) {
        const std::size_t first = points.size() - i;
        points.emplace_back(outline[i].x, outline[i].y);
        sides.emplace_back(first + i, first + (i + 1) % outline.size());
      }
    double ours = 1e9, peers = 1e9;
    std::size_t triangles = 0, peers_triangles = 0;
    for (int turn = 0; turn < 5; ++turn) {
      ours = std::min(ours, seconds([&] { triangles = Triangulation::make(outlines)->triangles().size(); }));
      peers = std::min(peers, seconds([&] {
                         Peer peer;
                         peer.insert_constraints(points.begin(), points.end(), sides.begin(), sides.end());
                         peers_triangles = peer.number_of_faces();
                       }));
    }
    fmt::print("{:>25}{:>12.2f}{:>12.2f}{:>15.2f}{:>13}{:>10}\n", points.size(), 1e3 * ours, 1e3 * peers,
               peers / ours, triangles, peers_triangles);
  }
}

// --- Searches ---------------------------------------------------------------------------------

/// The baseline: A* over the centres of sides, then string pulling through the sides.
class OverMiddles {
 public:
  explicit OverMiddles(const ConvexMesh& mesh) : mesh_(mesh), nodes_(mesh.sides().size()) {}

  /// Millimetres; infinite if there is no path.
  double find(const MeshSearch::Place& from, const MeshSearch::Place& to) {
    if (from.polygon == to.polygon) return glm::distance(from.at, to.at);
    ++search_;
    open_ = {};
    leave(from.polygon, from.at, 0, ConvexMesh::none, to.at);
    while (!open_.empty()) {
      const auto [estimate, length, side] = open_.top();
      open_.pop();
      if (length > nodes_[side].length) continue;
      const std::uint32_t polygon = mesh_.sides()[mesh_.sides()[side].across].polygon;
      if (polygon == to.polygon) return taut(from.at, to.at, side);
      leave(polygon, middle(side), length, side, to.at);
    }
    return std::numeric_limits<double>::infinity();
  }

 private:
  struct Node {
    double length = 0;
    std::uint32_t parent = 0, search = 0;
  };
  struct Open {
    double estimate, length;
    std::uint32_t side;
    friend bool operator<(const Open& a, const Open& b) { return a.estimate > b.estimate; }
  };

  dvec2 middle(std::uint32_t side) const { return 0.5 * (mesh_.start_of(side) + mesh_.end_of(side)); }

  void leave(std::uint32_t polygon, dvec2 at, double length, std::uint32_t parent, dvec2 goal) {
    const ConvexMesh::Polygon& around = mesh_.polygons()[polygon];
    for (std::uint32_t side = around.first; side < around.first + around.count; ++side) {
      if (mesh_.sides()[side].across == ConvexMesh::none) continue;
      const double here = length + glm::distance(at, middle(side));
      Node& node = nodes_[side];
      if (node.search == search_ && here >= node.length) continue;
      node = {here, parent, search_};
      open_.push({here + glm::distance(middle(side), goal), here, side});
    }
  }

  /// The funnel through the sides: from each bend as far as all of them are visible.
  double taut(dvec2 from, dvec2 to, std::uint32_t last) {
    doors_.clear();
    for (std::uint32_t side = last; side != ConvexMesh::none; side = nodes_[side].parent)
      // left and right, in the direction of travel
      doors_.emplace_back(mesh_.end_of(side), mesh_.start_of(side));
    std::ranges::reverse(doors_);
    doors_.emplace_back(to, to);
    double length = 0;
    dvec2 bend = from, left = doors_[0].first, right = doors_[0].second;
    std::size_t at_left = 0, at_right = 0;
    const auto turn_at = [&](dvec2 corner, std::size_t& i, std::size_t door) {
      length += glm::distance(bend, corner);
      bend = corner;
      i = door + 1;
      if (i < doors_.size()) left = doors_[i].first, right = doors_[i].second, at_left = at_right = i;
    };
    for (std::size_t i = 1; i < doors_.size(); ++i) {
      const auto [l, r] = doors_[i];
      if (cross(right - bend, r - bend) >= 0) {
        if (right != bend && cross(left - bend, r - bend) > 0) {
          turn_at(left, i, at_left);
          continue;
        }
        right = r, at_right = i;
      }
      if (cross(left - bend, l - bend) <= 0) {
        if (left != bend && cross(right - bend, l - bend) < 0) {
          turn_at(right, i, at_right);
          continue;
        }
        left = l, at_left = i;
      }
    }
    return length + glm::distance(bend, to);
  }

  const ConvexMesh& mesh_;
  std::vector<Node> nodes_;  // by the side of exit
  std::priority_queue<Open> open_;
  std::vector<std::pair<dvec2, dvec2>> doors_;
  std::uint32_t search_ = 0;
};

MeshSearch::Place place(const ConvexMesh& mesh, Random& random, double size) {
  const double x = between(random, 0, size), y = between(random, 0, size);
  const ConvexMesh::Nearest nearest = mesh.nearest({x, y});
  return {nearest.point, nearest.polygon};
}

void searches(int queries) {
  fmt::print(
      "\nsearch    size, m    polygons    exact, us    baseline, us    baseline / exact    longer by, %: "
      "mean    most\n");
  for (const auto& [vertices, cell] : {std::pair{1'000, 6.0}, {10'000, 6.0}, {40'000, 6.0}}) {
    Random random(3);
    const Plan plan = yard(static_cast<std::size_t>(vertices), cell, random);
    const auto ground = std::move(*MeshGround::make(plan));
    const ConvexMesh& mesh = ground->mesh({.radius = 0.3f});
    const auto size = static_cast<double>(plan.outlines[0][2].x);
    MeshSearch search;
    OverMiddles baseline(mesh);
    double exact = 0, middles = 0, worse = 0, max = 0;
    int found = 0, wrong = 0;
    for (int i = 0; i < queries; ++i) {
      const MeshSearch::Place from = place(mesh, random, 1000 * size), to = place(mesh, random, 1000 * size);
      double length = 0;
      bool there = false;
      exact += seconds([&] { there = search.find(mesh, from, to); });
      middles += seconds([&] { length = baseline.find(from, to); });
      if (!there || search.length() < 1) continue;
      ++found;
      const double by = length / search.length() - 1;
      wrong += by < -1e-9;
      worse += by, max = std::max(max, by);
    }
    fmt::print("{:>17.0f}{:>12}{:>13.1f}{:>16.1f}{:>20.2f}{:>26.3f}{:>8.2f}\n", size, mesh.polygons().size(),
               1e6 * exact / queries, 1e6 * middles / queries, middles / exact, 100 * worse / found,
               100 * max);
    if (wrong > 0) fmt::print("{} of {} baseline ways are shorter than the exact ones!\n", wrong, found);
  }
}

/// Searches over ground of different costs. The baseline is the exact search on the same yard without costs.
void costs(int queries) {
  fmt::print(
      "\ncosts    size, m    regions      polygons    without, us    with costs, us    with / without    "
      "expanded: without     with\n");
  for (const int vertices : {1'000, 10'000})
    for (const bool lanes : {false, true}) {
      Random random(3);
      Plan plan = yard(static_cast<std::size_t>(vertices), 6.0, random);
      const float size = plan.outlines[0][2].x;
      const auto without = MeshGround::make(plan).value();
      const auto box = [&](float x, float y, float wide, float tall, float cost) {
        plan.regions.push_back({{{x, y}, {x + wide, y}, {x + wide, y + tall}, {x, y + tall}}, cost});
      };
      for (int i = 0; i < vertices / 200 && !lanes; ++i)  // puddles of 3 to 8 m
        box(static_cast<float>(between(random, 0, size - 8.0)),
            static_cast<float>(between(random, 0, size - 8.0)), static_cast<float>(between(random, 3, 8)),
            static_cast<float>(between(random, 3, 8)), i % 3 == 0 ? 1.5f : static_cast<float>(i % 3) * 4.f);
      for (float x = 3; x < size && lanes; x += 30) box(x, 0, 24, size, 1.5f);  // grass between paths of 6 m
      const auto with = MeshGround::make(plan).value();
      const ConvexMesh &plain = without->mesh({.radius = 0.3f}), &costly = with->mesh({.radius = 0.3f});
      MeshSearch search;
      double alone = 0, together = 0;
      std::uint64_t expanded = 0, expanded_costly = 0;
      for (int i = 0; i < queries; ++i) {
        const auto from = place(costly, random, 1000.0 * static_cast<double>(size)),
                   to = place(costly, random, 1000.0 * static_cast<double>(size));
        const auto on_plain = [&](dvec2 at) {
          const ConvexMesh::Nearest nearest = plain.nearest(at);
          return MeshSearch::Place{nearest.point, nearest.polygon};
        };
        const auto start = on_plain(from.at), goal = on_plain(to.at);
        alone += seconds([&] { search.find(plain, start, goal); });
        expanded += search.expanded();
        together += seconds([&] { search.find(costly, from, to); });
        expanded_costly += search.expanded();
      }
      const auto each = static_cast<std::uint64_t>(queries);
      fmt::print("{:>16.0f}{:>11}{:>14}{:>15.1f}{:>18.1f}{:>18.2f}{:>22}{:>9}\n", static_cast<double>(size),
                 lanes ? "lanes" : "puddles", costly.polygons().size(), 1e6 * alone / queries,
                 1e6 * together / queries, together / alone, expanded / each, expanded_costly / each);
    }
}

/// Routes of many to one goal, in one search and separately: from one place, and from everywhere.
void many_to_one() {
  fmt::print(
      "\nto one goal    size, m    polygons    of    from    one by one, us    together, us    ratio\n");
  for (const int vertices : {1'000, 10'000}) {
    Random random(3);
    const Plan plan = yard(static_cast<std::size_t>(vertices), 6.0, random);
    const auto ground = std::move(*MeshGround::make(plan));
    const float size = plan.outlines[0][2].x;
    const Body body{.radius = 0.3f};
    const auto spot_near = [&](vec2 middle, float reach) {
      const vec2 off(between(random, -reach, reach), between(random, -reach, reach));
      return ground->snap(lift(middle + off), 1e9f, body).spot;
    };
    const auto anywhere = [&] { return vec2(between(random, 0, size), between(random, 0, size)); };
    for (const bool everywhere : {false, true})
      for (const std::size_t count : {64U, 256U, 1000U}) {
        double alone = 0, together = 0;
        constexpr int rounds = 10;
        for (int round = 0; round < rounds; ++round) {
          const vec2 middle = anywhere();
          const Spot goal = spot_near(anywhere(), 0);
          std::vector<Spot> from;
          while (from.size() < count)
            from.push_back(everywhere ? spot_near(anywhere(), 0) : spot_near(middle, 8));
          std::vector<Route> ways(count);
          std::vector<Route*> pointers;
          for (Route& way : ways) pointers.push_back(&way);
          alone += seconds([&] {
            for (std::size_t i = 0; i < count; ++i) ground->route(from[i], goal, ways[i]);
          });
          together += seconds([&] { ground->routes_to(goal, from, pointers); });
        }
        const double each = 1e6 / static_cast<double>(count * rounds);
        fmt::print("{:>22.0f}{:>12}{:>6}{:>8}{:>18.1f}{:>16.1f}{:>9.2f}\n", static_cast<double>(size),
                   ground->mesh(body).polygons().size(), count, everywhere ? "all" : "one", each * alone,
                   each * together, alone / together);
      }
  }
}

// --- Barriers ---------------------------------------------------------------------------------

void barriers() {
  fmt::print("\nbarrier    size, m    polygons    making it all, ms    moving, ms    part, %\n");
  for (const double size : {50.0, 100.0, 200.0, 400.0}) {
    Random random(5);
    const Plan plan = yard(static_cast<std::size_t>(10 * size * size / 25), 5, random);
    std::unique_ptr<MeshGround> ground;
    std::size_t polygons = 0;
    const double whole = seconds([&] {
      ground = std::move(*MeshGround::make(plan));
      polygons = ground->mesh({.radius = 0.3f}).polygons().size();
    });
    const BarrierId crate = ground->put(*Barrier::box({1, 1}, {1, 1}));
    constexpr int moves = 100;
    const double moving = seconds([&] {
      for (int i = 0; i < moves; ++i) {
        const vec2 at(between(random, 0, size), between(random, 0, size));
        (void)ground->move(crate, *Barrier::box(at, {1, 1}, random.fraction()));
      }
    });
    fmt::print("{:>18.0f}{:>12}{:>21.1f}{:>14.3f}{:>11.3f}\n", size, polygons, 1e3 * whole,
               1e3 * moving / moves, 100 * moving / moves / whole);
  }
}

/// Hills of 200 by 200 m, with crates on them.
Level hills(int quads) {
  Level level;
  const auto corner = [&](int x, int y) {
    const float east = 200.f * static_cast<float>(x) / static_cast<float>(quads),
                north = 200.f * static_cast<float>(y) / static_cast<float>(quads);
    return vec3(east, north, 2.f * std::sin(0.06f * east) * std::cos(0.1f * north));
  };
  for (int y = 0; y <= quads; ++y)
    for (int x = 0; x <= quads; ++x) level.corners.push_back(corner(x, y));
  const auto row = static_cast<std::uint32_t>(quads + 1);
  for (std::uint32_t y = 0; y + 1 < row; ++y)
    for (std::uint32_t x = 0; x + 1 < row; ++x) {
      const std::uint32_t a = y * row + x;
      level.triangles.push_back({{a, a + 1, a + row + 1}});
      level.triangles.push_back({{a, a + row + 1, a + row}});
    }
  Random random(7);
  for (int i = 0; i < 400; ++i)
    add_box(level, vec2(between(random, 2, 198), between(random, 2, 198)), -3, {1, 2, 6}, random.fraction());
  return level;
}

/// The duration of surveys, and of moving a barrier on a level.
void levels() {
  fmt::print("\nlevels, 200 by 200 m\n{:>11}{:>12}{:>14}{:>13}{:>14}{:>16}{:>14}\n", "triangles", "polygons",
             "one core, s", "two cores, s", "triangles/s", "peak memory, MB", "move, ms");
  const auto two_threads = [](std::size_t count, const std::function<void(std::size_t)>& job) {
    std::atomic<std::size_t> next = 0;
    const auto work = [&] {
      for (std::size_t i = next++; i < count; i = next++) job(i);
    };
    const std::jthread other(work);
    work();
  };
  for (const int quads : {70, 220, 700}) {
    const Level level = hills(quads);
    auto ground = MeshGround::make(level).value();
    std::size_t polygons = 0;
    const double one = seconds([&] { polygons = ground->mesh({}).polygons().size(); });
    const auto parallel = MeshGround::make(level, {}, two_threads).value();
    const double two = seconds([&] { (void)parallel->mesh({}); });
    const BarrierId crate = ground->put(*Barrier::box({1, 1}, {1, 1}));
    constexpr int moves = 100;
    Random random(3);
    const double moving = seconds([&] {
      for (int i = 0; i < moves; ++i)
        (void)ground->move(
            crate, *Barrier::box(vec2(between(random, 0, 200), between(random, 0, 200)), {1, 1}, 0.3f));
    });
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    const auto triangles = static_cast<double>(level.triangles.size());
    fmt::print("{:>11}{:>12}{:>14.2f}{:>13.2f}{:>14.0f}{:>16.0f}{:>14.3f}\n", level.triangles.size(),
               polygons, one, two, triangles / one, static_cast<double>(usage.ru_maxrss) / 1024,
               1e3 * moving / moves);
  }
}

}  // namespace
}  // namespace ambulon::bench

int main(int argc, char** argv) {
  ambulon::bench::triangulations();
  ambulon::bench::searches(argc > 1 ? std::atoi(argv[1]) : 1000);
  ambulon::bench::costs(argc > 1 ? std::atoi(argv[1]) : 200);
  ambulon::bench::many_to_one();
  ambulon::bench::barriers();
  ambulon::bench::levels();
}
