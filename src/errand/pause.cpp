#include "errand/pause.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/allowed.hpp"

namespace ambulon {

Step Pause::step(const View&, float seconds) {
  if (const auto why = refusal({{"the seconds of a pause", seconds_, allowed::durations}}))
    return ended(*why);
  if (auto rest = rest_.go_on(seconds)) return {.intent = *rest};
  return ended(Ending::done);
}

Progress Pause::progress(const View&) const {
  return {.fraction = seconds_ > 0.f ? 1.f - rest_.left() / seconds_ : 1.f};
}

std::string Pause::doing() const { return fmt::format("pausing, {:.1f} s left", rest_.left()); }

Step WaitFor::step(const View& see, float) {
  if (std::ranges::find(see.heard, signal_) != see.heard.end()) return ended(Ending::done);
  return {};
}

std::string WaitFor::doing() const { return fmt::format("waiting for \"{}\"", word_); }

}  // namespace ambulon
