#include "campaign_console.hpp"

#include <fmt/format.h>

#include "commands.hpp"
#include "tables.hpp"

#include <dunefield/campaign/campaign_setup.hpp>

namespace dunefield::tool {

Progress console_progress(Console& console, const std::string& doing) {
  return {[&console, doing](const std::string& stage, double share) {
            console.progress(fmt::format("{:<10} {:3.0f} %  {}", doing, 100 * share, stage));
          },
          stop_requested};
}

void show_setup(const CampaignSetup& setup, Console& console) {
  console.heading(setup.campaign.name);
  if (setup.campaign.units.speed.size != DisplayUnits().speed.size)
    console.set_units(setup.campaign.units);
  for (const auto& l : describe(setup)) console.line(l);
  console.show(setup.findings);
}

void ConsoleWatcher::begins(const Begin& b) {
  const std::string holder = b.holder.empty() ? "another process" : b.holder;
  if (!b.done || b.number == 1) console_.line();
  console_.heading(fmt::format("run {} of {}: {} at {}{}{}{}", b.number, b.total, b.variant,
                               console_.units().speed_text(b.speed),
                               b.settings.empty() ? "" : ", " + b.settings,
                               b.lattice > 0 ? fmt::format(", lattice {}", b.lattice + 1) : "",
                               b.elsewhere       ? " (being computed by " + holder + ")"
                               : b.done          ? " (already done)"
                               : b.only_readings ? " (done; its readings are recomputed)"
                                                 : ""));
}

void ConsoleWatcher::waits(const std::string& run) {
  console_.line(
      fmt::format("waiting    for {}, which another process is computing and from which the "
                  "remaining runs start; Ctrl-C stops waiting",
                  run));
}

void ConsoleWatcher::meshed(const MeshResult& m) { show_quality_briefly(m, console_); }

void ConsoleWatcher::iterated(const HistoryRow& h, double left) {
  console_.progress(
      fmt::format("running    {:4}  residual {:.1e}  CD {:.4f}  CL {:+.4f}  at most {} left",
                  h.iteration, h.momentum_residual, h.c.cd, h.c.cl, clock_time(left)));
}

void ConsoleWatcher::ended(const Figures& f, const Findings& findings,
                           const std::filesystem::path& folder) {
  computed_ = true;
  console_.show(findings);
  const DisplayUnits& u = console_.units();
  console_.line(fmt::format("{:<10} {} iterations, {}; CD {}, CL {}, drag {} {}, {}",
                            f.status == RunStatus::not_converged ? "ended" : words(f.status),
                            f.iterations, clock_time(f.seconds), drag_with_interval(f.cd),
                            with_interval(f.cl, 3), u.in(u.force, f.drag, 1), u.force.name,
                            u.power_text(f.drag * f.run.speed)));
  console_.line("written    " + folder.string());
}

}  // namespace dunefield::tool
