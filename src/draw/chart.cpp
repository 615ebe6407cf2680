#include "draw/chart.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>
#include <glm/common.hpp>

#include "ambulon/base/angle.hpp"
#include "ambulon/errand/beat.hpp"

#include "base/geometry.hpp"
#include "draw/chart_mesh.hpp"
#include "draw/chart_tiles.hpp"
#include "labels.hpp"
#include "palette.hpp"
#include "route/curve.hpp"

namespace ambulon {
namespace {

using namespace draw;

constexpr float number_spacing = 14.f;  // pixels between numbered bends of a route
constexpr std::ptrdiff_t max_flags = 40;
constexpr double dashes[] = {9, 5}, dots[] = {1.5, 3.5}, short_dashes[] = {4, 4};

constexpr float largest_shown_whole = 500.f;  // metres, diagonal
constexpr Ink hatching{0.196f, 0.161f, 0.145f, 0.3f};
constexpr float outer = 14.f, band = 52.f;  // pixels: page to frame, frame to map
constexpr float foot = 92.f;                // below the map, for scale bar and legend
constexpr float waypoint_radius = 8.5f, shoe_length = 30.f;
constexpr Lettering numbers{.size = 13}, names{.size = 15, .italic = true}, flags{.size = 15, .bold = true};

std::string clock(double seconds) {
  const auto whole = static_cast<long>(seconds + 1e-9);
  return fmt::format("{}:{:02}.{}", whole / 60, whole % 60,
                     static_cast<long>((seconds - static_cast<double>(whole)) * 10 + 1e-6));
}

/// The print of a shoe that points along +x, one unit long: sole and heel.
constexpr std::array<vec2, 14> sole = {{{0.52f, 0.f},
                                        {0.47f, 0.11f},
                                        {0.36f, 0.18f},
                                        {0.22f, 0.20f},
                                        {0.08f, 0.17f},
                                        {-0.06f, 0.11f},
                                        {-0.14f, 0.10f},
                                        {-0.14f, -0.10f},
                                        {-0.06f, -0.11f},
                                        {0.08f, -0.17f},
                                        {0.22f, -0.20f},
                                        {0.36f, -0.18f},
                                        {0.47f, -0.11f},
                                        {0.52f, 0.f}}};
constexpr std::array<vec2, 8> heel = {{{-0.20f, 0.11f},
                                       {-0.30f, 0.13f},
                                       {-0.40f, 0.11f},
                                       {-0.46f, 0.05f},
                                       {-0.46f, -0.05f},
                                       {-0.40f, -0.11f},
                                       {-0.30f, -0.13f},
                                       {-0.20f, -0.11f}}};

class Painter {
 public:
  Painter(const Chart& chart, Canvas& canvas)
      : chart_(chart),
        canvas_(canvas),
        size_(canvas.size()),
        map_{vec2(band + outer), size_ - vec2(band + outer, foot + outer)},
        labels_(map_),
        crowded_(std::ranges::count_if(chart.npcs, [](const ChartNpc& npc) { return !npc.name.empty(); }) >
                 max_flags) {
    fit();
  }

  std::vector<ChartBox> paint() {
    background();
    ground();
    const auto page = [this](vec2 at) { return on_page(lift(at)); };
    if (chart_.tiles) paint_tiles(*chart_.tiles, canvas_, page);
    if (chart_.mesh) paint_mesh(*chart_.mesh, canvas_, page);
    graticule();
    route();
    for (const ChartBeat& beat : chart_.beats) way(beat);
    for (std::size_t i = 0; i < chart_.npcs.size(); ++i) trail(i);
    for (const ChartNpc& npc : chart_.npcs) deck(npc);
    for (const ChartNpc& npc : chart_.npcs) goal(npc);
    marks_need_room();
    for (std::size_t i = 0; i < chart_.npcs.size(); ++i) flag(i);
    for (const ChartBeat& beat : chart_.beats) waypoints(beat);
    place_names();
    for (std::size_t i = 0; i < chart_.npcs.size(); ++i) shoe_print(chart_.npcs[i], tint(i));
    heading();
    scale_bar();
    legend();
    return std::move(text_);
  }

 private:
  /// Chooses scale and offset so that everything fits on the map with a margin.
  void fit() {
    vec2 min(1e30f), max(-1e30f);
    const auto hold = [&](vec3 point, float around) {
      min = glm::min(min, flat(point) - around);
      max = glm::max(max, flat(point) + around);
    };
    for (const ChartPlace& place : chart_.places) hold(place.at, 0.f);
    // A small ground is shown whole, of a large one only what is used.
    if (chart_.ground && glm::length(chart_.ground->max - chart_.ground->min) < largest_shown_whole) {
      hold(lift(chart_.ground->min), 0.f);
      hold(lift(chart_.ground->max), 0.f);
    }
    for (const ChartBeat& beat : chart_.beats)
      for (vec3 point : beat.line) hold(point, 0.f);
    for (const ChartNpc& npc : chart_.npcs) {
      hold(npc.at, npc.radius);
      for (vec3 point : npc.trail) hold(point, 0.f);
      if (npc.goal) hold(*npc.goal, npc.arrival_radius);
    }
    if (min.x > max.x) min = vec2(-5.f), max = vec2(5.f);
    const vec2 room = map_.max - map_.min - vec2(110.f);
    const vec2 extent = glm::max(max - min, vec2(2.f));
    scale_ = std::min(room.x / extent.x, room.y / extent.y);
    centre_ = 0.5f * (min + max);
  }

  vec2 on_page(vec3 point) const {
    const vec2 off = (flat(point) - centre_) * scale_;
    return 0.5f * (map_.min + map_.max) + vec2(off.x, -off.y);
  }

  std::vector<vec2> on_page(std::span<const vec3> points) const {
    std::vector<vec2> all;
    for (vec3 point : points) all.push_back(on_page(point));
    return all;
  }

  Ink tint(std::size_t index) const {
    return tints[chart_.npcs[index].colour.value_or(index) % tints.size()];
  }

  void write(vec2 at, std::string_view words, const Lettering& lettering, Ink colour = ink) {
    const vec2 extent = canvas_.text_size(words, lettering);
    canvas_.text(at, words, lettering, colour);
    text_.push_back({at - vec2(0.f, extent.y), at + vec2(extent.x, 0.f)});
  }

  void write_centred(vec2 centre, std::string_view words, const Lettering& lettering, Ink colour = ink) {
    const vec2 extent = canvas_.text_size(words, lettering);
    write(centre + vec2(-0.5f, 0.5f) * extent, words, lettering, colour);
  }

  void frame(const ChartBox& box, float width) {
    const vec2 corners[] = {box.min, {box.max.x, box.min.y}, box.max, {box.min.x, box.max.y}, box.min};
    canvas_.line(corners, {.ink = ink, .width = width});
  }

  void background() {
    const vec2 page[] = {{0.f, 0.f}, {size_.x, 0.f}, size_, {0.f, size_.y}};
    canvas_.area(page, paper);
    const vec2 map[] = {map_.min, {map_.max.x, map_.min.y}, map_.max, {map_.min.x, map_.max.y}};
    canvas_.area(map, paper_light);
  }

  /// Hatches the area beyond the ground.
  void ground() {
    if (!chart_.ground) return;
    const vec2 low = on_page(lift(chart_.ground->min)), high = on_page(lift(chart_.ground->max));
    const vec2 min = glm::clamp(vec2(low.x, high.y), map_.min, map_.max);
    const vec2 max = glm::clamp(vec2(high.x, low.y), map_.min, map_.max);
    const bool drawn_over = chart_.tiles || chart_.mesh;
    if (min == map_.min && max == map_.max && !drawn_over) return;
    hatch(map_);
    has_edge_ = true;
    if (drawn_over) return;
    const vec2 outline[] = {min, {max.x, min.y}, max, {min.x, max.y}, min};
    canvas_.area(outline, paper_light);
    canvas_.line(outline, {.ink = ink, .width = 1.8f});
  }

  /// Draws a route in dashes, with numbered bends.
  void route() {
    if (chart_.route.empty()) return;
    canvas_.line(on_page(chart_.route), {.ink = ink, .width = 2.f, .dash = dashes});
    std::vector<vec2> numbered;  // of bends that are close together, the first one
    for (std::size_t i = 0; i < chart_.route.size(); ++i) {
      const vec2 at = on_page(chart_.route[i]);
      canvas_.disc(at, 2.6f, ink);
      if (std::ranges::any_of(numbered,
                              [&](vec2 other) { return glm::distance(at, other) < number_spacing; }))
        continue;
      numbered.push_back(at);
      write(at + vec2(5.f, -5.f), fmt::format("{}", i), {.size = 11, .italic = true});
    }
  }

  /// Draws diagonal lines across `box`.
  void hatch(const ChartBox& box) {
    constexpr float spacing = 9.f;
    const vec2 extent = box.max - box.min;
    const int count = static_cast<int>((extent.x + extent.y) / spacing);
    for (int i = 1; i <= count; ++i) {
      // From the left or lower side to the upper or right side.
      const float sum = static_cast<float>(i) * spacing;
      const vec2 from(std::max(0.f, sum - extent.y), std::min(sum, extent.y));
      const vec2 to(std::min(sum, extent.x), std::max(0.f, sum - extent.x));
      const vec2 line[] = {box.min + from, box.min + to};
      canvas_.line(line, {.ink = hatching, .width = 1.f});
    }
  }

  /// Draws grid lines at round distances, with numbers along the frame.
  void graticule() {
    const float step = round_length(130.f / scale_);
    const vec2 middle = 0.5f * (map_.min + map_.max);
    for (int axis = 0; axis < 2; ++axis) {
      const float half = 0.5f * (map_.max - map_.min)[axis] / scale_;
      const auto first = static_cast<long>(std::ceil((centre_[axis] - half) / step));
      const auto last = static_cast<long>(std::floor((centre_[axis] + half) / step));
      for (long line = first; line <= last; ++line) {
        const float metres = static_cast<float>(line) * step;
        const float off = (metres - centre_[axis]) * scale_;
        const float at = axis == 0 ? middle.x + off : middle.y - off;
        const std::string number = fmt::format("{:g}", metres);
        if (axis == 0) {
          const vec2 points[] = {{at, map_.min.y}, {at, map_.max.y}};
          canvas_.line(points, {.ink = faint});
          write_centred({at, map_.max.y + 12.f}, number, numbers, middling);
        } else {
          const vec2 points[] = {{map_.min.x, at}, {map_.max.x, at}};
          canvas_.line(points, {.ink = faint});
          const float width = canvas_.text_size(number, numbers).x;
          write_centred({map_.min.x - 7.f - 0.5f * width, at}, number, numbers, middling);
        }
      }
    }
    frame(map_, 1.6f);
    frame({map_.min - vec2(3.5f), map_.max + vec2(3.5f)}, 0.6f);
  }

  void way(const ChartBeat& beat) {
    const auto line = on_page(beat.line);
    canvas_.line(line, {.ink = ink, .width = 1.3f, .dash = dashes});
    labels_.keep_clear_of(line);
  }

  void trail(std::size_t index) {
    const auto line = on_page(chart_.npcs[index].trail);
    if (line.size() < 2) return;
    const bool many = crowded_ || chart_.npcs[index].colour.has_value();
    Ink colour = tint(index);
    colour.alpha = many ? 0.3f : 0.75f;
    canvas_.line(line, {.ink = colour, .width = many ? 1.2f : 2.2f});
    if (!many) labels_.keep_clear_of(line);
  }

  void goal(const ChartNpc& npc) {
    if (npc.target) {
      const vec2 after[] = {on_page(npc.at), on_page(*npc.target)};
      canvas_.line(after, {.ink = middling, .width = 1.2f, .dash = dots});
      labels_.keep_clear_of({after[0], after[1]});
    }
    if (!npc.goal || crowded_) return;
    ring(*npc.goal, npc.arrival_radius, {.ink = ink, .width = 1.f, .dash = dots});
    if (npc.slowing_distance > 0.f && !npc.target)
      ring(*npc.goal, npc.arrival_radius + npc.slowing_distance,
           {.ink = middling, .width = 1.f, .dash = short_dashes});
  }

  void ring(vec3 centre, float metres, const Stroke& stroke) {
    canvas_.circle(on_page(centre), metres * scale_, stroke);
    std::vector<vec2> line;
    for (int i = 0; i <= 24; ++i)
      line.push_back(on_page(centre + lift(metres * unit(2.f * pi * static_cast<float>(i) / 24.f))));
    labels_.keep_clear_of(std::move(line));
  }

  /// Reserves the space of marks; labels are placed around them.
  void marks_need_room() {
    const auto keep = [&](vec3 point, float radius) {
      labels_.keep_free({on_page(point) - radius, on_page(point) + radius});
    };
    for (const ChartNpc& npc : chart_.npcs) keep(npc.at, mark_radius(npc));
    for (const ChartBeat& beat : chart_.beats)
      for (vec3 point : beat.waypoints) keep(point, waypoint_radius);
    for (const ChartPlace& place : chart_.places) keep(place.at, 4.f);
  }

  /// Returns the radius in pixels around a character that labels avoid.
  float mark_radius(const ChartNpc& npc) const { return std::max(0.42f * shoe_length, npc.radius * scale_); }

  /// Draws a pennant with the character's name on a staff at its position.
  void flag(std::size_t index) {
    const ChartNpc& npc = chart_.npcs[index];
    if (npc.name.empty() || crowded_) return;
    const vec2 at = on_page(npc.at), words = canvas_.text_size(npc.name, flags);
    const vec2 extent = words + vec2(26.f, 11.f);
    const auto box = labels_.place(at, std::max(0.6f * shoe_length, mark_radius(npc)), extent);
    if (!box) return;
    // The staff ends at the nearer side of the flag.
    const bool right = box->min.x + 0.5f * extent.x >= at.x;
    const float hoist = right ? box->min.x : box->max.x, fly = right ? box->max.x : box->min.x;
    const float notch = right ? -7.f : 7.f, middle = 0.5f * (box->min.y + box->max.y);
    const vec2 staff[] = {at, {hoist, std::clamp(at.y, box->min.y, box->max.y)}};
    canvas_.line(staff, {.ink = tint(index), .width = 1.4f});
    const vec2 outline[] = {{hoist, box->min.y}, {fly, box->min.y},   {fly + notch, middle},
                            {fly, box->max.y},   {hoist, box->max.y}, {hoist, box->min.y}};
    canvas_.area(outline, paper_light);
    canvas_.line(outline, {.ink = tint(index), .width = 1.4f});
    write({(right ? hoist + 8.f : hoist - 8.f - words.x), middle + 0.5f * words.y}, npc.name, flags);
  }

  /// Draws the numbers of a beat's waypoints, beside a character that stands on one.
  void waypoints(const ChartBeat& beat) {
    for (std::size_t i = 0; i < beat.waypoints.size(); ++i) {
      const vec2 at = on_page(beat.waypoints[i]);
      const bool covered = std::ranges::any_of(chart_.npcs, [&](const ChartNpc& npc) {
        return glm::length(on_page(npc.at) - at) < waypoint_radius + 0.4f * shoe_length;
      });
      vec2 centre = at;
      if (covered)
        if (const auto box = labels_.place(at, 0.6f * shoe_length, vec2(2.f * waypoint_radius))) {
          centre = 0.5f * (box->min + box->max);
          const vec2 leader[] = {at, centre};
          canvas_.line(leader, {.ink = middling, .width = 1.f});
        }
      canvas_.disc(centre, waypoint_radius, paper_light);
      canvas_.circle(centre, waypoint_radius, {.ink = ink, .width = 1.2f});
      write_centred(centre, fmt::format("{}", i + 1), {.size = 12});
    }
  }

  void place_names() {
    for (const ChartPlace& place : chart_.places) {
      const vec2 at = on_page(place.at);
      const bool waypoint = std::ranges::any_of(chart_.beats, [&](const ChartBeat& beat) {
        return std::ranges::any_of(beat.waypoints,
                                   [&](vec3 point) { return flat_distance(point, place.at) < 0.01f; });
      });
      if (!waypoint) {
        const vec2 across[] = {at - vec2(4.f, 0.f), at + vec2(4.f, 0.f)},
                   down[] = {at - vec2(0.f, 4.f), at + vec2(0.f, 4.f)};
        canvas_.line(across, {.ink = ink, .width = 1.3f});
        canvas_.line(down, {.ink = ink, .width = 1.3f});
      }
      const vec2 extent = canvas_.text_size(place.name, names) + vec2(6.f, 8.f);
      const auto box = labels_.place(at, waypoint ? waypoint_radius + 1.f : 5.f, extent);
      if (box) write({box->min.x + 3.f, box->max.y - 4.f}, place.name, names);
    }
  }

  void shoe_print(const ChartNpc& npc, Ink colour) {
    const vec2 at = on_page(npc.at), along = shoe_length * vec2(npc.facing.x, -npc.facing.y),
               aside(-along.y, along.x);
    const auto print = [&](std::span<const vec2> shape) {
      std::vector<vec2> outline;
      for (vec2 point : shape) outline.push_back(at + point.x * along + point.y * aside);
      canvas_.area(outline, colour);
      outline.push_back(outline.front());
      canvas_.line(outline, {.ink = ink, .width = 0.9f});
    };
    canvas_.circle(at, npc.radius * scale_, {.ink = middling, .width = 0.8f});
    print(sole);
    print(heel);
  }

  /// Draws planks, seen from above.
  void deck(const ChartNpc& npc) {
    if (npc.deck.x <= 0.f || npc.deck.y <= 0.f) return;
    const vec2 along = 0.5f * npc.deck.x * npc.facing,
               aside = 0.5f * npc.deck.y * vec2(-npc.facing.y, npc.facing.x);
    const auto corner = [&](float x, float y) { return on_page(npc.at + lift(x * along + y * aside)); };
    const vec2 outline[] = {corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1), corner(-1, -1)};
    canvas_.line(outline, {.ink = ink, .width = 1.6f});
    labels_.keep_clear_of({std::begin(outline), std::end(outline)});
    for (const float plank : {-0.5f, 0.f, 0.5f}) {
      const vec2 line[] = {corner(-1, plank), corner(1, plank)};
      canvas_.line(line, {.ink = faint, .width = 1.2f});
    }
  }

  void heading() {
    write({map_.min.x, outer + 33.f}, chart_.title, {.size = 28, .bold = true});
    const std::string time = clock(chart_.seconds), unit = "min:s";
    const Lettering large{.size = 24};
    const vec2 unit_extent = canvas_.text_size(unit, names), extent = canvas_.text_size(time, large);
    write({map_.max.x - unit_extent.x, outer + 33.f}, unit, names, middling);
    write({map_.max.x - unit_extent.x - extent.x - 6.f, outer + 33.f}, time, large);
  }

  void scale_bar() {
    const float metres = round_length(220.f / scale_), pixels = metres * scale_;
    const vec2 from{map_.min.x, map_.max.y + 50.f};
    for (int part = 0; part < 4; ++part) {
      const float left = from.x + 0.25f * pixels * static_cast<float>(part), right = left + 0.25f * pixels;
      const vec2 block[] = {
          {left, from.y}, {right, from.y}, {right, from.y + 7.f}, {left, from.y + 7.f}, {left, from.y}};
      canvas_.area(block, part % 2 == 0 ? ink : paper_light);
      canvas_.line(block, {.ink = ink, .width = 1.f});
    }
    write_centred({from.x, from.y + 20.f}, "0", numbers);
    write_centred({from.x + pixels, from.y + 20.f}, fmt::format("{:g} m", metres), numbers);
  }

  /// Draws the legend of the marks that are on the chart.
  void legend() {
    const float left = map_.min.x + 300.f;
    float x = left, y = map_.max.y + 53.f;
    const auto entry = [&](float width, std::string_view words, auto&& sample) {
      if (x > left && x + width + 7.f + canvas_.text_size(words, {.size = 14}).x > map_.max.x) {
        x = left;
        y += 24.f;
      }
      sample(vec2(x, y));
      write({x + width + 7.f, y + 4.5f}, words, {.size = 14});
      x += width + 7.f + canvas_.text_size(words, {.size = 14}).x + 26.f;
    };
    const auto sample_line = [&](const Stroke& stroke) {
      return [this, stroke](vec2 at) {
        const vec2 points[] = {at, at + vec2(34.f, 0.f)};
        canvas_.line(points, stroke);
      };
    };
    const auto sample_circle = [&](std::span<const double> dash, Ink colour) {
      return [this, dash, colour](vec2 at) {
        canvas_.circle(at + vec2(9.f, 0.f), 8.f, {.ink = colour, .width = 1.f, .dash = dash});
      };
    };
    const auto any = [&](auto&& test) { return std::ranges::any_of(chart_.npcs, test); };
    if (!chart_.beats.empty()) {
      entry(18.f, "waypoint", [&](vec2 at) {
        canvas_.disc(at + vec2(9.f, 0.f), waypoint_radius, paper_light);
        canvas_.circle(at + vec2(9.f, 0.f), waypoint_radius, {.ink = ink, .width = 1.2f});
        write_centred(at + vec2(9.f, 0.f), "n", {.size = 12, .italic = true});
      });
      entry(34.f, "beat", sample_line({.ink = ink, .width = 1.3f, .dash = dashes}));
    }
    if (any([](const ChartNpc& npc) { return !npc.trail.empty(); }))
      entry(34.f, "walked", sample_line({.ink = tints[0], .width = 2.2f}));
    if (any([](const ChartNpc& npc) { return npc.goal.has_value(); })) {
      entry(18.f, "arrival distance", sample_circle(dots, ink));
      if (any([](const ChartNpc& npc) { return npc.goal && !npc.target; }))
        entry(18.f, "slowing distance", sample_circle(short_dashes, middling));
    }
    if (any([](const ChartNpc& npc) { return npc.target.has_value(); }))
      entry(34.f, "target", sample_line({.ink = middling, .width = 1.2f, .dash = dots}));
    if (!chart_.route.empty()) entry(34.f, "route", sample_line({.ink = ink, .width = 2.f, .dash = dashes}));
    if (chart_.tiles) tiles_legend(*chart_.tiles, canvas_, entry);
    if (chart_.mesh) mesh_legend(*chart_.mesh, canvas_, entry);
    if (has_edge_)
      entry(34.f, "no ground", [&](vec2 at) { hatch({at - vec2(0.f, 8.f), at + vec2(34.f, 8.f)}); });
    if (!chart_.npcs.empty())
      entry(34.f, "character", [&](vec2 at) {
        shoe_print({.name = {}, .at = from_page(at + vec2(17.f, 0.f)), .radius = 0.f}, tints[0]);
      });
  }

  vec3 from_page(vec2 at) const {
    const vec2 off = (at - 0.5f * (map_.min + map_.max)) / scale_;
    return lift(centre_ + vec2(off.x, -off.y));
  }

  const Chart& chart_;
  Canvas& canvas_;
  vec2 size_;
  ChartBox map_;
  float scale_ = 1.f;  // pixels per metre
  vec2 centre_{0.f};   // of the map, metres
  draw::Labels labels_;
  bool crowded_;  // flags would hide the map
  std::vector<ChartBox> text_;
  bool has_edge_ = false;  // of the ground, on the map
};

}  // namespace

ChartBeat chart_beat(const Beat& beat) {
  ChartBeat chart;
  for (std::size_t i = 0; i < beat.size(); ++i) chart.waypoints.push_back(beat[i].position);
  if (beat.path() == BeatPath::curve) {
    chart.line.assign(beat.curve().points().begin(), beat.curve().points().end());
  } else if (beat.order() != BeatOrder::shuffled) {
    chart.line = chart.waypoints;
    if (beat.order() == BeatOrder::around && beat.size() > 2) chart.line.push_back(chart.waypoints.front());
  }
  return chart;
}

std::vector<ChartBox> paint(const Chart& chart, Canvas& canvas) { return Painter(chart, canvas).paint(); }

}  // namespace ambulon
