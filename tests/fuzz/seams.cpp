// Any bytes as a floor in misaligned pieces: its ground equals that of the whole floor.

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
