#pragma once

#include <memory>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/world/npc.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The flow fields of a play. NPCs with the same goals and the same radius share one.
class FlowFields {
 public:
  /// `ground`: null if it is not of tiles; it must outlive the fields.
  explicit FlowFields(const TileGround* ground) : ground_(ground) {}

  /// Gives an order along the field to these goals. Refused on ground that is not of tiles.
  Order flow(Npc me, std::span<const vec3> goals, const FlowOptions& options);
  /// Adapts all to changes of the ground.
  void update() {
    for (const Field& each : fields_) each.field->update();
  }

 private:
  struct Field {
    std::vector<vec3> goals;
    float radius;
    std::unique_ptr<FlowField> field;
    std::vector<Order> used_by;
  };
  const TileGround* ground_;
  std::vector<Field> fields_;
};

}  // namespace ambulon
