#include <dunefield/look/smoke_shapes.hpp>

#include <cmath>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

/// The pieces of a line that beads cover: `filled` of every `period` seconds, from `phase` on.
void add_beads(Bundle& out, const Streamline& line, const std::vector<double>& values,
               double period, double phase) {
  constexpr double filled = 0.35;
  const auto number = [&](double t) { return t / period - phase; };
  Strand now;
  const auto end = [&] {
    if (now.points.size() > 1) out.strands.push_back(std::move(now));
    now = {};
  };
  for (std::size_t i = 0; i < line.points.size(); ++i) {
    const double share = number(line.time[i]) - std::floor(number(line.time[i]));
    if (share > filled) {
      end();
      continue;
    }
    now.points.push_back(line.points[i]);
    if (!values.empty()) now.values.push_back(values[i]);
  }
  end();
}

/// Finer, so that beads end where they should.
Streamline refined(const Streamline& line, std::vector<double>& values, double step) {
  Streamline out;
  std::vector<double> fine;
  for (std::size_t i = 0; i < line.points.size(); ++i) {
    if (i > 0) {
      const int n = std::min(200, static_cast<int>((line.time[i] - line.time[i - 1]) / step));
      for (int k = 1; k < n; ++k) {
        const double s = static_cast<double>(k) / n;
        out.points.push_back(line.points[i - 1] * (1 - s) + line.points[i] * s);
        out.time.push_back(line.time[i - 1] * (1 - s) + line.time[i] * s);
        if (!values.empty()) fine.push_back(values[i - 1] * (1 - s) + values[i] * s);
      }
    }
    out.points.push_back(line.points[i]), out.time.push_back(line.time[i]);
    if (!values.empty()) fine.push_back(values[i]);
  }
  values = std::move(fine);
  return out;
}

}  // namespace

Bundle smoke_bundle(const SmokeLook& look, const std::vector<Streamline>& lines,
                    const std::vector<std::vector<double>>& values, double usual_radius) {
  Bundle b;
  b.name = look.name, b.quantity = look.quantity;
  b.colour = {0.42, 0.44, 0.46};
  b.lit = look.form != SmokeLook::Form::lines;
  b.arrows = look.form == SmokeLook::Form::arrows;
  if (b.lit) b.radius = look.radius > 0 ? look.radius : usual_radius;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    if (lines[i].points.size() < 2) continue;
    std::vector<double> own = values.empty() ? std::vector<double>() : values[i];
    if (look.form == SmokeLook::Form::beads) {
      // A bead and its gap: thirty radii of undisturbed air.
      const double period = 30 * b.radius /
                            (norm(lines[i].points[1] - lines[i].points[0]) /
                             std::max(1e-12, lines[i].time[1] - lines[i].time[0]));
      const Streamline fine = refined(lines[i], own, 0.05 * period);
      add_beads(b, fine, own, period, look.phase);
    } else {
      b.strands.push_back({lines[i].points, std::move(own)});
    }
  }
  return b;
}

Sheet smoke_ribbons(const SmokeLook& look, const std::vector<Streamline>& lines,
                    const std::vector<std::vector<double>>& values,
                    const std::vector<std::vector<double>>& turning, double half_width) {
  Sheet s;
  s.name = look.name, s.quantity = look.quantity;
  s.colour = {0.55, 0.57, 0.59};
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const auto& p = lines[i].points;
    if (p.size() < 2) continue;
    double angle = 0;
    Vec3 across;
    for (std::size_t k = 0; k < p.size(); ++k) {
      const Vec3 way = unit(p[std::min(k + 1, p.size() - 1)] - p[k > 0 ? k - 1 : 0]);
      if (k > 0) angle += 0.5 * turning[i][k] * (lines[i].time[k] - lines[i].time[k - 1]);
      // Carried on without twisting, then turned by what the flow turns.
      across = k == 0 ? unit(cross({0, 0, 1}, way)) : across;
      if (norm(across) < 0.5) across = {0, 1, 0};
      across = unit(across - way * dot(across, way));
      const Vec3 up = cross(way, across);
      const Vec3 side = across * std::cos(angle) + up * std::sin(angle);
      const int n = static_cast<int>(s.points.size());
      s.points.push_back(p[k] - side * half_width), s.points.push_back(p[k] + side * half_width);
      const Vec3 normal = cross(way, side);
      s.normals.push_back(normal), s.normals.push_back(normal);
      if (!values.empty()) s.values.push_back(values[i][k]), s.values.push_back(values[i][k]);
      if (k > 0) s.triangles.push_back({n - 2, n - 1, n}), s.triangles.push_back({n - 1, n + 1, n});
    }
  }
  return s;
}

void add_heads(Bundle& bundle, double length, const Vec3& towards_eye) {
  const std::size_t count = bundle.strands.size();
  for (std::size_t i = 0; i < count; ++i) {
    const Strand s = bundle.strands[i];
    if (s.points.size() < 2) continue;
    const Vec3 tip = s.points.back(), way = unit(tip - s.points[s.points.size() - 2]);
    Vec3 side = unit(cross(way, towards_eye));
    if (norm(side) < 0.5) side = unit(cross(way, {0, 0, 1}));
    const double own = std::min(length, 0.4 * norm(tip - s.points.front()));
    for (const double sign : {1.0, -1.0}) {
      Strand head{{tip, tip - way * own + side * (sign * 0.45 * own)}, {}};
      if (!s.values.empty()) head.values = {s.values.back(), s.values.back()};
      bundle.strands.push_back(std::move(head));
    }
  }
}

}  // namespace dunefield
