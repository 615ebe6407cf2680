// The layers of a mesh ground, one for each body size: built at the first request, updated with barriers.

#include <algorithm>
#include <cmath>

#include "ambulon/base/problem.hpp"

#include "base/circle.hpp"
#include "ground/mesh/mesh_ground_impl.hpp"

namespace ambulon {
namespace {

constexpr float width_step = 0.005f;  // metres: resolution of widths,
constexpr float height_step = 0.01f;  // and heights

}  // namespace

std::string_view name(MeshPhase phase) {
  switch (phase) {
    case MeshPhase::surveying:
      return "surveying";
    case MeshPhase::dividing:
      return "dividing";
    case MeshPhase::joining:
      return "joining";
    case MeshPhase::crossing:
      break;
  }
  return "crossing";
}

/// Rounds a body size: never narrower or lower, never with a larger step.
BodySize MeshGroundImpl::size_of(const Body& body) const {
  BodySize size{
      .radius = std::fmin(std::fmax(std::ceil(body.radius / width_step - 1e-3f) * width_step, 0.f), 50.f)};
  if (!level_) return size;
  size.height = std::fmin(std::fmax(std::ceil(body.height / height_step - 1e-3f) * height_step, 0.f), 100.f);
  const auto no_more = [](float metres, float max) {
    return std::fmin(std::fmax(std::floor(metres / height_step + 1e-3f) * height_step, 0.f), max);
  };
  size.step_up = no_more(body.step_up, 100.f);
  size.jump_up = no_more(body.jump_up, 100.f);
  size.drop_down = no_more(body.drop_down, 1000.f);
  size.leap = no_more(body.leap, 100.f);
  return size;
}

/// Returns the number of the mesh for a body; builds it if there is none.
std::uint16_t MeshGroundImpl::number_for(const Body& body) const {
  const BodySize size = size_of(body);
  return layers_.number_for(size, [&] { return make_layer(size, {}); });
}

std::vector<Body> MeshGroundImpl::bodies() const {
  std::vector<Body> bodies;
  for (std::uint16_t number = 0; number < layers_.count(); ++number) {
    const BodySize& size = layers_[number];
    Body& body = bodies.emplace_back(Body{.radius = size.radius});
    if (!level_) continue;
    body.height = size.height, body.step_up = size.step_up;
    body.jump_up = size.jump_up, body.drop_down = size.drop_down, body.leap = size.leap;
  }
  return bodies;
}

Expected<const ConvexMesh*> MeshGroundImpl::prepare(const Body& body, const MeshProgress& progress) const {
  const BodySize size = size_of(body);
  std::unique_ptr<Layer> made;
  if (!layers_.find(size)) {
    made = make_layer(size, progress);
    if (!made) return problem("making the mesh was given up, as asked");
  }
  return &mesh_of(layers_.number_for(size, [&] { return std::move(made); }));
}

/// Builds a layer of everything that the survey finds, with or without barriers.
std::unique_ptr<MeshLayer> MeshGroundImpl::make_whole_layer(const BodySize& size, bool with_barriers,
                                                            const MeshProgress& progress) const {
  auto layer = builder_.whole(size, with_barriers, progress);
  if (layer && !find_crossings_of(*layer, size, with_barriers, progress)) return nullptr;
  return layer;
}

std::unique_ptr<MeshGroundImpl::Layer> MeshGroundImpl::make_layer(const BodySize& size,
                                                                  const MeshProgress& progress) const {
  const bool keep_all = !level_ || level_->reach_from().empty();
  auto layer = make_whole_layer(size, keep_all, progress);
  return keep_all || !layer ? std::move(layer) : reached_part(*layer, size);
}

void MeshGroundImpl::barrier_changed(const Barrier* was, const Barrier* now) {
  std::vector<const Barrier*> changed;
  if (was != nullptr) changed.push_back(was);
  if (now != nullptr) changed.push_back(now);
  for (std::uint16_t number = 0; number < layers_.count(); ++number) {
    const BodySize& size = layers_[number];
    Layer& layer = *layers_[number].made;
    builder_.barriers_changed(layer, size, changed);
    find_crossings_near(layer, size, changed);
  }
  for (const Barrier* barrier : changed) {
    dearest_ = std::max(dearest_, barrier->cost());
    edits_.add({barrier->min(), barrier->max()}, barrier == was);
  }
}

bool MeshGroundImpl::changed_along(std::span<const vec3> bends, const Body& body, std::uint64_t since) const {
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

bool MeshGroundImpl::may_shorten(vec3 from, vec3 to, float left, const Body& body,
                                 std::uint64_t since) const {
  const auto edits = edits_.since(since);
  if (!edits) return true;
  const float margin = body.radius + 0.002f;  // for rounding
  return std::ranges::any_of(*edits, [&](const auto& edit) {
    return edit.opens && metres_by_box(flat(from), flat(to), edit.box.low - margin, edit.box.high + margin) <
                             dearest_ * left;
  });
}

}  // namespace ambulon
