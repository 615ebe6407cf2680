#include "options.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace ambulon::tool {

CLI::Validator number_between(double min, double max) {
  const auto test = [min, max](const std::string& text) -> std::string {
    double value = 0;
    if (CLI::detail::lexical_cast(text, value) && value >= min && value <= max) return {};
    return fmt::format("\"{}\" is not a number between {} and {}", text, min, max);
  };
  return {test, ""};
}

CLI::App* add_command(CLI::App& app, const char* name, const char* what, std::string& scene) {
  CLI::App* command = app.add_subcommand(name, what);
  command->add_option("scene", scene, "scene file")->required()->type_name("SCENE");
  return command;
}

void add_size(CLI::App& command, int& width, int& height) {
  for (const auto& [name, value] : {std::pair{"--width", &width}, {"--height", &height}})
    command.add_option(name, *value, "pixels")
        ->check(number_between(16, 16'384))
        ->type_name("PIXELS")
        ->capture_default_str();
}

std::vector<float> numbers_of(const std::string& text) {
  std::vector<float> numbers;
  for (const std::string& part : CLI::detail::split(text, ',')) {
    float number = 0.f;
    if (!CLI::detail::lexical_cast(part, number) || !std::isfinite(number)) return {};
    numbers.push_back(number);
  }
  return numbers;
}

vec3 point_of(const std::string& name, const std::string& text) {
  const std::vector<float> numbers = numbers_of(text);
  if (numbers.size() != 2 && numbers.size() != 3)
    throw CLI::ValidationError(name, fmt::format("\"{}\" is not a point; write it as x,y or x,y,z", text));
  return {numbers[0], numbers[1], numbers.size() == 3 ? numbers[2] : 0.f};
}

void add_body(CLI::App& command, Body& body, bool* given) {
  command
      .add_option_function<float>(
          "--radius",
          [&body, given](float metres) {
            body.radius = metres;
            if (given) *given = true;
          },
          "radius of the body; by default 0.3, or that of the saved ground")
      ->check(number_between(0, 50))
      ->type_name("METRES");
  command
      .add_option_function<std::vector<std::string>>(
          "--body",
          [&body, given](const std::vector<std::string>& parts) {
            if (given) *given = true;
            for (const std::string& part : parts) {
              const auto equals = part.find('=');
              const std::string key = part.substr(0, equals);
              struct Measure {
                std::string_view name;
                float* metres;
                float max;
              };
              const Measure measures[] = {
                  {"radius", &body.radius, 50.f},         {"height", &body.height, 100.f},
                  {"step_up", &body.step_up, 100.f},      {"jump_up", &body.jump_up, 100.f},
                  {"drop_down", &body.drop_down, 1000.f}, {"leap", &body.leap, 100.f}};
              const auto measure = std::ranges::find(measures, key, &Measure::name);
              float value = 0.f;
              const bool number = equals != std::string::npos &&
                                  CLI::detail::lexical_cast(part.substr(equals + 1), value) &&
                                  std::isfinite(value);
              const bool known = measure != std::end(measures);
              if (!known || !number || value < 0.f || value > measure->max)
                throw CLI::ValidationError(
                    "--body",
                    fmt::format("\"{}\" is none of radius, height, step_up, jump_up, drop_down and leap with "
                                "metres from 0 to {:g}; write radius=0.3,height=1.7,step_up=0.3",
                                part, known ? measure->max : 100.f));
              *measure->metres = value;
            }
          },
          "the body in metres: radius=0.3,height=1.7,step_up=0.3,jump_up=0,drop_down=0,leap=0; plans and "
          "tiles use the radius only")
      ->delimiter(',')
      ->type_name("SIZE");
}

}  // namespace ambulon::tool
