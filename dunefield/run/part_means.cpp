#include <dunefield/run/part_means.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/base/index.hpp>

namespace dunefield {

void append_parts(const Balance& balance, const ReferenceValues& reference,
                  std::vector<float>& history) {
  for (const PartLoad& p : balance.parts) {
    const Coefficients c = coefficients(p.total(), reference);
    history.push_back(static_cast<float>(c.cd));
    history.push_back(static_cast<float>(c.cl));
  }
}

namespace {

/// The parts' history is kept in single precision: what that rounds off is shared out, so that the
/// parts add up to the whole.
void add_up(std::vector<PartMean>& parts, double PartMean::*value, double whole) {
  double sum = 0, sizes = 0;
  for (const PartMean& p : parts) sum += p.*value, sizes += std::abs(p.*value);
  if (!(sizes > 0)) return;
  for (PartMean& p : parts) p.*value += (whole - sum) * std::abs(p.*value) / sizes;
}

/// Numbers of the rows of a history that its means are taken over: at rest the last ones whatever
/// moved them, else those that were the flow's own. None where the means are not of this history.
std::vector<std::size_t> rows_of_means(const Record& r) {
  const std::size_t count = at(std::max(0, r.convergence.cd.count));
  std::vector<std::size_t> rows;
  for (std::size_t i = r.history.size(); i-- > 0 && rows.size() < count;)
    if (r.convergence.status == RunStatus::steady || !r.history[i].recombined) rows.push_back(i);
  return {rows.rbegin(), rows.rend()};
}

}  // namespace

std::vector<PartMean> part_means(const Record& record, std::span<const float> history) {
  std::vector<PartMean> means;
  for (const PartLoad& p : record.balance.parts) means.push_back({p.part});
  const std::size_t row = 2 * means.size();
  const std::vector<std::size_t> rows = rows_of_means(record);
  if (rows.empty() || history.size() != row * record.history.size()) return {};
  const auto count = static_cast<double>(rows.size());
  for (const std::size_t i : rows)
    for (std::size_t p = 0; p < means.size(); ++p) {
      const float* of_part = &history[i * row + 2 * p];
      means[p].cd += static_cast<double>(of_part[0]) / count;
      means[p].cl += static_cast<double>(of_part[1]) / count;
    }
  add_up(means, &PartMean::cd, record.convergence.cd.mean);
  add_up(means, &PartMean::cl, record.convergence.cl.mean);
  return means;
}

std::vector<VehicleMean> vehicle_means(const Record& record,
                                       const std::vector<VehicleGroup>& groups,
                                       std::span<const float> history) {
  std::vector<VehicleMean> means;
  const std::vector<PartLoad>& parts = record.balance.parts;
  const std::size_t row = 2 * parts.size();
  const WindowMean& all = record.convergence.cd;
  const std::vector<std::size_t> rows = rows_of_means(record);
  const std::size_t count = rows.size();
  if (count == 0 || history.size() != row * record.history.size()) return {};
  for (const VehicleGroup& g : groups) {
    if (!g.present) continue;
    std::vector<double> cd(count), cl(count);
    for (std::size_t p = 0; p < parts.size(); ++p)
      for (std::size_t i = 0; group_of(groups, parts[p].part).name == g.name && i < count; ++i) {
        const float* of_part = &history[rows[i] * row + 2 * p];
        cd[i] += static_cast<double>(of_part[0]), cl[i] += static_cast<double>(of_part[1]);
      }
    const double to_own = record.reference.frontal_area / g.frontal_area;
    for (std::size_t i = 0; i < count; ++i) cd[i] *= to_own, cl[i] *= to_own;
    means.push_back(
        {g.name, g.frontal_area, window_mean(cd, all.memory), window_mean(cl, all.memory)});
  }
  return means;
}

}  // namespace dunefield
