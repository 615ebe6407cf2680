#pragma once

namespace ambulon {

/// Detects when a rising value begins to fall, or the reverse. Changes below a threshold are ignored.
class Turns {
 public:
  /// Returns true if the value has reversed.
  bool see(float value, float threshold) {
    const int before = trend_;
    if (value > extreme_ + (trend_ < 0 ? threshold : 0.f))
      trend_ = 1, extreme_ = value;
    else if (value < extreme_ - (trend_ > 0 ? threshold : 0.f))
      trend_ = -1, extreme_ = value;
    return trend_ != before && before != 0;
  }

 private:
  float extreme_ = 0.f;  // the maximum or minimum since the last reversal
  int trend_ = 0;        // 1: rising, -1: falling
};

}  // namespace ambulon
