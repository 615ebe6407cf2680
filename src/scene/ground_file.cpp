#include "ambulon/scene/ground_file.hpp"

#include <filesystem>
#include <fstream>
#include <iterator>
#include <optional>

#include <fmt/format.h>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/checksum.hpp"
#include "scene/built_ground.hpp"
#include "scene/ground.hpp"

namespace ambulon {
namespace {

std::optional<std::vector<std::byte>> bytes_of(const std::string& file) {
  std::ifstream stream(file, std::ios::binary);
  if (!stream || std::filesystem::is_directory(file)) return std::nullopt;
  const std::string text{std::istreambuf_iterator<char>(stream), {}};
  const auto* first = reinterpret_cast<const std::byte*>(text.data());
  return std::vector<std::byte>(first, first + text.size());
}

std::uint64_t sum_of(const std::string& file) {
  const auto bytes = bytes_of(file);
  return bytes ? checksum(*bytes) : 0;
}

}  // namespace

Expected<std::string> save_ground(const MeshGround& ground, const std::string& source,
                                  const std::string& file) {
  const auto folder = std::filesystem::absolute(file).parent_path();
  const std::string from_there = std::filesystem::absolute(source).lexically_relative(folder).string();
  const auto bytes = ground.save(from_there, sum_of(source));
  if (!bytes) return problem(fmt::format("{}: {}", file, bytes.error().text));
  std::ofstream stream(file, std::ios::binary);
  stream.write(reinterpret_cast<const char*>(bytes->data()), static_cast<std::streamsize>(bytes->size()));
  stream.close();
  if (!stream) return problem(fmt::format("{}: cannot be written; is there such a folder?", file));
  return file;
}

Expected<std::unique_ptr<Ground>> read_ground(const std::string& file, const GroundFileOptions& options) {
  return read_ground_file(file, options.tiles, options.level).map([&](const SceneGround& ground) {
    return ground.make(options.jobs);
  });
}

Expected<std::shared_ptr<const BuiltGround>> read_built(const std::string& file) {
  auto bytes = bytes_of(file);
  if (!bytes) return problem(fmt::format("{}: cannot be read; is it there?", file));
  MeshGround::SavedFrom from;
  const auto ground = MeshGround::restore(*bytes, {}, &from);
  if (!ground) return problem(fmt::format("{}: {}", file, ground.error().text));
  auto built = std::make_shared<BuiltGround>();
  built->bytes = std::move(*bytes);
  built->of_level = (*ground)->of_level();
  built->min = (*ground)->min(), built->max = (*ground)->max();
  if (!from.source.empty())
    built->source = (std::filesystem::path(file).parent_path() / from.source).lexically_normal().string();
  const std::uint64_t now = built->source.empty() ? 0 : sum_of(built->source);
  built->outdated = now != 0 && now != from.source_sum;
  return built;
}

}  // namespace ambulon
