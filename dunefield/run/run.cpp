#include <dunefield/run/run.hpp>

#include <algorithm>
#include <chrono>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/record/mapping.hpp>
#include <dunefield/run/case_run.hpp>

namespace dunefield {
namespace {

constexpr int most_back_offs = 2;           // 16 % of the pseudo-time step is left
constexpr double most_first_order = 0.001;  // of the cells: with more a run is not converged

/// The first few places about which points lie, no two closer together than `apart`.
std::string places(const std::vector<Vec3>& points, double apart) {
  constexpr std::size_t most_told = 3;
  std::vector<Vec3> told;
  std::string text;
  for (const Vec3& p : points) {
    const auto near = [&](const Vec3& q) { return norm(p - q) < apart; };
    if (std::any_of(told.begin(), told.end(), near)) continue;
    if (told.size() == most_told) return text + " and elsewhere";
    text += fmt::format("{}({:.3f}, {:.3f}, {:.3f}) m", told.empty() ? "" : ", ", p.x, p.y, p.z);
    told.push_back(p);
  }
  return text;
}

/// The force on the vehicle must be the momentum that the stream loses: a result with both apart is
/// none, whatever its history looks like.
void warn_of_momentum(Record& r) {
  constexpr double worth_warning = 0.01;  // of the drag
  const double drag = r.convergence.cd.mean * r.reference.dynamic_pressure() *
                      r.reference.frontal_area,
               lost = r.convergence.momentum_drag.mean, differ = lost / drag - 1;
  if (r.history.empty() || std::abs(differ) < worth_warning) return;
  r.findings.warn_first(
      fmt::format(
          "Drag is uncertain by {:.1f} %: {:.1f} N on the walls, {:.1f} N lost by the free stream, "
          "{:.1f} N in the wake plane. The flow has not converged: allow more iterations, or look "
          "at "
          "the mesh's warnings.",
          100 * std::abs(differ), drag, lost, r.checks.wake_drag),
      "run.momentum");
}

/// @param first_order centres of the cells that were computed so
void add_findings(Record& r, const std::vector<Vec3>& first_order) {
  const RunChecks& k = r.checks;
  if (k.backflow_share > 0.01)
    r.findings.warn(
        fmt::format("air flows back through {:.0f} % of the outflow: use a longer tunnel",
                    100 * k.backflow_share),
        "run.backflow");
  const bool too_many = k.first_order_cells > most_first_order * r.quality.cells;
  if (k.first_order_cells > 0) {
    const std::string text = fmt::format(
        "{} of {} cells beside badly shaped ones were limited to first order, at {}",
        k.first_order_cells, r.quality.cells, places(first_order, 0.02 * r.reference.length));
    too_many ? r.findings.warn(text, "run.first-order") : r.findings.note(text, "run.first-order");
  }
  if (too_many && r.status != RunStatus::stopped) {
    r.status = r.convergence.status = RunStatus::not_converged;
    r.convergence.why = "too many cells were limited to first order";
  }
  warn_of_momentum(r);
  if (r.convergence.why.empty() || r.status == RunStatus::stopped) return;
  const std::string text = std::string(words(r.status)) + ": " + r.convergence.why;
  if (r.status == RunStatus::fluctuating)
    r.findings.note(text, "run.fluctuating");
  else
    r.findings.warn(text, "run.status");
}

}  // namespace

Record run(const RunSetup& setup, std::shared_ptr<const MeshResult> mesh, const RunOptions& options,
           RunWatcher& watcher) {
  const auto began = std::chrono::steady_clock::now();
  CaseRun run(setup, std::move(mesh), options, watcher);
  for (int number = 0;; ++number) {
    try {
      run.attempt(number);
      break;
    } catch (const FlowError& e) {
      // Divergence shows in sums over all ranks: they all come here together.
      if (number == most_back_offs) throw;
      if (number > 0) run.forget_good();
      run.record.findings.warn(fmt::format(
          "{}; went on from {} with a smaller pseudo-time step", e.what(),
          run.last_good() > 0 ? fmt::format("iteration {}", run.last_good()) : "the start"));
      run.cut_history();
    }
  }
  Record record = std::move(run.record);
  if (options.ranks().is_root()) add_findings(record, run.first_order_cells);
  record.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
  return record;
}

Record run(const RunSetup& setup, MeshResult mesh, const RunOptions& options) {
  RunWatcher nobody;
  return run(setup, std::make_shared<const MeshResult>(std::move(mesh)), options, nobody);
}

std::optional<Fields> start_from_record(const std::filesystem::path& folder, const VolumeMesh& mesh,
                                        bool half, double at_speed, Findings& findings,
                                        const Progress& progress) {
  try {
    const Figures figures = read_figures(folder);
    if (figures.run.half != half)
      throw InputError(
          fmt::format("this is the result of a {} model", figures.run.half ? "half" : "whole"),
          folder.string(), "name one of the same kind");
    // The state is that of the last iteration, the record's own fields have their mass closed.
    const auto saved = read_saved_state(folder / record_file::state);
    Fields fields;
    if (saved && saved->key.mesh == fingerprint_of(mesh)) {
      fields = read_fields(folder / record_file::state);
    } else {
      progress.check();
      progress.report("reading", 0);
      const Record from = Record::open(folder, progress);
      const bool own_state = saved && saved->key.mesh == fingerprint_of(*from.mesh);
      fields = own_state ? read_fields(folder / record_file::state) : from.fields;
      progress.check();
      fields = mapped(*from.mesh, fields, mesh);
      findings.note(
          fmt::format("starts from the result of '{}' at {:.4g} km/h, brought over to this mesh",
                      figures.run.variant, 3.6 * figures.run.speed));
    }
    scale_speed(fields, at_speed / figures.run.speed);
    return fields;
  } catch (const Cancelled&) {
    throw;
  } catch (const Error& e) {
    findings.warn(fmt::format("{}: the run does not start from it", e.what()));
    return std::nullopt;
  }
}

}  // namespace dunefield
