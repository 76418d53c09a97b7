#include <dunefield/campaign/starts.hpp>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

/// The first run before number `i` that is like it but for what `like` leaves out.
template <class Like>
int first_before(const std::vector<MatrixRun>& matrix, int i, const Like& like) {
  for (int j = 0; j < i; ++j)
    if (like(matrix[at(j)], matrix[at(i)])) return j;
  return from_nothing;
}

template <class Like>
int last_before(const std::vector<MatrixRun>& matrix, int i, const Like& like) {
  for (int j = i - 1; j >= 0; --j)
    if (like(matrix[at(j)], matrix[at(i)])) return j;
  return from_nothing;
}

int start(const std::vector<MatrixRun>& matrix, int i) {
  using Run = const MatrixRun&;
  const int other_speed = first_before(matrix, i, [](Run a, Run b) {
    return a.variant == b.variant && a.setting == b.setting && a.lattice == b.lattice;
  });
  if (other_speed >= 0) return other_speed;
  const int setting_before = last_before(matrix, i, [](Run a, Run b) {
    return a.variant == b.variant && a.speed == b.speed && a.lattice == b.lattice;
  });
  if (setting_before >= 0) return setting_before;
  const int first_lattice = first_before(matrix, i, [](Run a, Run b) {
    return a.variant == b.variant && a.speed == b.speed && a.setting == b.setting;
  });
  if (first_lattice >= 0) return first_lattice;
  return first_before(matrix, i,
                      [](Run a, Run b) { return a.speed == b.speed && a.lattice == b.lattice; });
}

}  // namespace

std::vector<int> starts(const std::vector<MatrixRun>& matrix) {
  std::vector<int> of;
  for (int i = 0; i < static_cast<int>(matrix.size()); ++i) of.push_back(start(matrix, i));
  return of;
}

std::vector<int> baseline_runs(const std::vector<MatrixRun>& matrix, std::size_t baseline) {
  std::vector<int> of;
  for (int i = 0; i < static_cast<int>(matrix.size()); ++i)
    of.push_back(matrix[at(i)].variant == baseline
                     ? from_nothing
                     : first_before(matrix, i, [&](const MatrixRun& a, const MatrixRun& b) {
                         return a.variant == baseline && a.speed == b.speed &&
                                a.setting == b.setting && a.lattice == b.lattice;
                       }));
  return of;
}

}  // namespace dunefield
