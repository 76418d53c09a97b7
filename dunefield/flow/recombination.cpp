#include <dunefield/flow/recombination.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>
#include <span>
#include <utility>

#include <Eigen/Cholesky>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/flow_solver.hpp>

namespace dunefield {
namespace {

// Measured on the demo van (docs/theory/method.md, "Judging"): six pairs are as good as
// twenty-four.
constexpr int most_pairs = 6;
// of the mean square of the changes of f: pairs that are nearly alike must not be played against
// each other
constexpr double ridge = 1e-6;
constexpr int few = 3;          // changes of which the least counts
constexpr int longer = 14;      // iterations from x to g; even, since turbulence takes every second
constexpr double furthest = 3;  // times what the iteration gave, for what must stay positive

/// An array of vectors or numbers as numbers.
template <class Range>
auto flat(Range& v) {
  using T = std::remove_reference_t<decltype(v[0])>;
  using Number = std::conditional_t<std::is_const_v<T>, const double, double>;
  return std::span<Number>(reinterpret_cast<Number*>(v.data()),
                           v.size() * sizeof(T) / sizeof(double));
}

double product(std::span<const float> a, std::span<const float> b) {
  double sum = 0;
  for (std::size_t i = 0; i < a.size(); ++i)
    sum += static_cast<double>(a[i]) * static_cast<double>(b[i]);
  return sum;
}

}  // namespace

bool RecombinationState::fits(std::size_t own) const {
  const auto is = [](const auto& v, std::size_t size) { return v.empty() || v.size() == size; };
  if (counts.size() != 1) return false;
  const Counts& c = counts[0];
  return c.phase >= Phase::off && c.phase <= Phase::given_up && c.pairs >= 0 &&
         c.pairs <= most_pairs && c.next >= 0 && c.next < most_pairs && c.length > 0 &&
         c.gone >= 0 && is(before, 4 * own) && is(last_f, 4 * own) &&
         is(changes_f, most_pairs * 4 * own) && is(last_g, start.size()) &&
         is(changes_g, most_pairs * last_g.size()) && is(gram, most_pairs * most_pairs);
}

void Recombination::begin() {
  if (phase() == Phase::off) counts().phase = Phase::asked_for;
}

/// What a run goes on from, as one row of numbers.
std::vector<double> Recombination::numbers() const {
  std::vector<double> all;
  SolverState::visit_values(std::as_const(s_), [&](const auto& v) {
    const auto these = flat(v);
    all.insert(all.end(), these.begin(), these.end());
  });
  return all;
}

void Recombination::go_back() {
  const double* from = r_.start.data();
  SolverState::visit_values(s_, [&](auto& v) {
    for (double& x : flat(v)) x = *from++;
  });
}

void Recombination::give_up() {
  const double now = change();
  counts() = {.phase = Phase::given_up, .change = now};
  for (auto* v : {&r_.last_f, &r_.changes_f, &r_.changes_g}) *v = {};
  for (auto* v : {&r_.start, &r_.last_g, &r_.gram}) *v = {};
}

bool Recombination::after(int iteration) {
  ++counts().gone;
  const bool first = r_.before.empty(), was_working = phase() == Phase::working;
  if (first ? iteration % every != 0 : counts().gone < counts().length) return false;
  if (!first) {
    std::vector<float> f;
    measure(f);
    if (was_working && !r_.last_f.empty())
      work_on(f);
    else {
      double sums[2] = {product(f, f), volume()};
      s_.comm.sum(sums);
      note_change(sums[0], sums[1]);
      if (phase() == Phase::asked_for)
        begin(f);
      else if (was_working)
        gather_from(f);
    }
  }
  take_before();
  return was_working;
}

/// Per ten iterations.
void Recombination::note_change(double squares, double volume) {
  counts().change = std::sqrt(squares / volume) * every / counts().length;
}

/// All products over ranks in one reduction.
void Recombination::work_on(const std::vector<float>& f) {
  const int newest = counts().next;
  add_pair(f);
  const auto change_of_f = [&](int i) {
    return std::span<const float>(r_.changes_f).subspan(at(i) * f.size(), f.size());
  };
  std::array<double, 2 + 2 * most_pairs> sums = {product(f, f), volume()};
  double *with_f = &sums[2], *with_newest = with_f + most_pairs;
  for (int i = 0; i < counts().pairs; ++i)
    with_f[i] = product(change_of_f(i), f),
    with_newest[i] = product(change_of_f(i), change_of_f(newest));
  s_.comm.sum(sums);
  for (int i = 0; i < most_pairs; ++i)
    r_.gram[at(i * most_pairs + newest)] = r_.gram[at(newest * most_pairs + i)] = with_newest[i];
  note_change(sums[0], sums[1]);
  r_.falls.push_back(change());
  if (hopeless()) {
    go_back();
    return give_up();
  }
  recombine(factors(with_f));
  keep_turbulence_near_g();
  if (stalls()) counts().length = longer, r_.last_f.clear(), r_.falls.resize(1);
}

double Recombination::volume() const {
  return std::accumulate(s_.mesh.volume.begin(), s_.mesh.volume.begin() + s_.mesh.own, 0.0);
}

void Recombination::take_before() {
  counts().gone = 0;
  r_.before.resize(4 * at(s_.mesh.own));
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    const Vec3& u = s_.u[c];
    const double values[] = {u.x, u.y, u.z, s_.p[c]};
    std::copy(std::begin(values), std::end(values), &r_.before[4 * c]);
  }
}

void Recombination::measure(std::vector<float>& f) const {
  const double speed = s_.flow_case.reference_speed;
  f.resize(r_.before.size());
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    const double weight = std::sqrt(s_.mesh.volume[c]) / speed;
    const double *b = &r_.before[4 * c], now[] = {s_.u[c].x, s_.u[c].y, s_.u[c].z};
    for (std::size_t i = 0; i < 3; ++i) f[4 * c + i] = static_cast<float>(weight * (now[i] - b[i]));
    f[4 * c + 3] = static_cast<float>(weight / speed * (s_.p[c] - b[3]));
  }
}

void Recombination::begin(const std::vector<float>& f) {
  const double now = change();
  counts() = {.phase = Phase::working, .change = now};
  r_.falls = {now};
  gather_from(f);
  r_.start = r_.last_g;
}

void Recombination::gather_from(const std::vector<float>& f) {
  counts().pairs = counts().next = 0;
  r_.last_f = f, r_.last_g = numbers();
  r_.changes_f.resize(most_pairs * f.size());
  r_.changes_g.resize(most_pairs * r_.last_g.size());
  r_.gram.assign(most_pairs * most_pairs, 0.0);
}

/// The newest changes in the place of the oldest.
void Recombination::add_pair(const std::vector<float>& f) {
  RecombinationState::Counts& n = counts();
  float* df = &r_.changes_f[at(n.next) * f.size()];
  for (std::size_t i = 0; i < f.size(); ++i) df[i] = f[i] - r_.last_f[i];
  r_.last_f = f;
  float* dg = &r_.changes_g[at(n.next) * r_.last_g.size()];
  double* last = r_.last_g.data();
  SolverState::visit_values(s_, [&](const auto& v) {
    for (const double g : flat(v)) *dg++ = static_cast<float>(g - *last), *last++ = g;
  });
  n.next = (n.next + 1) % most_pairs, n.pairs = std::min(n.pairs + 1, most_pairs);
}

std::vector<double> Recombination::factors(const double* products_with_f) const {
  const int n = counts().pairs;
  Eigen::MatrixXd a(n, n);
  Eigen::VectorXd b(n);
  for (int i = 0; i < n; ++i) {
    b(i) = products_with_f[i];
    for (int j = 0; j < n; ++j) a(i, j) = r_.gram[at(i * most_pairs + j)];
  }
  a += Eigen::MatrixXd::Identity(n, n) * (ridge * a.trace() / n);
  const Eigen::VectorXd gamma = a.ldlt().solve(b);
  if (!gamma.allFinite()) return std::vector<double>(at(n), 0.0);
  return {gamma.data(), gamma.data() + n};
}

void Recombination::recombine(const std::vector<double>& factors) {
  const float* first = r_.changes_g.data();
  const std::size_t size = r_.last_g.size();
  constexpr std::size_t block = 512;  // numbers that stay in the first cache
  const auto less_the_sum = [&](std::span<double> values) {
    for (std::size_t from = 0; from < values.size(); from += block) {
      const std::size_t count = std::min(block, values.size() - from);
      for (std::size_t j = 0; j < factors.size(); ++j) {
        const float* change = first + j * size + from;
        double* value = &values[from];
        for (std::size_t i = 0; i < count; ++i)
          value[i] -= factors[j] * static_cast<double>(change[i]);
      }
    }
    first += values.size();
  };
  SolverState::visit_values(s_, [&](auto& v) { less_the_sum(flat(v)); });
}

/// Turbulence must stay positive.
void Recombination::keep_turbulence_near_g() {
  const double* g = r_.last_g.data();
  for_each_field([&]<class T>(const Field<T>& field) {
    if (!field.carried) return;
    auto& values = s_.*field.values;
    if constexpr (std::is_same_v<T, double>)
      if (field.values != &Fields::p)
        for (std::size_t c = 0; c < values.size(); ++c)
          values[c] = std::clamp(values[c], g[c] / furthest, g[c] * furthest);
    g += flat(values).size();
  });
}

/// The least change of three in a row, so many before the last.
double Recombination::lately(std::size_t ago) const {
  const auto end = r_.falls.end() - static_cast<std::ptrdiff_t>(ago);
  return *std::min_element(end - few, end);
}

/// Six times have not halved a change under a tenth.
bool Recombination::stalls() const {
  constexpr std::size_t patience = 6;
  constexpr double small = 0.1;
  return counts().length == every && r_.falls.size() >= patience + few &&
         lately(0) < small * r_.falls[0] && lately(0) > 0.5 * lately(patience);
}

/// Twelve times have not halved the change, and it is not at rest; or twenty have not made it a
/// fifth (where it did come to rest, it took ten to thirty in all).
bool Recombination::hopeless() const {
  constexpr std::size_t patience = 12, enough = 20;
  constexpr double rest = 0.02, fifth = 0.2;
  if (r_.falls.size() < patience + few) return false;
  if (r_.falls.size() >= enough && lately(0) > fifth * r_.falls[0]) return true;
  return lately(0) > 0.5 * lately(patience) && lately(0) > rest * r_.falls[0];
}

}  // namespace dunefield
