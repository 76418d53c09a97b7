#include <dunefield/look/standard_pictures.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/look/chart.hpp>
#include <dunefield/look/picture.hpp>
#include <dunefield/look/render.hpp>
#include <dunefield/record/quantities.hpp>
#include <dunefield/record/readings.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

void draw_history(const fs::path& file, const Record& r, const std::string& what) {
  const Convergence& m = r.convergence;
  Chart chart{what + ": history", "iteration", "", {}, {}, static_cast<double>(m.window_from)};
  ChartLine cd{"", {}}, clf{"CL front", {}}, clr{"CL rear", {}}, residual{"", {}};
  for (const HistoryRow& h : r.history) {
    chart.x.push_back(h.iteration);
    cd.y.push_back(h.c.cd), clf.y.push_back(h.c.clf()), clr.y.push_back(h.c.clr());
    residual.y.push_back(h.momentum_residual);
  }
  constexpr double start_up = 0.1;  // share of the history that does not set the range
  chart.panels = {{"drag coefficient CD", {cd}, false, start_up, m.cd.mean, m.cd.half_interval},
                  {"lift coefficients", {clf, clr}, false, start_up},
                  {"residual of momentum", {residual}, true}};
  chart.footer =
      fmt::format("{}: CD {:.4f} ± {:.4f}, CL {:+.4f} ± {:.4f} over the shaded iterations{}",
                  words(r.status), m.cd.mean, m.cd.half_interval, m.cl.mean, m.cl.half_interval,
                  m.why.empty() ? "" : "; " + m.why);
  draw_chart(file, chart);
}

void draw_build_up(const fs::path& file, const Record& r, const std::string& what) {
  const BuildUp b = build_up(r);
  if (b.station.empty()) return;
  const double qa = r.reference.dynamic_pressure() * r.reference.frontal_area;
  Chart chart{what + ": build-up of drag and lift",
              "x, m (0: middle of the wheelbase)",
              "Each value is that of everything ahead of the place; state of the last iteration.",
              b.station,
              {},
              1e300};
  ChartLine all{"all", {}}, pressure{"pressure", {}}, friction{"friction", {}}, lift{"", {}};
  for (std::size_t i = 0; i < b.station.size(); ++i) {
    pressure.y.push_back(b.pressure[i].x / qa), friction.y.push_back(b.friction[i].x / qa);
    all.y.push_back(pressure.y[i] + friction.y[i]);
    lift.y.push_back((b.pressure[i].z + b.friction[i].z) / qa);
  }
  chart.panels = {{"drag coefficient CD from the nose on", {all, pressure, friction}},
                  {"lift coefficient CL from the nose on", {lift}}};
  draw_chart(file, chart);
}

}  // namespace

void draw_standard_pictures(const fs::path& folder, const Record& r) {
  const std::string campaign = r.run.campaign.empty() ? "" : r.run.campaign + ", ";
  const std::string what =
      fmt::format("{}{}, {:.4g} km/h", campaign, r.run.variant, 3.6 * r.run.speed);
  const auto view = std::make_shared<FlowView>(r);
  save_png(folder / "pressure.png", render(Picture(view).surface()));
  save_png(folder / "speed.png", render(Picture(view).slice({})));
  draw_history(folder / "history.png", r, what);
  draw_build_up(folder / "build-up.png", r, what);
}

}  // namespace dunefield
