#include "scene/flow_fields.hpp"

#include <algorithm>

#include "ambulon/ground/tiles/tile_ground.hpp"

namespace ambulon {

Order FlowFields::flow(Npc me, std::span<const vec3> goals, const FlowOptions& options) {
  if (ground_ == nullptr) return me.thread();  // the outcome says what is missing
  const Body body = me.body();
  // Fields that no order uses any more are discarded.
  for (Field& each : fields_)
    std::erase_if(each.used_by, [](const Order& order) { return !order.running(); });
  std::erase_if(fields_, [](const Field& each) { return each.used_by.empty(); });
  auto field = std::ranges::find_if(fields_, [&](const Field& each) {
    return each.radius == body.radius && std::ranges::equal(each.goals, goals);
  });
  if (field == fields_.end())
    field = fields_.insert(
        fields_.end(),
        {{goals.begin(), goals.end()}, body.radius, std::make_unique<FlowField>(*ground_, goals, body), {}});
  return field->used_by.emplace_back(me.flow(*field->field, options));
}

}  // namespace ambulon
