#include <dunefield/flow/turbulence/scalar_transport.hpp>

#include <algorithm>

#include <dunefield/flow/turbulence/transport_face.hpp>

namespace dunefield {
namespace {

constexpr double speed_floor = 0.3;  // of the reference speed in the pseudo-time, as for momentum

/// A quantity after a step. A cell that loses it step after step, as badly shaped ones may, must
/// not end where its square is no number any more.
double never_negative(double q, double change, double stream) {
  constexpr double smallest_step = 0.1;  // of the value it had
  constexpr double least = 1e-8;         // of the stream's, far below what any flow has
  return std::max({q + change, smallest_step * q, least * stream});
}

}  // namespace

template <std::size_t N>
ScalarTransport<N>::ScalarTransport(FlowState& state, const std::array<Quantity, N>& quantities,
                                    const PairedSource& source)
    : s_(state), quantities_(quantities) {
  const std::size_t cells = at(s_.mesh.cells);
  for (auto& v : gamma) v.resize(cells);
  for (auto& v : gradient) v.resize(cells);
  outflux_.resize(cells);
  for (auto* v : {&rhs_, &diagonal_, &delta_}) v->resize(cells);
  matrix_.resize(s_.mesh.graph);
  if (!source) return;
  given_.resize(cells);
  for (std::size_t c = 0; c < cells; ++c) {
    const auto [first, second] = source(s_.mesh.centre[c]);
    const double both[2] = {first * s_.mesh.volume[c], second * s_.mesh.volume[c]};
    std::copy_n(both, N, given_[c].of.begin());
  }
}

template <std::size_t N>
void ScalarTransport<N>::start() {
  for (std::size_t i = 0; i < N; ++i)
    std::fill(values(i).begin(), values(i).end(), quantities_[i].stream);
}

template <std::size_t N>
void ScalarTransport<N>::find_gradients() {
  const StageClock::Scope timed(s_.clock, Stage::gradients);
  Gradients::Scalars<N> all;
  Gradients::Outputs<N> into;
  for (std::size_t i = 0; i < N; ++i) all[i] = &values(i), into[i] = &gradient[i];
  s_.gradients.of_scalars<N>(all, into);
  for (auto& g : gradient) s_.halo.refresh(g);
}

template <std::size_t N>
void ScalarTransport<N>::assemble() {
  if (given_.empty())
    std::fill(rhs_.begin(), rhs_.end(), Several<double, N>{});
  else
    rhs_ = given_;
  std::fill(diagonal_.begin(), diagonal_.end(), Several<double, N>{});
  std::fill(outflux_.begin(), outflux_.end(), 0.0);
  const FlowMesh& m = s_.mesh;
  const std::size_t nf = m.faces();
  for (std::size_t f = 0; f < nf; ++f) {
    const TransportFace t(m, f, s_.flux[f]);
    auto& of_below = matrix_.entry[at(m.slots.of_below[f])].of;
    auto& of_above = matrix_.entry[at(m.slots.of_above[f])].of;
    for (std::size_t i = 0; i < N; ++i) {
      const std::vector<double>& q = values(i);
      const double slope = quantities_[i].falls_steeply ? t.slope_of_inverse_square(q) : 1;
      const typename TransportFace::Carried c = t.carried(q, gradient[i], gamma[i], slope);
      rhs_[t.a].of[i] += c.into_a, rhs_[t.b].of[i] += c.into_b;
      const double from_b = c.diffusion + t.out_b, from_a = c.diffusion + t.out_a;
      of_below[i] = -static_cast<float>(from_b), of_above[i] = -static_cast<float>(from_a);
      diagonal_[t.a].of[i] += from_b, diagonal_[t.b].of[i] += from_a;
    }
    outflux_[t.a] += t.out_a, outflux_[t.b] += t.out_b;
  }
  add_boundaries();
}

template <std::size_t N>
void ScalarTransport<N>::add_boundaries() {
  s_.for_boundary([&](std::size_t f, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    const double phi = s_.boundary_flux[f];
    outflux_[c] += std::max(phi, 0.0);
    const bool comes_back = passes_air(bc.kind) && phi < 0;
    if (bc.kind != ConditionKind::stream && !comes_back) return;
    const double convection = std::max(-phi, 0.0);
    for (std::size_t i = 0; i < N; ++i) {
      const double d = bc.kind == ConditionKind::stream ? gamma[i][c] * b.size / b.height : 0;
      rhs_[c].of[i] += (d + convection) * (quantities_[i].stream - values(i)[c]);
      diagonal_[c].of[i] += d + convection;
    }
  });
}

template <std::size_t N>
double ScalarTransport<N>::rate(std::size_t c, double courant) const {
  return std::max(outflux_[c], speed_floor * s_.flow_case.reference_speed * s_.mesh.side2[c]) /
         courant;
}

template <std::size_t N>
void ScalarTransport<N>::solve() {
  gauss_seidel(s_.mesh.graph, matrix_, rhs_, delta_, s_.flow_case.options.turbulence_sweeps,
               s_.halo);
  for (std::size_t c = 0; c < at(s_.mesh.cells); ++c)
    for (std::size_t i = 0; i < N; ++i) {
      double& q = values(i)[c];
      q = never_negative(q, delta_[c].of[i], quantities_[i].stream);
    }
}

template class ScalarTransport<1>;
template class ScalarTransport<2>;

WallCells::WallCells(const FlowState& state) : number_(at(state.mesh.own), -1) {
  state.for_boundary(
      [&](std::size_t, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
        if (bc.kind != ConditionKind::wall) return;
        int& i = number_[at(b.cell)];
        if (i < 0) i = static_cast<int>(area_.size()), area_.push_back(0);
        area_[at(i)] += b.size;
      });
}

}  // namespace dunefield
