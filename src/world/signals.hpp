#pragma once

#include <algorithm>
#include <deque>
#include <memory_resource>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// The signals of a world. A signal that is given is heard in the whole next tick.
class Signals {
 public:
  explicit Signals(std::pmr::memory_resource* memory) : names_(memory), given_(memory), heard_(memory) {}

  /// Returns the signal with that name; creates it if there is none.
  Signal named(std::string_view name) {
    const auto known = std::ranges::find(names_, name);
    const auto number = static_cast<std::uint32_t>(known - names_.begin());
    if (known == names_.end()) names_.emplace_back(name);
    return Signal{number};
  }
  /// Returns the name of a signal; it is valid as long as the world.
  std::string_view name(Signal signal) const { return names_[static_cast<std::size_t>(signal)]; }
  void give(Signal signal) { given_.push_back(signal); }
  void begin_tick() {
    std::swap(heard_, given_);
    given_.clear();
  }
  /// Returns the signals that are heard in the present tick.
  std::span<const Signal> heard() const { return heard_; }

 private:
  std::pmr::deque<std::pmr::string> names_;  // a deque, so that addresses stay valid
  std::pmr::vector<Signal> given_, heard_;
};

}  // namespace ambulon
