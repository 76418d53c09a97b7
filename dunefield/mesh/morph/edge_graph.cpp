#include <dunefield/mesh/morph/edge_graph.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double enough = 1e-4;  // of the first residual
constexpr int most_iterations = 1000;

}  // namespace

EdgeGraph edge_graph(const VolumeMesh& m) {
  EdgeGraph g;
  const std::size_t n = m.points.size();
  const auto for_edges = [&](const auto& visit) {
    for (std::size_t f = 0; f < at(m.faces()); ++f)
      for (int k = m.face_start[f]; k < m.face_start[f + 1]; ++k) {
        const int next = k + 1 < m.face_start[f + 1] ? k + 1 : m.face_start[f];
        visit(m.face_points[at(k)], m.face_points[at(next)]);
      }
  };
  std::vector<int> start(n + 1, 0);
  for_edges([&](int a, int b) { ++start[at(a) + 1], ++start[at(b) + 1]; });
  for (std::size_t i = 0; i < n; ++i) start[i + 1] += start[i];
  std::vector<int> all(at(start[n])), filled(start.begin(), start.end() - 1);
  for_edges([&](int a, int b) { all[at(filled[at(a)]++)] = b, all[at(filled[at(b)]++)] = a; });
  // Each edge is met once for each of its faces.
  std::vector<int> kept(n);
  parallel_for(n, [&](std::size_t i) {
    const auto first = all.begin() + start[i], last = all.begin() + start[i + 1];
    std::sort(first, last);
    kept[i] = static_cast<int>(std::unique(first, last) - first);
  });
  g.start.assign(n + 1, 0);
  for (std::size_t i = 0; i < n; ++i) g.start[i + 1] = g.start[i] + kept[i];
  g.neighbour.resize(at(g.start[n])), g.weight.resize(at(g.start[n]));
  parallel_for(n, [&](std::size_t i) {
    for (int k = 0; k < kept[i]; ++k) {
      const int j = all[at(start[i] + k)];
      g.neighbour[at(g.start[i] + k)] = j;
      g.weight[at(g.start[i] + k)] = 1 / std::max(norm2(m.points[i] - m.points[at(j)]), 1e-24);
    }
  });
  return g;
}

void make_harmonic(const EdgeGraph& g, const std::vector<Given>& given, std::vector<Vec3>& x,
                   const Progress& progress) {
  const std::size_t n = x.size();
  std::vector<double> diagonal(n, 0);
  for (std::size_t i = 0; i < n; ++i)
    for (int k = g.start[i]; k < g.start[i + 1]; ++k) diagonal[i] += g.weight[at(k)];
  const auto free_part = [&](std::size_t i, Vec3 v) {
    for (int c = 0; c < 3; ++c)
      if (given[i][at(c)]) v[c] = 0;
    return v;
  };
  const auto laplacian = [&](const std::vector<Vec3>& v, std::size_t i) {
    Vec3 sum = v[i] * diagonal[i];
    for (int k = g.start[i]; k < g.start[i + 1]; ++k)
      sum -= v[at(g.neighbour[at(k)])] * g.weight[at(k)];
    return free_part(i, sum);
  };
  std::vector<Vec3> r(n), p(n), ap(n);
  parallel_for(n, [&](std::size_t i) { r[i] = laplacian(x, i) * -1.0; });
  const auto preconditioned = [&](std::size_t i) {
    return diagonal[i] > 0 ? r[i] / diagonal[i] : Vec3{};
  };
  double rz = parallel_sum(n, [&](std::size_t i) { return dot(r[i], preconditioned(i)); });
  const double first = rz;
  parallel_for(n, [&](std::size_t i) { p[i] = preconditioned(i); });
  for (int it = 0; it < most_iterations && rz > enough * enough * first && rz > 0; ++it) {
    progress.check();
    progress("following", std::clamp(std::log(rz / first) / (2 * std::log(enough)), 0.0, 1.0));
    parallel_for(n, [&](std::size_t i) { ap[i] = laplacian(p, i); });
    const double pap = parallel_sum(n, [&](std::size_t i) { return dot(p[i], ap[i]); });
    if (!(pap > 0)) break;
    const double alpha = rz / pap;
    parallel_for(n, [&](std::size_t i) { x[i] += p[i] * alpha, r[i] -= ap[i] * alpha; });
    const double next =
        parallel_sum(n, [&](std::size_t i) { return dot(r[i], preconditioned(i)); });
    const double beta = next / rz;
    parallel_for(n, [&](std::size_t i) { p[i] = preconditioned(i) + p[i] * beta; });
    rz = next;
  }
}

}  // namespace dunefield
