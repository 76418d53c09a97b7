// Manufactured velocity, pressure, k and omega: what the equations leave of them is given back as
// sources.
#include <gtest/gtest.h>

#include <numbers>

#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

constexpr double pi = std::numbers::pi;

using Scalar = std::function<double(const Vec3&)>;

/// Derivatives to fourth order in the step, whose own error is far below that of the meshes.
double slope(const Scalar& f, const Vec3& x, int i) {
  constexpr double h = 0.005;
  Vec3 e;
  e[i] = h;
  return (8 * (f(x + e) - f(x - e)) - (f(x + e * 2.0) - f(x - e * 2.0))) / (12 * h);
}
Vec3 gradient(const Scalar& f, const Vec3& x) { return {slope(f, x, 0), slope(f, x, 1), 0}; }

/// A stream across the unit square with waves on it; k and omega have a bump in the middle.
struct Manufactured {
  double nu, intensity;
  static constexpr double ratio = 1;
  double k0 = 1.5 * intensity * intensity, w0 = k0 / (ratio * nu);
  // Menter, Kuntz, Langtry 2003, far from walls.
  static constexpr double beta_star = 0.09, beta = 0.0828, alpha = 0.44, sigma_k = 1,
                          sigma_omega = 0.856;

  static double bump(const Vec3& x) {
    return 1 + 0.3 * std::pow(std::sin(pi * x.x) * std::sin(pi * x.y), 2);
  }
  static Vec3 u(const Vec3& x) {
    return {1 + 0.05 * std::sin(pi * x.x) * std::cos(pi * x.y),
            0.5 - 0.05 * std::cos(pi * x.x) * std::sin(pi * x.y), 0};
  }
  static double p(const Vec3& x) { return 0.1 * std::cos(pi * x.x) * std::cos(pi * x.y); }
  double k(const Vec3& x) const { return k0 * bump(x); }
  double w(const Vec3& x) const { return w0 * (0.5 + 0.5 * bump(x)); }
  double nu_t(const Vec3& x) const { return k(x) / w(x); }

  double strain(const Vec3& x, int i, int j) const {
    return slope([&](const Vec3& y) { return u(y)[i]; }, x, j) +
           slope([&](const Vec3& y) { return u(y)[j]; }, x, i);
  }
  Vec3 force(const Vec3& x) const {
    Vec3 f = gradient([](const Vec3& y) { return p(y); }, x);
    for (int i = 0; i < 2; ++i)
      for (int j = 0; j < 2; ++j)
        f[i] += slope(
            [&, i, j](const Vec3& y) {
              return u(y)[i] * u(y)[j] - (nu + nu_t(y)) * strain(y, i, j);
            },
            x, j);
    return f;
  }
  double carried(const Scalar& q, double sigma, const Vec3& x) const {
    double sum = 0;
    for (int j = 0; j < 2; ++j)
      sum += slope(
          [&, j](const Vec3& y) {
            return u(y)[j] * q(y) - (nu + sigma * nu_t(y)) * slope(q, y, j);
          },
          x, j);
    return sum;
  }
  std::pair<double, double> sources(const Vec3& x) const {
    const Scalar fk = [this](const Vec3&y) { return k(y); },
                 fw = [this](const Vec3&y) { return w(y); };
    double s2 = 0;
    for (int i = 0; i < 2; ++i)
      for (int j = 0; j < 2; ++j) s2 += 0.5 * std::pow(strain(x, i, j), 2);
    const double cross = 2 * sigma_omega / w(x) * dot(gradient(fk, x), gradient(fw, x));
    // The stream's own decay is made up for, everywhere.
    return {carried(fk, sigma_k, x) - nu_t(x) * s2 + beta_star * (k(x) * w(x) - k0 * w0),
            carried(fw, sigma_omega, x) - alpha * s2 + beta * (w(x) * w(x) - w0 * w0) - cross};
  }
  FlowCase flow_case() const {
    const auto given = [] { return stream([](const Vec3& x) { return u(x); }); };
    FlowCase c = laminar(nu, {given(), given(), given(), given(), slip(), slip()});
    c.options.turbulence = TurbulenceModel::sst;
    c.options.stream_turbulence = {intensity, ratio};
    c.options.body_force = [*this](const Vec3& x) { return force(x); };
    c.options.turbulence_source = [*this](const Vec3& x) { return sources(x); };
    return c;
  }
};

struct Errors {
  double u, k, w;
};

Errors errors(const VolumeMesh& mesh, const Manufactured& m) {
  const Solution s = solve(mesh, m.flow_case(), 400, 1e-8);
  EXPECT_LT(s.residual, 1e-6);
  return {rms_error(mesh, s.fields.u, [](const Vec3& x) { return Manufactured::u(x); }),
          rms_error(mesh, s.fields.k, [&](const Vec3& x) { return m.k(x); }) / m.k0,
          rms_error(mesh, s.fields.omega, [&](const Vec3& x) { return m.w(x); }) / m.w0};
}

double order(double coarse, double fine) { return std::log2(coarse / fine); }

void expect_second_order(const Manufactured& m) {
  // Interior points wander, the sides stay.
  const auto sheared = [](int n) {
    return structured_mesh(n, n, 1, [n](const Vec3& a) {
      const double bump = 0.05 * std::sin(pi * a.x) * std::sin(pi * a.y);
      return Vec3{a.x + bump * std::sin(2 * pi * a.y), a.y + bump, a.z / n};
    });
  };
  const Errors coarse = errors(sheared(24), m), fine = errors(sheared(48), m);
  EXPECT_GE(order(coarse.u, fine.u), 1.8) << coarse.u << " " << fine.u;
  EXPECT_GE(order(coarse.k, fine.k), 1.8) << coarse.k << " " << fine.k;
  EXPECT_GE(order(coarse.w, fine.w), 1.8) << coarse.w << " " << fine.w;
}

TEST(ManufacturedTurbulence, IsSecondOrder) { expect_second_order({0.01, 0.2}); }

/// Cell Reynolds numbers of thousands, and sources that are slow against the stream.
TEST(ManufacturedTurbulence, IsSecondOrderWhereConvectionAloneDecides) {
  expect_second_order({1e-5, 0.002});
}

}  // namespace
}  // namespace dunefield::test
