#pragma once
// Random values for properties.

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "choices.hpp"

namespace ambulon {

struct RapidChoices final : Choices {
  int whole(int min, int end) override { return *rc::gen::inRange(min, end); }
};

/// Any of ten thousand values from `min` to `max`.
inline float between(float min, float max) {
  return min + (max - min) * static_cast<float>(*rc::gen::inRange(0, 10'001)) * 1e-4f;
}

}  // namespace ambulon
