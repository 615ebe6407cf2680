#include "scene/reader.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

#include "base/geometry.hpp"

namespace ambulon::scene {
namespace {

/// Returns the number of edits between two words: insertions, deletions, substitutions, transpositions.
std::size_t slips(std::string_view a, std::string_view b) {
  std::vector<std::vector<std::size_t>> cost(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
  for (std::size_t i = 0; i <= a.size(); ++i) cost[i][0] = i;
  std::iota(cost[0].begin(), cost[0].end(), std::size_t{0});
  for (std::size_t i = 1; i <= a.size(); ++i)
    for (std::size_t j = 1; j <= b.size(); ++j) {
      cost[i][j] = std::min(
          {cost[i - 1][j] + 1, cost[i][j - 1] + 1, cost[i - 1][j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1)});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
        cost[i][j] = std::min(cost[i][j], cost[i - 2][j - 2] + 1);
    }
  return cost[a.size()][b.size()];
}

std::string quoted(std::string_view word) { return fmt::format("\"{}\"", word); }

std::vector<std::string_view> split(std::string_view list) {
  std::vector<std::string_view> words;
  while (!list.empty()) {
    const auto bar = std::min(list.find('|'), list.size());
    words.push_back(list.substr(0, bar));
    list.remove_prefix(std::min(bar + 1, list.size()));
  }
  return words;
}

std::vector<std::string_view> names(const Table& table) {
  std::vector<std::string_view> all;
  for (const std::span<const Key> keys : {table.keys, table.common})
    for (const Key& key : keys) all.push_back(key.name);
  return all;
}

std::string kind_of(const toml::node& node) {
  if (node.is_string()) return "text";
  if (node.is_number()) return "a number";
  if (node.is_boolean()) return "true or false";
  if (node.is_array()) return "a list";
  if (node.is_table()) return "a table";
  return "a date or time";
}

}  // namespace

void mistake(const std::string& file, const toml::node& node, const std::string& text) {
  const auto place = node.source().begin;
  if (place.line == 0) throw Mistake(fmt::format("{}: {}", file, text));  // it is in no file
  throw Mistake(fmt::format("{}:{}:{}: {}", file, place.line, place.column, text));
}

std::string did_you_mean(std::string_view word, std::span<const std::string_view> known) {
  const auto nearest =
      std::ranges::min_element(known, {}, [&](std::string_view other) { return slips(word, other); });
  if (nearest == known.end() || slips(word, *nearest) > std::max<std::size_t>(2, word.size() / 2)) return "";
  return fmt::format(" (did you mean {}?)", quoted(*nearest));
}

Reader::Reader(const std::string& file, const toml::table& toml, const Table& table)
    : file_(file), toml_(toml), table_(table) {
  for (const auto& [name, value] : toml) {
    if (find_key(table, name.str()) != nullptr) continue;
    // The position of the value is after the key, so that of the key is used.
    const auto place = name.source().begin;
    const auto known = names(table);
    std::string hint = did_you_mean(name.str(), known);
    if (hint.empty()) hint = fmt::format("; the keys of {} are {}", table.name, fmt::join(known, ", "));
    throw Mistake(fmt::format("{}:{}:{}: unknown key {} in {}{}", file, place.line, place.column,
                              quoted(name.str()), table.name, hint));
  }
  for (const std::span<const Key> keys : {table.keys, table.common})
    for (const Key& key : keys)
      if (key.required && !has(key.name))
        mistake(file, toml, fmt::format("{} lacks the key {}: {}", table.name, quoted(key.name), key.doc));
}

const toml::node* Reader::find(std::string_view key) const { return toml_.get(key); }

const Key& Reader::key(std::string_view name) const {
  const Key* key = find_key(table_, name);
  if (key == nullptr)
    throw std::logic_error(fmt::format("{} is read but not described in {}", name, table_.name));
  return *key;
}

void Reader::wrong(std::string_view key, const std::string& text) const {
  mistake(file_, node(key), fmt::format("{} {}", key, text));
}

double finite_number(const std::string& file, const toml::node& node, std::string_view what) {
  const auto value = node.value<double>();
  if (!value || !node.is_number())
    mistake(file, node, fmt::format("{} must be a number, not {}", what, kind_of(node)));
  if (!std::isfinite(*value))
    mistake(file, node, fmt::format("{} must be a finite number, not {}", what, *value));
  return *value;
}

vec3 coordinates(const std::string& file, const toml::node& node, const std::string& what) {
  const toml::array& list = as_array(file, node, what);
  if (list.size() < 2 || list.size() > 3)
    mistake(file, node,
            fmt::format("{} has {} coordinates; it must be [x, y] or [x, y, z]", what, list.size()));
  vec3 point{0.f};
  for (std::size_t i = 0; i < list.size(); ++i)
    point[static_cast<int>(i)] =
        static_cast<float>(finite_number(file, list[i], fmt::format("a coordinate of {}", what)));
  return point;
}

double Reader::number_in(const toml::node& node, const Key& key) const {
  const double value = finite_number(file_, node, key.name);
  if (value < key.min || value > key.max)
    mistake(file_, node,
            fmt::format("{} is {}; it must lie between {} and {}{}{}", key.name, value, key.min, key.max,
                        key.unit.empty() ? "" : " ", key.unit));
  return value;
}

std::optional<double> Reader::number(std::string_view name) const {
  const toml::node* node = find(name);
  return node == nullptr ? std::nullopt : std::optional(number_in(*node, key(name)));
}

std::optional<std::int64_t> Reader::whole(std::string_view name) const {
  const auto value = number(name);
  if (!value) return std::nullopt;
  if (!node(name).is_integer()) wrong(name, "must be a whole number");
  return node(name).value<std::int64_t>();
}

std::optional<bool> Reader::flag(std::string_view name) const {
  const toml::node* node = find(name);
  if (node == nullptr) return std::nullopt;
  if (!node->is_boolean()) wrong(name, fmt::format("must be true or false, not {}", kind_of(*node)));
  return node->value<bool>();
}

std::optional<std::string> Reader::text(std::string_view name) const {
  const toml::node* node = find(name);
  if (node == nullptr) return std::nullopt;
  if (!node->is_string()) wrong(name, fmt::format("must be text in quotes, not {}", kind_of(*node)));
  auto text = *node->value<std::string>();
  if (text.empty()) wrong(name, "must not be empty");
  return text;
}

std::vector<std::string> Reader::texts(std::string_view name) const {
  std::vector<std::string> all;
  if (!has(name)) return all;
  for (const toml::node& each : as_array(file_, node(name), name)) {
    const auto text = each.value<std::string>();
    if (!each.is_string() || text->empty())
      mistake(file_, each, fmt::format("an entry of {} must be text in quotes, not {}", name, kind_of(each)));
    all.push_back(*text);
  }
  return all;
}

std::optional<vec3> Reader::vector(std::string_view name) const {
  if (!has(name)) return std::nullopt;
  const toml::array& list = as_array(file_, node(name), name);
  if (list.size() < 2 || list.size() > 3)
    wrong(name, fmt::format("has {} parts; it must be [x, y] or [x, y, z]", list.size()));
  vec3 vector(0.f);
  for (std::size_t i = 0; i < list.size(); ++i)
    vector[static_cast<int>(i)] = static_cast<float>(number_in(list[i], key(name)));
  return vector;
}

std::vector<float> Reader::numbers(std::string_view name, std::size_t count) const {
  const toml::array& list = as_array(file_, node(name), name);
  if (list.size() != count)
    wrong(name, fmt::format("has {} numbers; it must have {}: {}", list.size(), count, key(name).doc));
  std::vector<float> numbers;
  for (const toml::node& each : list) numbers.push_back(static_cast<float>(number_in(each, key(name))));
  return numbers;
}

std::optional<Range> Reader::range(std::string_view name) const {
  const toml::node* node = find(name);
  if (node == nullptr) return std::nullopt;
  if (node->is_number()) {
    const auto value = static_cast<float>(number_in(*node, key(name)));
    return Range{value, value};
  }
  const toml::array* pair = node->as_array();
  if (pair == nullptr || pair->size() != 2) wrong(name, "must be a number or a list [from, to]");
  const Range range{static_cast<float>(number_in((*pair)[0], key(name))),
                    static_cast<float>(number_in((*pair)[1], key(name)))};
  if (range.min > range.max)
    wrong(name, fmt::format("runs from {} down to {}; put the smaller number first", range.min, range.max));
  return range;
}

std::optional<std::size_t> Reader::one_of(std::string_view name) const {
  const auto word = text(name);
  if (!word) return std::nullopt;
  const auto allowed = split(key(name).of);
  const auto found = std::ranges::find(allowed, *word);
  if (found == allowed.end())
    wrong(name, fmt::format("is {}; it must be one of {}{}", quoted(*word), fmt::join(allowed, ", "),
                            did_you_mean(*word, allowed)));
  return static_cast<std::size_t>(found - allowed.begin());
}

void Reader::into(float& value, std::string_view name, float factor) const {
  if (const auto read = number(name)) value = static_cast<float>(*read) * factor;
}

void Reader::into(bool& value, std::string_view name) const {
  if (const auto read = flag(name)) value = *read;
}

const toml::table& as_table(const std::string& file, const toml::node& node, std::string_view what) {
  if (!node.is_table()) mistake(file, node, fmt::format("{} must be a table, not {}", what, kind_of(node)));
  return *node.as_table();
}

const toml::array& as_array(const std::string& file, const toml::node& node, std::string_view what) {
  if (!node.is_array()) mistake(file, node, fmt::format("{} must be a list, not {}", what, kind_of(node)));
  return *node.as_array();
}

}  // namespace ambulon::scene
