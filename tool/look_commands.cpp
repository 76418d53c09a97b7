// The look command: pictures of records, of finished runs and of runs that go on.
#include <algorithm>

#include <fmt/format.h>
#include <dunefield/base/text_file.hpp>
#include <dunefield/dunefield.hpp>

#include "campaign_console.hpp"
#include "commands.hpp"
#include "tables.hpp"

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;

/// Folders of records: those given; of a campaign file what its runs that go on show now, or, when
/// none does, its finished ones.
std::vector<fs::path> records_of(const LookArguments& a, Console& console) {
  std::vector<fs::path> folders;
  for (const std::string& where : a.where) {
    if (fs::path(where).extension() != ".toml") {
      // marram.runs/* names the index and the report as well.
      if (a.where.size() > 1 && fs::is_regular_file(where)) continue;
      folders.push_back(where);
      continue;
    }
    const Campaign campaign = read_campaign(where);
    const fs::path below = a.runs_in.empty() ? default_folder(campaign) : fs::path(a.runs_in);
    const auto running = running_below(below);
    for (const fs::path& run : running) {
      constexpr double patience = 120;  // s: an iteration of a large mesh, and the pictures
      ask_for_look(run, patience, console_progress(console));
      folders.push_back(look_folder(run));
    }
    if (!running.empty()) continue;
    for (const auto& [name, standing] : standings(prepare(campaign), below)) {
      if (standing == Standing::current) folders.push_back(below / name);
      if (standing == Standing::out_of_date)
        console.line("warning    " + name + " is left out, " + out_of_date_in_words);
    }
    if (folders.empty())
      throw InputError(
          "no run goes on here at present, and none is finished as the file describes "
          "it",
          below.string(), "run the campaign first");
  }
  return folders;
}

PictureRequest request_of(const LookArguments& a) {
  PictureRequest r = a.request;
  check_request(r);
  if (a.size.empty()) return r;
  const std::size_t x = a.size.find('x');
  try {
    if (x == std::string::npos) throw std::invalid_argument("");
    r.width = std::stoi(a.size.substr(0, x)), r.height = std::stoi(a.size.substr(x + 1));
  } catch (const std::exception&) {
    throw InputError("'" + a.size + "' is no size of a picture", "--size",
                     "write one like 1280x800");
  }
  return r;
}

void tell_state(const Record& r, Console& console) {
  if (r.status != RunStatus::stopped) return;
  const Figures f = r.figures();
  console.line(fmt::format("now        {}: iteration {}; CD {}, CL {}, drag {:.1f} N",
                           r.run.variant, f.iterations, drag_with_interval(f.cd),
                           with_interval(f.cl, 3), f.drag));
}

/// The wake where slices across the stream cut it, and vortices with their strength.
void tell_wake_and_cores(const PictureRequest& request, const FlowView& view, Console& console) {
  for (const std::string& words : request.slice) {
    const SliceLook s = slice_look(words, &view.record());
    if (std::abs(s.plane.normal.x) < 0.999 || !request.series.empty()) continue;
    const WakeSection w = wake_section(view, s.plane);
    console.line(
        fmt::format("wake       at x = {:.2f} m: {:.3f} m2 with total Cp below 0.5, its "
                    "middle at z = {:.2f} m",
                    s.plane.point.x, w.area, w.centre.z));
  }
  for (const std::string& words : request.cores) {
    std::vector<std::vector<std::string>> rows = {{"vortex from m", "to m", "circulation m2/s"}};
    const auto text = [](const Vec3& p) {
      return fmt::format("({:.2f}, {:.2f}, {:.2f})", p.x, p.y, p.z);
    };
    for (const VortexCore& c : vortex_cores(view, cores_look(words)))
      rows.push_back(
          {text(c.points.front()), text(c.points.back()), fmt::format("{:+.2f}", c.circulation)});
    console.table(rows);
  }
}

/// What pictures leave unsaid.
void tell_numbers(const PictureRequest& request, const FlowView& view, Console& console) {
  if (!view.is_change()) tell_wake_and_cores(request, view, console);
  const bool turning =
      std::any_of(request.surface.begin(), request.surface.end(),
                  [](const auto& s) { return s.find("separation") != std::string::npos; });
  if (!turning || view.is_change()) return;
  std::vector<std::vector<std::string>> rows = {{"part", "swept backward m2", "of m2", "%"}};
  for (const BackwardArea& b : backward_areas(view.record()))
    rows.push_back({b.part, fmt::format("{:.3f}", b.area), fmt::format("{:.3f}", b.of),
                    fmt::format("{:.0f}", 100 * b.area / b.of)});
  console.table(rows);
}

Json smoke_json(const std::vector<SmokeReport>& reports) {
  Json list = Json::array();
  for (const SmokeReport& s : reports)
    list.push_back(
        {{"name", s.name}, {"lines", s.lines}, {"outside", s.outside}, {"stopped", s.stopped}});
  return list;
}

int draw_the_chart(const Views& views, const PictureRequest& request, const fs::path& file,
                   Console& console) {
  const Chart chart = chart_of(views, request.chart);
  draw_chart(file, chart);
  const fs::path table = fs::path(file).replace_extension(".csv");
  write_text(table, chart_csv(chart));
  console.line("written    " + file.string() + ", " + table.filename().string());
  console.json(dumped({{"chart", file.string()}, {"table", table.string()}}));
  return exit_code::done;
}

/// What is shown, for other programs.
int write_data(const Views& views, const PictureRequest& request, const fs::path& folder,
               const fs::path& file, Console& console) {
  if (views.size() > 1)
    throw InputError("data of several runs at once cannot be told apart", file.string(),
                     "write them one after the other");
  const Scene scene = picture_of(views.front(), request).scene();
  std::vector<std::string> names;
  if (!folder.empty())
    for (const fs::path& f : write_scene_vtp(folder, scene)) names.push_back(f.string());
  if (file.extension() == ".glb") write_scene_gltf(file, scene), names.push_back(file.string());
  for (const std::string& n : names) console.line("written    " + n);
  console.json(dumped({{"files", names}}));
  return exit_code::done;
}

Progress film_progress(Console& console) {
  return {[&](const std::string&, double share) {
            console.progress(fmt::format("film       {:3.0f} %", 100 * share));
          },
          stop_requested};
}

int told_film(const fs::path& file, Console& console) {
  console.line("written    " + file.string());
  console.json(dumped({{"film", file.string()}}));
  return exit_code::done;
}

/// Of an unsteady flow, finished or going on: its record need not be opened.
int film_what_was_kept(const std::vector<fs::path>& folders, const PictureRequest& request,
                       const std::string& words, const fs::path& file, Console& console) {
  if (folders.size() > 1)
    throw InputError("a film in time is of one run", folders[1].string(), "name one folder");
  // The look at a run that goes on stands beside the run's own folder.
  const fs::path run =
      folders[0].extension() == ".look" ? fs::path(folders[0]).replace_extension() : folders[0];
  film_in_time(reels_folder(run), request, words, file, film_progress(console));
  return told_film(file, console);
}

/// Without --into, in the run's folder.
const char* usual_name(const LookArguments& a) {
  return !a.request.chart.empty() ? "chart.png" : a.film.empty() ? "look.png" : "film.mp4";
}

}  // namespace

int look(const LookArguments& a, Console& console) {
  const PictureRequest request = request_of(a);
  const std::vector<fs::path> folders = records_of(a, console);
  constexpr std::size_t most = 12;
  if (folders.size() > most)
    throw InputError(fmt::format("{} runs are too many for one sheet", folders.size()),
                     a.where.front(), "name the folders of twelve or fewer");
  const fs::path file = !a.into.empty()       ? fs::path(a.into)
                        : folders.size() == 1 ? folders[0] / usual_name(a)
                                              : fs::path(usual_name(a));
  if (!a.film.empty() && is_film_in_time(a.film))
    return film_what_was_kept(folders, request, a.film, file, console);
  std::vector<Record> records;
  std::optional<Record> baseline;
  const Progress progress{[](const std::string&, double) {}, stop_requested};
  for (const fs::path& f : folders) {
    console.progress("opening    " + f.string());
    records.push_back(Record::open(f, progress));
    if (console.units().name != "si") records.back().run.units = console.units().name;
    tell_state(records.back(), console);
  }
  if (!a.against.empty()) {
    console.progress("opening    " + a.against);
    baseline = Record::open(a.against, progress);
    for (const Record& r : records) check_comparable(baseline->figures(), r.figures());
  }
  std::vector<std::shared_ptr<const FlowView>> views;
  for (const Record& r : records)
    views.push_back(std::make_shared<FlowView>(r, baseline ? &*baseline : nullptr));
  console.progress("drawing");
  if (!request.chart.empty()) return draw_the_chart(views, request, file, console);
  if (!a.film.empty()) {
    film_of(views, request, a.film, file, film_progress(console));
    return told_film(file, console);
  }
  if (!a.data.empty() || file.extension() == ".glb")
    return write_data(views, request, a.data, file, console);
  const Looked looked = look_at(views, request, progress);
  save_png(file, looked.image);
  for (const SmokeReport& s : looked.smoke)
    console.line(fmt::format(
        "smoke      {}: {} lines{}{}", s.name, s.lines - s.outside,
        s.outside ? fmt::format(", {} seeds in no air", s.outside) : "",
        s.stopped ? fmt::format(", {} ended in air that hardly moves", s.stopped) : ""));
  tell_numbers(request, *views.front(), console);
  console.line("written    " + file.string());
  Json runs = Json::array();
  for (std::size_t i = 0; i < records.size(); ++i) {
    runs.push_back(figures_json(records[i].figures()));
    runs.back()["folder"] = folders[i].string();
  }
  console.json(
      dumped({{"picture", file.string()}, {"runs", runs}, {"smoke", smoke_json(looked.smoke)}}));
  return exit_code::done;
}

}  // namespace dunefield::tool
