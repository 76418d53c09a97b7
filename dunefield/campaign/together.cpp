#include <dunefield/campaign/together.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/campaign/paired_scatter.hpp>

namespace dunefield {
namespace {

Settings without_places(Settings settings) {
  std::erase_if(settings, [](const Setting& s) { return is_place_of_vehicle(s.key); });
  return settings;
}

const Figures* run_alone(const std::vector<Figures>& runs, const Figures& run,
                         const std::string& vehicle) {
  const auto it = std::find_if(runs.begin(), runs.end(), [&](const Figures& f) {
    return f.vehicles.size() == 1 && f.vehicles[0].name == vehicle &&
           f.run.speed == run.run.speed && f.run.recipe == run.run.recipe &&
           f.run.lattice == run.run.lattice &&
           without_places(f.run.settings) == without_places(run.run.settings);
  });
  return it == runs.end() ? nullptr : &*it;
}

/// Of a quotient of two means that stand on the same lattice.
Share quotient(double a, double half_a, double b, double half_b, const RunIdentity& run) {
  constexpr double interval_over_deviation = 1.96;
  const double mesh = interval_over_deviation * paired_scatter(run).drag;
  const double value = a / b;
  // What the mesh leaves open is a share of the drag alone: together it may all but vanish.
  return {value, std::hypot(half_a / b, value * half_b / b, mesh)};
}

}  // namespace

bool is_place_of_vehicle(const std::string& key) {
  return key.starts_with("vehicle.") && (key.ends_with(".spacing") || key.ends_with(".aside"));
}

std::vector<Together> together(const std::vector<Figures>& runs) {
  std::vector<Together> all;
  for (const Figures& run : runs) {
    if (run.vehicles.size() < 2) continue;
    Together t{run.run.variant, run.run.speed, run.run.settings, {}, 0, {}};
    double half_sum = 0, alone_sum = 0, half_alone = 0;
    bool all_known = true;
    for (const VehicleMean& v : run.vehicles) {
      TogetherRow row{v.name, v.cd, v.cl, {}, {}};
      t.drag_area += v.cd.mean * v.frontal_area;
      half_sum += v.cd.half_interval * v.frontal_area;
      if (const Figures* alone = run_alone(runs, run, v.name)) {
        const WindowMean& own = alone->vehicles[0].cd;
        row.alone = own.mean;
        row.share = quotient(v.cd.mean, v.cd.half_interval, own.mean, own.half_interval, run.run);
        alone_sum += own.mean * v.frontal_area;
        half_alone += own.half_interval * v.frontal_area;
      } else {
        all_known = false;
      }
      t.rows.push_back(row);
    }
    if (all_known) t.share_of_sum = quotient(t.drag_area, half_sum, alone_sum, half_alone, run.run);
    all.push_back(std::move(t));
  }
  return all;
}

}  // namespace dunefield
