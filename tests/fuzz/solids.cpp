// Any bytes as overlapping solids: their ground equals that of their union.

#include <cstdio>

#include "numbers.hpp"
#include "solid_oracle.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  ambulon::ByteChoices choices(data, size);
  const std::string mistake = ambulon::mistake_on_solids(choices);
  if (!mistake.empty()) std::fprintf(stderr, "%s\n", mistake.c_str());
  require(mistake.empty());
  return 0;
}
