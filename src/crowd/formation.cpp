#include "ambulon/crowd/formation.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "ambulon/base/angle.hpp"

#include "base/geometry.hpp"

namespace ambulon {
namespace {

/// Returns place `i` of `count`, before the places are centred.
vec2 place(Formation formation, std::size_t i, std::size_t count, float spacing) {
  const auto number = static_cast<float>(i), all = static_cast<float>(count);
  switch (formation) {
    case Formation::as_they_are:
      break;
    case Formation::line:
      return {0.f, -spacing * number};
    case Formation::column:
      return {-spacing * number, 0.f};
    case Formation::wedge: {
      // Alternately left and right; each row at 45 degrees further back.
      const float back = std::ceil(0.5f * number) * spacing * std::sqrt(0.5f);
      return {-back, i % 2 == 0 ? -back : back};
    }
    case Formation::ring: {
      if (count < 2) break;
      const float radius = 0.5f * spacing / unit(pi / all).y;
      return radius * unit(2.f * pi * number / all);
    }
    case Formation::block: {
      const auto files = static_cast<std::size_t>(std::ceil(std::sqrt(all)));
      return {-spacing * static_cast<float>(i / files), -spacing * static_cast<float>(i % files)};
    }
  }
  return vec2(0.f);
}

}  // namespace

std::vector<vec2> places_in(Formation formation, std::size_t count, float spacing) {
  std::vector<vec2> places;
  if (formation == Formation::as_they_are) return places;
  vec2 middle(0.f);
  for (std::size_t i = 0; i < count; ++i) {
    places.push_back(place(formation, i, count, spacing));
    middle += places.back() / static_cast<float>(count);
  }
  for (vec2& each : places) each -= middle;
  return places;
}

std::vector<std::size_t> assign(std::span<const vec2> members, std::span<const vec2> places) {
  // Assignment problem: the shortest augmenting path for each member in turn, with dual prices on the places
  // (the Hungarian algorithm).
  constexpr double never = std::numeric_limits<double>::infinity();
  const std::size_t count = members.size(), nobody = count;
  std::vector<std::size_t> holder(count, nobody), came_from(count);
  std::vector<double> price(count, 0), gain(count, 0), reach(count);
  std::vector<char> seen(count);
  const auto cost = [&](std::size_t member, std::size_t at) {
    return static_cast<double>(glm::distance(members[member], places[at])) - gain[member] - price[at];
  };
  for (std::size_t fresh = 0; fresh < count; ++fresh) {
    std::ranges::fill(reach, never);
    std::ranges::fill(seen, 0);
    std::size_t member = fresh, from = nobody,
                end = nobody;  // `from`: the place that this member would leave
    double so_far = 0;
    while (end == nobody) {
      std::size_t nearest = nobody;
      for (std::size_t at = 0; at < count; ++at) {
        if (seen[at] != 0) continue;
        if (const double through = so_far + cost(member, at); through < reach[at]) {
          reach[at] = through;
          came_from[at] = from;
        }
        if (nearest == nobody || reach[at] < reach[nearest]) nearest = at;
      }
      so_far = reach[nearest];
      seen[nearest] = 1;
      from = nearest;
      member = holder[nearest];
      if (member == nobody) end = nearest;
    }
    // Update of the dual prices of all places that the search reached.
    gain[fresh] += so_far;
    for (std::size_t at = 0; at < count; ++at)
      if (seen[at] != 0 && at != end) {
        price[at] += reach[at] - so_far;
        gain[holder[at]] += so_far - reach[at];
      }
    for (std::size_t at = end; at != nobody;) {
      const std::size_t before = came_from[at];
      holder[at] = before == nobody ? fresh : holder[before];
      at = before;
    }
  }
  std::vector<std::size_t> place_of(count);
  for (std::size_t at = 0; at < count; ++at) place_of[holder[at]] = at;
  return place_of;
}

}  // namespace ambulon
