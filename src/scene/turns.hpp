#pragma once

namespace ambulon {

/// Notices when a value that rose begins to fall, or the other way round; changes smaller than a
/// threshold are not seen.
class Turns {
 public:
  /// True when the value has turned.
  bool see(float value, float threshold) {
    const int before = trend_;
    if (value > extreme_ + (trend_ < 0 ? threshold : 0.f))
      trend_ = 1, extreme_ = value;
    else if (value < extreme_ - (trend_ > 0 ? threshold : 0.f))
      trend_ = -1, extreme_ = value;
    return trend_ != before && before != 0;
  }

 private:
  float extreme_ = 0.f;  // the highest or the lowest since the last turn
  int trend_ = 0;        // 1: it rises, -1: it falls
};

}  // namespace ambulon
