#include <dunefield/linear/multigrid.hpp>

#include <algorithm>
#include <cmath>
#include <deque>

#include <Eigen/Dense>

#include <dunefield/base/index.hpp>
#include <dunefield/linear/aggregation.hpp>

namespace dunefield {
namespace {

constexpr int coarsest_cells = 150;      // of all ranks together: solved directly
constexpr float over_correction = 1.5f;  // plain aggregation corrects too little (Braess 1995)

struct Level {
  const Graph* graph = nullptr;               ///< the given one, or `coarse_graph`
  const std::vector<float>* entry = nullptr;  ///< the given ones, or `coarse_entry`
  Graph coarse_graph;
  std::vector<float> coarse_entry;
  std::vector<double> diagonal;  ///< of coarse levels
  std::unique_ptr<Halo> halo;
  std::vector<float> inverse_diagonal;
  std::vector<float> x, rhs;
  // To the next coarser level:
  std::vector<int> aggregate;  ///< of each own and halo cell
  /// Of each entry: coarse entry, or -1 where it falls on the diagonal
  std::vector<int> coarse_slot;
};

}  // namespace

struct PressureSolver::State {
  const Graph* graph;
  Halo* halo;
  Communicator* comm;
  const PressureMatrix* matrix = nullptr;
  std::deque<Level> levels;  // they point to each other's parts
  // Coarsest system of all ranks, on every rank.
  std::vector<int> first_row;
  Eigen::LDLT<Eigen::MatrixXd> direct;
  std::vector<double> r, p, q;

  void build();
  void refresh();
  void factor();
  void solve_coarsest(Level& level);
  void cycle(std::size_t l);
  double multiply_direction();
};

PressureSolver::PressureSolver(const Graph& graph, Halo& halo) : state_(std::make_unique<State>()) {
  state_->graph = &graph, state_->halo = &halo, state_->comm = &halo.comm();
}
PressureSolver::~PressureSolver() = default;

int PressureSolver::levels() const { return static_cast<int>(state_->levels.size()); }

void PressureSolver::State::build() {
  Level& finest = levels.emplace_back();
  finest.graph = graph, finest.entry = &matrix->entry;
  finest.halo = std::make_unique<Halo>(*comm, halo->plan());
  for (;;) {
    Level& fine = levels.back();
    const Graph& g = *fine.graph;
    const double all = comm->sum(double(g.rows));
    if (all <= coarsest_cells || levels.size() > 30) break;
    int count = 0;
    fine.aggregate = aggregate_rows(g, *fine.entry, count);
    if (comm->sum(double(count)) > 0.9 * all) break;  // coarsening has stalled
    HaloPlan plan = coarsen_halo(*fine.halo, fine.aggregate, count);
    int columns = count;
    for (const auto& n : plan.neighbours) columns += n.received;
    Level& coarse = levels.emplace_back();
    coarse.coarse_graph = coarsen(g, fine.aggregate, count, columns, fine.coarse_slot);
    coarse.graph = &coarse.coarse_graph, coarse.entry = &coarse.coarse_entry;
    coarse.halo = std::make_unique<Halo>(*comm, std::move(plan));
    coarse.coarse_entry.resize(at(coarse.coarse_graph.entries()));
    coarse.diagonal.resize(at(count));
    add_entries(*fine.entry, fine.coarse_slot, coarse.coarse_entry);
  }
  for (Level& l : levels) {
    l.inverse_diagonal.resize(at(l.graph->rows));
    l.x.resize(at(l.graph->columns));
    l.rhs.resize(at(l.graph->rows));
  }
  first_row = {0};
  for (const auto& n : comm->all_gather(std::vector<int>{levels.back().graph->rows}))
    first_row.push_back(first_row.back() + n[0]);
}

void PressureSolver::State::refresh() {
  levels[0].entry = &matrix->entry;
  for (std::size_t l = 0; l < levels.size(); ++l) {
    Level& fine = levels[l];
    const Graph& g = *fine.graph;
    const std::vector<double>& diagonal = l == 0 ? matrix->diagonal : fine.diagonal;
    for (std::size_t i = 0; i < fine.inverse_diagonal.size(); ++i)
      fine.inverse_diagonal[i] = static_cast<float>(1 / diagonal[i]);
    if (l + 1 == levels.size()) break;
    Level& coarse = levels[l + 1];
    std::fill(coarse.coarse_entry.begin(), coarse.coarse_entry.end(), 0.f);
    std::fill(coarse.diagonal.begin(), coarse.diagonal.end(), 0.0);
    for (int i = 0; i < g.rows; ++i) {
      double sum = diagonal[at(i)];
      for (int k = g.start[at(i)]; k < g.start[at(i) + 1]; ++k) {
        const int slot = fine.coarse_slot[at(k)];
        if (slot >= 0)
          coarse.coarse_entry[at(slot)] += (*fine.entry)[at(k)];
        else
          sum += static_cast<double>((*fine.entry)[at(k)]);
      }
      coarse.diagonal[at(fine.aggregate[at(i)])] += sum;
    }
  }
  factor();
}

void PressureSolver::State::factor() {
  const Level& level = levels.back();
  const Graph& g = *level.graph;
  const std::vector<double>& diagonal = levels.size() == 1 ? matrix->diagonal : level.diagonal;
  const int n = first_row.back();
  // Global column numbers of the halo cells, by asking their owners.
  std::vector<int> global(at(g.columns));
  for (int i = 0; i < g.rows; ++i) global[at(i)] = first_row[at(comm->rank())] + i;
  level.halo->refresh(global);
  struct Triple {
    int row, column;
    double value;
  };
  std::vector<Triple> mine;
  for (int i = 0; i < g.rows; ++i) {
    mine.push_back({global[at(i)], global[at(i)], diagonal[at(i)]});
    for (int k = g.start[at(i)]; k < g.start[at(i) + 1]; ++k)
      mine.push_back({global[at(i)], global[at(g.column[at(k)])], (*level.entry)[at(k)]});
  }
  Eigen::MatrixXd dense = Eigen::MatrixXd::Zero(n, n);
  for (const auto& triples : comm->all_gather(mine))
    for (const Triple& t : triples) dense(t.row, t.column) += t.value;
  // A trifle on the diagonal keeps the singular case solvable; the constant is projected out later.
  dense.diagonal() *= 1 + 1e-6;
  direct.compute(dense);
}

void PressureSolver::State::solve_coarsest(Level& level) {
  Eigen::VectorXd b(first_row.back());
  const auto all =
      comm->size() == 1 ? std::vector<std::vector<float>>{level.rhs} : comm->all_gather(level.rhs);
  Eigen::Index next = 0;
  for (const auto& part : all)
    for (const float v : part) b[next++] = v;
  const Eigen::VectorXd x = direct.solve(b);
  for (int i = 0; i < level.graph->rows; ++i)
    level.x[at(i)] = static_cast<float>(x[first_row[at(comm->rank())] + i]);
  level.halo->refresh(level.x);
}

void PressureSolver::State::cycle(std::size_t l) {
  Level& level = levels[l];
  if (l + 1 == levels.size()) return solve_coarsest(level);
  const Graph& g = *level.graph;
  const float* entry = level.entry->data();
  // Forward sweep from zero: only the columns already visited count.
  for (int i = 0; i < g.rows; ++i) {
    float sum = level.rhs[at(i)];
    for (int k = g.start[at(i)]; k < g.start[at(i) + 1] && g.column[at(k)] < i; ++k)
      sum -= entry[k] * level.x[at(g.column[at(k)])];
    level.x[at(i)] = sum * level.inverse_diagonal[at(i)];
  }
  level.halo->refresh(level.x);
  Level& coarse = levels[l + 1];
  std::fill(coarse.rhs.begin(), coarse.rhs.end(), 0.f);
  for (int i = 0; i < g.rows; ++i) {
    // After the forward sweep only the columns behind the diagonal leave a residual.
    float sum = 0;
    for (int k = g.start[at(i) + 1] - 1; k >= g.start[at(i)] && g.column[at(k)] > i; --k)
      sum -= entry[k] * level.x[at(g.column[at(k)])];
    coarse.rhs[at(level.aggregate[at(i)])] += sum;
  }
  cycle(l + 1);
  for (int i = 0; i < g.columns; ++i)
    level.x[at(i)] += over_correction * coarse.x[at(level.aggregate[at(i)])];
  for (int i = g.rows - 1; i >= 0; --i) {
    float sum = level.rhs[at(i)];
    for (int k = g.start[at(i)]; k < g.start[at(i) + 1]; ++k)
      sum -= entry[k] * level.x[at(g.column[at(k)])];
    level.x[at(i)] = sum * level.inverse_diagonal[at(i)];
  }
  level.halo->refresh(level.x);
}

/// q = matrix p.
/// @return p . q of all ranks
double PressureSolver::State::multiply_direction() {
  halo->refresh(p);
  double pq = 0;
  for (std::size_t i = 0; i < q.size(); ++i) {
    double sum = matrix->diagonal[i] * p[i];
    for (int k = graph->start[i]; k < graph->start[i + 1]; ++k)
      sum += static_cast<double>(matrix->entry[at(k)]) * p[at(graph->column[at(k)])];
    q[i] = sum;
    pq += sum * p[i];
  }
  return comm->sum(pq);
}

void PressureSolver::set_matrix(const PressureMatrix& matrix) {
  state_->matrix = &matrix;
  if (state_->levels.empty()) state_->build();
  state_->refresh();
}

SolveReport PressureSolver::solve(const std::vector<double>& rhs, std::vector<double>& x,
                                  double reduction, int most_iterations, bool singular) {
  State& s = *state_;
  const Graph& g = *s.graph;
  const std::size_t n = at(g.rows);
  Communicator& comm = *s.comm;
  const double all_cells = comm.sum(double(n));
  const auto mean = [&](const auto& v) {
    double sum = 0;
    for (std::size_t i = 0; i < n; ++i) sum += static_cast<double>(v[i]);
    return comm.sum(sum) / all_cells;
  };
  s.r.assign(rhs.begin(), rhs.begin() + static_cast<std::ptrdiff_t>(n));
  s.q.resize(n), s.p.resize(at(g.columns));
  x.assign(at(g.columns), 0.0);
  if (singular)
    for (const double level = mean(s.r); double& r : s.r) r -= level;
  double start = 0;
  for (const double r : s.r) start += r * r;
  start = comm.sum(start);
  SolveReport report;
  if (start == 0) return report;
  double rz_old = 1, alpha = 0, now = start;
  std::vector<float>& z = s.levels[0].x;
  for (; report.iterations < most_iterations && now > reduction * reduction * start;
       ++report.iterations) {
    // Single precision needs values near one.
    const double scale = std::sqrt(now / all_cells);
    for (std::size_t i = 0; i < n; ++i) s.levels[0].rhs[i] = static_cast<float>(s.r[i] / scale);
    s.cycle(0);
    const double level = singular ? mean(z) : 0.0;
    const auto direction = [&](std::size_t i) {
      return (static_cast<double>(z[i]) - level) * scale;
    };
    // r . z, and its change since the last residual, which was larger by alpha q.
    double sums[2] = {0, 0};
    for (std::size_t i = 0; i < n; ++i)
      sums[0] += s.r[i] * direction(i), sums[1] += s.q[i] * direction(i);
    comm.sum(sums);
    const double beta = report.iterations > 0 ? -alpha * sums[1] / rz_old : 0.0;
    if (report.iterations == 0) std::fill(s.p.begin(), s.p.end(), 0.0);
    for (std::size_t i = 0; i < n; ++i) s.p[i] = direction(i) + beta * s.p[i];
    const double pq = s.multiply_direction();
    if (!(pq > 0)) break;
    alpha = sums[0] / pq;
    double norm_r = 0;
    for (std::size_t i = 0; i < n; ++i) {
      x[i] += alpha * s.p[i];
      s.r[i] -= alpha * s.q[i];
      norm_r += s.r[i] * s.r[i];
    }
    now = comm.sum(norm_r);
    rz_old = sums[0];
  }
  report.reduction = std::sqrt(now / start);
  s.halo->refresh(x);
  return report;
}

}  // namespace dunefield
