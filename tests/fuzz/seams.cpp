// Any bytes as a floor in pieces that do not fit together: the ground is that of the whole floor.

#include <cstdio>

#include "numbers.hpp"
#include "seam_oracle.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  ambulon::ByteChoices choices(data, size);
  const std::string mistake = ambulon::mistake_on_seams(choices);
  if (!mistake.empty()) std::fprintf(stderr, "%s\n", mistake.c_str());
  require(mistake.empty());
  return 0;
}
