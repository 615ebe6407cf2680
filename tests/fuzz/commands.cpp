// Any text as commands of pages, line by line, while the scene is played: each gets JSON or a problem, and
// the scene stays readable.

#include <algorithm>
#include <filesystem>
#include <string_view>
#include <unistd.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "live/live_scene.hpp"
#include "numbers.hpp"

using namespace ambulon;

namespace {

std::string file_of_scene() {
  const std::string folder =
      fmt::format("{}/ambulon-fuzz-{}", std::filesystem::temp_directory_path().string(), getpid());
  std::filesystem::create_directories(folder);
  return folder + "/yard.toml";
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const std::string file = file_of_scene();
  std::filesystem::copy_file(AMBULON_SOURCE_DIR "/tests/live/yard.toml", file,
                             std::filesystem::copy_options::overwrite_existing);
  auto live = LiveScene::open(file);
  require(live.has_value());
  PageState page;
  std::string_view text(reinterpret_cast<const char*>(data), size);
  for (int commands = 0; commands < 60 && !text.empty(); ++commands) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    const auto answer = (*live)->command(text.substr(0, end), &page);
    text.remove_prefix(std::min(end + 1, text.size()));
    if (answer)
      require(nlohmann::json::accept(*answer));
    else
      require(!answer.error().text.empty());
    (*live)->pass(0.1);
    for (const std::string& news : (*live)->news(page, commands % 3 == 0))
      require(nlohmann::json::accept(news));
    require(read_scene_text((*live)->text(), file).has_value());
    require((*live)->frame().size() >= 32);
  }
  return 0;
}
