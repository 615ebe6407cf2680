#include "scene/tile_file.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cstring>
#include <png.h>
#include <sstream>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "scene/text_of_file.hpp"

namespace ambulon {
namespace {

constexpr std::size_t max_cells = 16'384;  // per row, as for maps

std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> lines;
  std::istringstream stream(text);
  for (std::string line; std::getline(stream, line);) {
    if (!line.empty() && line.back() == '\r') line.pop_back();
    lines.push_back(std::move(line));
  }
  return lines;
}

Expected<TileMap> map_of(std::span<const std::uint8_t> cells, std::size_t width, std::size_t height,
                         const TileLegend& legend, TileMapOptions options, const std::string& where) {
  options.width = static_cast<int>(width);
  options.height = static_cast<int>(height);
  options.terrains = legend.terrains;
  auto map = TileMap::make(cells, options);
  if (!map) return problem(fmt::format("{}: {}", where, map.error().text));
  return map;
}

/// Returns the number after `word` in a header line; nothing for another line.
std::optional<std::size_t> header_number(const std::string& line, std::string_view word) {
  if (!line.starts_with(word) || line.size() <= word.size() + 1 || line[word.size()] != ' ')
    return std::nullopt;
  std::size_t number = 0;
  const char *first = line.data() + word.size() + 1, *last = line.data() + line.size();
  const auto [end, error] = std::from_chars(first, last, number);
  return error == std::errc() && end == last ? std::optional(number) : std::nullopt;
}

std::string shown(char sign) {
  const auto code = static_cast<unsigned char>(sign);
  return code >= 0x20 && code < 0x7f ? fmt::format("'{}'", sign) : fmt::format("of code {}", code);
}

/// Returns the terrain of each character; -1 if the legend has none.
std::array<int, 256> by_character(const TileLegend& legend) {
  std::array<int, 256> terrains{};
  terrains.fill(-1);
  for (const TileLegend::Sign& each : legend.signs)
    if (each.sign.size() == 1) terrains[static_cast<unsigned char>(each.sign[0])] = each.terrain;
  return terrains;
}

struct Colour {
  std::uint32_t rgb;
  std::uint8_t terrain;
};
std::vector<Colour> colours_of(const TileLegend& legend) {
  std::vector<Colour> colours;
  for (const TileLegend::Sign& each : legend.signs) {
    std::uint32_t rgb = 0;
    const char *first = each.sign.data() + 1, *last = each.sign.data() + each.sign.size();
    if (each.sign.size() == 7 && each.sign[0] == '#' && std::from_chars(first, last, rgb, 16).ptr == last)
      colours.push_back({rgb, each.terrain});
  }
  return colours;
}

/// Reads a PNG as rows of red, green, blue and alpha.
struct Pixels {
  std::vector<std::uint8_t> rgba;
  std::size_t width = 0, height = 0;
};
Expected<Pixels> pixels_of(const std::string& bytes, const std::string& where) {
  png_image image{};
  image.version = PNG_IMAGE_VERSION;
  const auto broken = [&] {
    const std::string why = image.message;
    png_image_free(&image);
    return problem(fmt::format("{}: no picture in PNG form: {}", where, why));
  };
  if (png_image_begin_read_from_memory(&image, bytes.data(), bytes.size()) == 0) return broken();
  if (image.width > max_cells || image.height > max_cells) {
    const auto width = image.width, height = image.height;
    png_image_free(&image);
    return problem(fmt::format("{}: a picture of {} by {} pixels; a map has up to {} to a side", where, width,
                               height, max_cells));
  }
  image.format = PNG_FORMAT_RGBA;
  Pixels pixels{{}, image.width, image.height};
  pixels.rgba.resize(PNG_IMAGE_SIZE(image));
  if (png_image_finish_read(&image, nullptr, pixels.rgba.data(), 0, nullptr) == 0) return broken();
  return pixels;
}

}  // namespace

TileLegend octile_legend() {
  return {.terrains = {{.name = "ground", .cost = 1},
                       {.name = "swamp", .cost = 1},
                       {.name = "out", .cost = 0},
                       {.name = "trees", .cost = 0},
                       {.name = "water", .cost = 0}},
          .signs = {{".", 0}, {"G", 0}, {"S", 1}, {"@", 2}, {"O", 2}, {"T", 3}, {"W", 4}}};
}

Expected<TileMap> tiles_of_rows(std::span<const std::string> rows, const TileLegend& legend,
                                const TileMapOptions& options, const std::string& where) {
  if (rows.empty() || rows.front().empty()) return problem(fmt::format("{}: a map without cells", where));
  const std::size_t width = rows.front().size(), height = rows.size();
  const std::array<int, 256> terrains = by_character(legend);
  std::vector<std::uint8_t> cells;
  if (width <= max_cells && height <= max_cells) cells.resize(width * height);
  for (std::size_t row = 0; row < height && !cells.empty(); ++row) {
    if (rows[row].size() != width)
      return problem(fmt::format("{}: row {} has {} characters, the first has {}; all rows must be as long",
                                 where, row + 1, rows[row].size(), width));
    for (std::size_t column = 0; column < width; ++column) {
      const char sign = rows[row][column];
      const int terrain = terrains[static_cast<unsigned char>(sign)];
      if (terrain < 0) {
        std::vector<std::string_view> known;
        for (const TileLegend::Sign& each : legend.signs) known.push_back(each.sign);
        return problem(
            fmt::format("{}: row {}, column {}: the character {} is not in the legend, which has {}", where,
                        row + 1, column + 1, shown(sign), fmt::join(known, " ")));
      }
      cells[(height - 1 - row) * width + column] = static_cast<std::uint8_t>(terrain);
    }
  }
  return map_of(cells, width, height, legend, options, where);
}

Expected<TileMap> tiles_of_octile(const std::string& text, const TileLegend& legend,
                                  const TileMapOptions& options, const std::string& where) {
  const std::vector<std::string> lines = lines_of(text);
  const auto line = [&](std::size_t number) { return number <= lines.size() ? lines[number - 1] : ""; };
  const auto wrong = [&](std::size_t number, std::string_view expected) {
    return problem(number > lines.size() ? fmt::format("{}: ends after {} lines; line {} must be {}", where,
                                                       lines.size(), number, expected)
                                         : fmt::format("{}:{}: \"{:.40}\"; it must be {}", where, number,
                                                       line(number), expected));
  };
  if (line(1) != "type octile") return wrong(1, "\"type octile\"");
  const auto height = header_number(line(2), "height");
  if (!height) return wrong(2, "\"height\" and a whole number");
  const auto width = header_number(line(3), "width");
  if (!width) return wrong(3, "\"width\" and a whole number");
  if (line(4) != "map") return wrong(4, "\"map\"");
  if (*height == 0 || lines.size() < 4 + *height)
    return problem(fmt::format("{}: {} rows follow the line \"map\"; the height says {}", where,
                               lines.size() - 4, *height));
  const auto rows = std::span(lines).subspan(4, *height);
  if (rows.front().size() != *width)
    return problem(fmt::format("{}:5: the row has {} characters; the width says {}", where,
                               rows.front().size(), *width));
  return tiles_of_rows(rows, legend, options, where);
}

Expected<TileMap> tiles_of_png(const std::string& bytes, const TileLegend& legend,
                               const TileMapOptions& options, const std::string& where) {
  auto picture = pixels_of(bytes, where);
  if (!picture) return tl::unexpected(picture.error());
  const std::vector<Colour> colours = colours_of(legend);
  std::vector<std::uint8_t> cells(picture->width * picture->height);
  for (std::size_t row = 0; row < picture->height; ++row)
    for (std::size_t column = 0; column < picture->width; ++column) {
      const std::uint8_t* pixel = &picture->rgba[4 * (row * picture->width + column)];
      std::uint8_t& cell = cells[(picture->height - 1 - row) * picture->width + column];
      if (colours.empty()) {  // by luminance
        const int brightness = (299 * pixel[0] + 587 * pixel[1] + 114 * pixel[2]) / 1000;
        cell = pixel[3] >= 128 && brightness >= legend.threshold ? 0 : 1;
        continue;
      }
      const std::uint32_t rgb = std::uint32_t{pixel[0]} << 16U | std::uint32_t{pixel[1]} << 8U | pixel[2];
      const auto found = std::ranges::find(colours, rgb, &Colour::rgb);
      if (found == colours.end())
        return problem(
            fmt::format("{}: the pixel {} from the left and {} from the top is #{:06x}, which is not "
                        "in the legend",
                        where, column + 1, row + 1, rgb));
      cell = found->terrain;
    }
  return map_of(cells, picture->width, picture->height, legend, options, where);
}

Expected<TileMap> read_tiles(const std::string& file, const TileLegend* legend,
                             const TileMapOptions& options) {
  const auto text = text_of_file(file);
  if (!text) return tl::unexpected(text.error());
  if (file.ends_with(".map"))
    return tiles_of_octile(*text, legend != nullptr ? *legend : octile_legend(), options, file);
  const TileLegend plain;
  const TileLegend& used = legend != nullptr ? *legend : plain;
  if (file.ends_with(".png")) return tiles_of_png(*text, used, options, file);
  return tiles_of_rows(lines_of(*text), used, options, file);
}

Expected<TileMap> read_tiles(const std::string& file, const TileMapOptions& options) {
  return read_tiles(file, nullptr, options);
}

}  // namespace ambulon
