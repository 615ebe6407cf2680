#include "ambulon/errand/errand.hpp"

#include <cmath>

#include "base/circle.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

// Metres between two NPCs in contact that avoid each other, plus a fraction of their radii.
constexpr float elbow_room = 0.1f, elbow_part = 0.1f;
constexpr float thinnest_wall = 0.01f;  // metres

}  // namespace

Spot View::spot_at(vec3 position) const {
  return ground.snap(position, std::numeric_limits<float>::infinity(), body).spot;
}

float View::metres_to(const Other& other) const {
  return metres_apart(other.position - me.position, body.height, other.height);
}

bool View::level_with(const Other& other) const {
  return share_height(other.position.z - me.position.z, body.height, other.height);
}

bool View::keeps_off(const Other& other) const { return avoids && !body.passes.meet(other.tags); }

float View::touching(const Other& other) const {
  const float radii = body.radius + other.radius;
  return keeps_off(other) ? radii + elbow_room + elbow_part * radii : radii;
}

bool View::reaches(const Other& other, float metres) const {
  if (!level_with(other)) return false;
  const float reach = keeps_off(other) ? std::fmax(metres, touching(other)) : metres;
  if (!came_by(was, flat(me.position), flat(other.position), reach)) return false;
  // Bodies keep their radius from walls, so two bodies on both sides of a wall never touch.
  const vec2 off = flat(other.position - me.position);
  const float away = glm::length(off), between = away - body.radius - other.radius - thinnest_wall;
  return between <= 0.f || ground.straight(spot(), off).metres >= between;
}

std::span<const Neighbour> View::near(vec3 from, float radius, Tags tags) const {
  return others.near(from, {radius, body.height, who, tags, body.passes});
}

void View::tell(Note note) const {
  note.who = who;
  note.time = time;
  notes.take(note);
}

void ErrandReturn::operator()(Errand* errand) const {
  const std::size_t size = errand->size_;
  errand->~Errand();
  detail::unpooled(errand, size, memory);
}

}  // namespace ambulon
