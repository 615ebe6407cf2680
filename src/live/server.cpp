// The HTTP server of pages, on the loopback address.
//
// One thread plays the scene and writes messages, thirty times a second. Each page has one pending message. A
// slow page skips frames and delays no other page. Other requests are answered in between, under the same
// lock.

#include "live/server.hpp"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <ctime>
#include <httplib.h>
#include <list>
#include <mutex>
#include <optional>
#include <random>
#include <thread>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "json.hpp"

extern "C" {
extern const char ambulon_page_html[], ambulon_page_html_end[];
extern const char ambulon_page_js[], ambulon_page_js_end[];
extern const char ambulon_page_css[], ambulon_page_css_end[];
}

namespace ambulon {
namespace {

using Clock = std::chrono::steady_clock;
using httplib::Request;
using httplib::Response;
using live::nests_little;

constexpr std::size_t max_pages = 16;
constexpr std::size_t threads = 8 * max_pages;  // each page holds one, and its commands some for a short time
constexpr std::size_t max_bytes = 64 * 1024;    // of a command
constexpr double commands_a_second = 150, burst = 300;
constexpr auto frame_time = std::chrono::microseconds(33'333);
constexpr int frames_to_close_look = 3;  // frames between detail messages: ten a second
constexpr int frames_to_file = 15;       // frames between checks of the file: two a second

enum class Kind : char { frame = 1, text = 2 };

/// Appends a message with its length and kind.
void put(std::string& out, Kind kind, std::string_view message) {
  const auto size = static_cast<std::uint32_t>(message.size());
  out.append(reinterpret_cast<const char*>(&size), sizeof size);
  out += static_cast<char>(kind);
  out += message;
}

double cpu_seconds() {
  timespec time{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &time);
  return static_cast<double>(time.tv_sec) + 1e-9 * static_cast<double>(time.tv_nsec);
}

std::string random_token() {
  std::random_device random;
  std::string token;
  for (int i = 0; i < 4; ++i) token += fmt::format("{:08x}", random());
  return token;
}

/// Compares in constant time.
bool same(std::string_view a, std::string_view b) {
  unsigned differs = a.size() == b.size() ? 0 : 1;
  for (std::size_t i = 0; i < a.size() && i < b.size(); ++i)
    differs |= static_cast<unsigned char>(a[i]) ^ static_cast<unsigned char>(b[i]);
  return differs == 0;
}

void refuse(Response& response, int status, const std::string& why) {
  response.status = status;
  const auto replace = nlohmann::json::error_handler_t::replace;  // for invalid UTF-8
  response.set_content(nlohmann::json{{"why", why}}.dump(-1, ' ', false, replace), "application/json");
}

}  // namespace

struct LiveServer::Inside {
  struct Page {
    std::uint64_t number = 0;
    PageState onlooker;
    std::optional<std::string> waiting;  // the pending message
  };

  LiveScene& scene;
  httplib::Server http;
  std::string token = random_token();
  int port = 0;

  std::mutex mutex;  // guards the following members and the scene
  std::condition_variable told;
  std::list<Page> pages;
  std::uint64_t next_page = 1;
  bool stopping = false;
  double allowance = burst;  // commands that may still come
  Clock::time_point allowance_at = Clock::now();

  std::atomic<double> playing{0}, telling{0};
  std::atomic<std::uint64_t> frames{0}, bytes{0};
  Clock::time_point began = Clock::now();

  explicit Inside(LiveScene& of) : scene(of) {}

  bool may_come_from(const std::string& origin) const {
    return origin == fmt::format("http://127.0.0.1:{}", port) ||
           origin == fmt::format("http://localhost:{}", port);
  }

  /// Returns why a request is refused before it is handled; empty if it is not.
  std::string objection(const Request& request) const {
    if (!may_come_from("http://" + request.get_header_value("Host")))
      return fmt::format("this server answers to 127.0.0.1:{} only, not to another name", port);
    if (request.has_header("Origin") && !may_come_from(request.get_header_value("Origin")))
      return "pages of other origins may not ask this server";
    const bool plain =
        request.path == "/page.js" || request.path == "/page.css" || request.path == "/favicon.ico";
    const std::string given =
        request.has_param("token") ? request.get_param_value("token") : request.get_header_value("X-Token");
    if (!plain && !same(given, token))
      return "the token is missing or wrong; open the address that the program has printed";
    return {};
  }

  void route() {
    http.new_task_queue = [] { return new httplib::ThreadPool(threads); };
    http.set_payload_max_length(max_bytes);
    http.set_read_timeout(std::chrono::milliseconds(500));  // otherwise silent connections would hold threads
    http.set_write_timeout(std::chrono::seconds(5));
    http.set_keep_alive_max_count(1'000'000);
    http.set_keep_alive_timeout(2);  // seconds
    http.set_tcp_nodelay(true);
    // Unlike the package's default, which lets a second server use the same port.
    http.set_socket_options([](int socket) {
      const int yes = 1;
      setsockopt(socket, SOL_SOCKET, SO_REUSEADDR, &yes, sizeof yes);
    });
    http.set_default_headers(
        {{"Cache-Control", "no-store"},
         {"X-Content-Type-Options", "nosniff"},
         {"Referrer-Policy", "no-referrer"},
         {"Content-Security-Policy",
          "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; connect-src 'self'; "
          "img-src 'self' data:; font-src data:; frame-ancestors 'none'; base-uri 'none'; form-action "
          "'none'"}});
    http.set_pre_routing_handler([this](const Request& request, Response& response) {
      const std::string why = objection(request);
      if (why.empty()) return httplib::Server::HandlerResponse::Unhandled;
      refuse(response, 403, why);
      return httplib::Server::HandlerResponse::Handled;
    });
    http.set_error_handler([](const Request& request, Response& response) {
      if (!response.body.empty()) return;
      refuse(response, response.status,
             response.status == 413 ? fmt::format("a command has at most {} bytes", max_bytes)
                                    : fmt::format("there is no {} {}", request.method, request.path));
    });
    const auto file = [this](const char* path, const char* begin, const char* end, const char* type) {
      http.Get(path, [=](const Request&, Response& response) {
        response.set_content(begin, static_cast<std::size_t>(end - begin), type);
      });
    };
    file("/", ambulon_page_html, ambulon_page_html_end, "text/html; charset=utf-8");
    file("/page.js", ambulon_page_js, ambulon_page_js_end, "text/javascript; charset=utf-8");
    file("/page.css", ambulon_page_css, ambulon_page_css_end, "text/css; charset=utf-8");
    http.Get("/favicon.ico", [](const Request&, Response& response) { response.status = 204; });
    http.Get("/schema", [](const Request&, Response& response) {
      response.set_content(scene_schema(), "application/json");
    });
    http.Get("/stream", [this](const Request&, Response& response) { stream(response); });
    http.Post("/command", [this](const Request& request, Response& response) { command(request, response); });
  }

  /// Sends messages to a page until it closes.
  void stream(Response& response) {
    std::unique_lock lock(mutex);
    if (pages.size() >= max_pages)
      return refuse(response, 503, fmt::format("page limit reached ({}); close one", max_pages));
    const auto page = pages.insert(pages.end(), {.number = next_page++, .onlooker = {}, .waiting = {}});
    page->waiting.emplace();
    put(*page->waiting, Kind::text, nlohmann::json{{"type", "hello"}, {"page", page->number}}.dump());
    lock.unlock();
    response.set_chunked_content_provider(
        "application/octet-stream",
        [this, page](std::size_t, httplib::DataSink& sink) { return send(*page, sink); },
        [this, page](bool) {
          const std::scoped_lock all(mutex);
          pages.erase(page);
        });
  }

  bool send(Page& page, httplib::DataSink& sink) {
    std::string message;
    {
      std::unique_lock lock(mutex);
      told.wait(lock, [&] { return stopping || page.waiting; });
      if (stopping) return false;
      message = std::move(*page.waiting);
      page.waiting.reset();
    }
    const double before = cpu_seconds();
    const bool sent = sink.write(message.data(), message.size());
    telling += cpu_seconds() - before;
    bytes += message.size();
    return sent;
  }

  void command(const Request& request, Response& response) {
    const std::scoped_lock lock(mutex);
    const auto now = Clock::now();
    allowance = std::min(
        burst, allowance + commands_a_second * std::chrono::duration<double>(now - allowance_at).count());
    allowance_at = now;
    if (allowance < 1)
      return refuse(response, 429,
                    fmt::format("more than {} commands a second; send fewer", commands_a_second));
    allowance -= 1;
    if (!nests_little(request.body))
      return refuse(response, 400, "a command nests lists and objects too deeply");
    const auto parsed = nlohmann::json::parse(request.body, nullptr, false);
    PageState* onlooker = nullptr;
    if (parsed.is_object() && parsed.contains("page"))
      for (Page& page : pages)
        if (parsed["page"] == page.number) onlooker = &page.onlooker;
    const auto answered = scene.command(request.body, onlooker);
    if (!answered) return refuse(response, 400, answered.error().text);
    response.set_content(*answered, "application/json");
  }

  /// Writes messages for all pages without a pending one.
  void tell(int turn) {
    if (pages.empty()) return;
    const std::string frame = scene.frame();
    for (Page& page : pages) {
      if (page.waiting) continue;
      page.waiting.emplace();
      for (const std::string& news : scene.news(page.onlooker, turn % frames_to_close_look == 0))
        put(*page.waiting, Kind::text, news);
      put(*page.waiting, Kind::frame, frame);
      ++frames;
    }
    told.notify_all();
  }

  void play(const std::function<bool()>& stop) {
    auto next = Clock::now(), last = next;
    for (int turn = 0; !stop(); ++turn) {
      {
        const std::scoped_lock lock(mutex);
        if (turn % frames_to_file == 0) scene.reload_if_changed();
        const auto now = Clock::now();
        const double before = cpu_seconds();
        scene.pass(std::chrono::duration<double>(now - last).count());
        last = now;
        const double between = cpu_seconds();
        tell(turn);
        playing += between - before;
        telling += cpu_seconds() - between;
      }
      next = std::max(next + frame_time, Clock::now() - frame_time);
      std::this_thread::sleep_until(next);
    }
  }
};

LiveServer::LiveServer(std::unique_ptr<Inside> inside) : inside_(std::move(inside)) {}
LiveServer::~LiveServer() = default;

Expected<std::unique_ptr<LiveServer>> LiveServer::open(LiveScene& scene, int port) {
  auto inside = std::make_unique<Inside>(scene);
  inside->route();
  inside->port = port == 0                                      ? inside->http.bind_to_any_port("127.0.0.1")
                 : inside->http.bind_to_port("127.0.0.1", port) ? port
                                                                : -1;
  if (inside->port < 0)
    return problem(
        fmt::format("port {} of 127.0.0.1 cannot be listened on; is it taken? --port 0 takes any", port));
  return std::unique_ptr<LiveServer>(new LiveServer(std::move(inside)));
}

std::string LiveServer::address() const {
  return fmt::format("http://127.0.0.1:{}/?token={}", inside_->port, inside_->token);
}

void LiveServer::run(const std::function<bool()>& stop) {
  std::atomic<bool> ended = false;
  std::thread listening([&] {
    inside_->http.listen_after_bind();
    ended = true;
  });
  inside_->play(stop);
  // Stopping before the server listens has no effect, so this waits until it does.
  while (!ended && !inside_->http.is_running()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  {
    const std::scoped_lock lock(inside_->mutex);
    inside_->stopping = true;
  }
  inside_->told.notify_all();
  inside_->http.stop();
  listening.join();
}

LiveServer::Cost LiveServer::cost() const {
  return {.seconds = std::chrono::duration<double>(Clock::now() - inside_->began).count(),
          .playing = inside_->playing,
          .telling = inside_->telling,
          .frames = inside_->frames,
          .bytes = inside_->bytes};
}

}  // namespace ambulon
