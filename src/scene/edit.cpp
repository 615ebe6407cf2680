#include "scene/edit.hpp"

#include <algorithm>
#include <charconv>

#include "scene/read_toml.hpp"

namespace ambulon {
namespace {

using scene::Mistake;

/// Returns the offset of a line and a column (in characters) in UTF-8 text.
std::size_t offset_of(std::string_view text, toml::source_position place) {
  std::size_t at = 0;
  for (toml::source_index line = 1; line < place.line; ++line)
    at = std::min(text.size(), text.find('\n', at)) + 1;
  for (toml::source_index column = 1; column < place.column && at < text.size(); ++column) {
    ++at;
    while (at < text.size() && (static_cast<unsigned char>(text[at]) & 0xc0U) == 0x80U) ++at;
  }
  return std::min(at, text.size());
}

/// Returns the entry of a list by its index, or of a list of tables by `name`.
const toml::node* entry_of(const toml::array& list, const std::string& key) {
  std::size_t number = 0;
  const auto [end, error] = std::from_chars(key.data(), key.data() + key.size(), number);
  if (error == std::errc() && end == key.data() + key.size())
    return number < list.size() ? list.get(number) : nullptr;
  for (const toml::node& each : list)
    if (const toml::table* table = each.as_table();
        table != nullptr && (*table)["name"].value<std::string>() == key)
      return &each;
  // The members of a `count` are changed together.
  for (const toml::node& each : list)
    if (const toml::table* table = each.as_table(); table != nullptr && table->contains("count"))
      if (const auto name = (*table)["name"].value<std::string>(); name && key.starts_with(*name + ' '))
        return &each;
  return nullptr;
}

/// Returns a key as TOML writes it.
std::string spelled(const std::string& key) {
  const bool bare = !key.empty() && std::ranges::all_of(key, [](char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '-';
  });
  if (bare) return key;
  std::string quoted = "\"";
  for (const char c : key) {
    if (c == '"' || c == '\\') quoted += '\\';
    quoted += c;
  }
  return quoted + '"';
}

class Edit {
 public:
  Edit(std::string_view text, const toml::table& top, std::span<const std::string> path)
      : text_(text), top_(top), path_(path) {}

  std::string with(std::string_view value) {
    const toml::node* at = &top_;
    for (std::size_t i = 0; i < path_.size(); ++i) {
      at = meant(at);
      const toml::table* table = at->as_table();
      const toml::array* list = at->as_array();
      if (table == nullptr && list == nullptr) wrong(i, "has nothing inside of it");
      const toml::node* next = table != nullptr ? table->get(path_[i]) : entry_of(*list, path_[i]);
      if (next == nullptr && list != nullptr) wrong(i, "has no such entry");
      if (next == nullptr) return added(*table, i, value);
      at = next;
    }
    if (value.starts_with('[')) at = point_meant(at);
    return replaced(at->source(), value);
  }

 private:
  [[noreturn]] void wrong(std::size_t count, std::string_view what) const {
    throw Mistake(fmt::format("\"{}\" {}; it should lead to \"{}\"", fmt::join(path_.first(count), "."), what,
                              fmt::join(path_, ".")));
  }

  /// Returns the gait that a name refers to.
  const toml::node* meant(const toml::node* node) const {
    if (const auto name = node->value<std::string>(); name && node->is_string())
      if (const toml::node* gait = top_["gait"][*name].node()) return gait;
    return node;
  }

  /// Returns the coordinates of a waypoint or of the place that it names.
  const toml::node* point_meant(const toml::node* node) const {
    if (const toml::table* waypoint = node->as_table(); waypoint != nullptr && waypoint->contains("at"))
      node = waypoint->get("at");
    if (const auto name = node->value<std::string>(); name && node->is_string())
      if (const toml::node* place = top_["place"][*name].node()) return place;
    return node;
  }

  std::string replaced(const toml::source_region& region, std::string_view value) const {
    const std::size_t begin = offset_of(text_, region.begin), end = offset_of(text_, region.end);
    return std::string(text_.substr(0, begin)) + std::string(value) + std::string(text_.substr(end));
  }

  /// Returns the text with the keys from number `i` on, which do not exist yet.
  std::string added(const toml::table& table, std::size_t i, std::string_view value) const {
    std::string entry(value);
    for (std::size_t k = path_.size(); --k > i;)
      entry = fmt::format("{{ {} = {} }}", spelled(path_[k]), entry);
    entry = fmt::format("{} = {}", spelled(path_[i]), entry);
    std::string text(text_);
    if (table.is_inline()) {
      const std::size_t brace = offset_of(text_, table.source().end) - 1;
      std::size_t behind = brace;
      while (behind > 0 && std::string_view(" \t\r\n").find(text[behind - 1]) != std::string_view::npos)
        --behind;
      return text.insert(behind, (table.empty() ? " " : ", ") + entry + (behind == brace ? " " : ""));
    }
    if (table.source().begin.line == 0) wrong(i, "is not written out in the file");
    const bool top = &table == &top_;
    const std::size_t line = top ? 0 : text.find('\n', offset_of(text_, table.source().end));
    if (line == std::string::npos) return text + "\n" + entry + "\n";
    return text.insert(top ? 0 : line + 1, entry + "\n");
  }

  std::string_view text_;
  const toml::table& top_;
  std::span<const std::string> path_;
};

}  // namespace

Expected<std::string> with_value(std::string_view text, std::span<const std::string> path,
                                 std::string_view value) {
  const std::string file = "the scene";
  if (path.empty()) return problem("there is no path to what should be changed");
  return scene::read_toml<std::string>(text, file, [&](const toml::table& top) {
    std::string changed = Edit(text, top, path).with(value);
    (void)toml::parse(changed, file);  // still TOML?
    return changed;
  });
}

}  // namespace ambulon
