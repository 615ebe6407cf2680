#pragma once

#include "ambulon/errand/rest.hpp"

namespace ambulon {

/// Options of pacing.
struct PaceOptions {
  std::optional<float> heading = {};  ///< radians, in which it begins; without it, where it faces
  float gap = 0.1f;                   ///< metres it keeps from what is in the way, 0 to 100
  Range pause{};                      ///< seconds it stands before it turns round; 0 to 1e6
  bool flip = false;                  ///< turns round at once instead of by its turn rate: in side view
  std::uint32_t turns = 0;            ///< after which it is done; 0: goes on for ever
};

/// Goes straight on until something is in its way, the edge of the ground or somebody's body, and then
/// turns round and goes back. Ends as done after so many turns.
class Pace final : public Errand {
 public:
  explicit Pace(const PaceOptions& options) : options_(options) {}

  std::string_view name() const override { return "pace"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;
  std::string doing() const override;

 private:
  enum class Phase : std::uint8_t { beginning, walking, pausing, turning };
  struct Ahead {
    float metres;     // free
    NpcId whom = {};  // who is in the way; nobody for an edge
  };

  std::optional<Outcome> mistake() const;
  Ahead look_ahead(const View& see, float metres) const;
  Step walk(const View& see, float seconds);

  PaceOptions options_;
  Phase phase_ = Phase::beginning;
  vec2 along_{1.f, 0.f};
  vec2 turned_at_{0.f};
  std::uint32_t turns_ = 0;
  Rest rest_;
};

}  // namespace ambulon
